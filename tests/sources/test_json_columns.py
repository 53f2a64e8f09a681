"""Many values of one name in JSON Lines are read together to what each is by itself."""

import json
import random

import pytest

from even_sieve import read_table
from even_sieve.sources import json_columns, json_lines

FORMS = [
    "2031-01-05", "2031-01-{d:02}T10:{d:02}:00Z", "2031-01-{d:02} 10:00+02:00", "{n}", "{n}.5", "Quay {n}", "",
    "  x{n} ", "#N/A", "#x{n}", "inf", "-Infinity", "true", "1e400", "n/a", "N/A", "–", "2031-02-30",
    "2031-01-05T10:00:00.1234567", "20310105T1030", "{d}e5", "٣{d}", "Ä{n}", "1/2/2031 2:30 PM", "\ud83d",
]  # fmt: skip
OTHERS = [None, 5, 2.5, 1e-7, -0.25, 123456789.123456, 1e300, True, [1], {"a": 1}, 10**400]


@pytest.mark.parametrize("turn", range(20))
def test_texts_are_read_together_to_what_each_is_by_itself(turn, tmp_path, monkeypatch):
    rng = random.Random(seed := random.randrange(10**9))
    some, others = rng.sample(FORMS, rng.randrange(1, 6)), rng.sample(OTHERS, rng.randrange(4))
    values = [
        rng.choice(others)
        if others and rng.random() < 0.2
        else rng.choice(some)
        .replace("{d:02}", "{d}")
        .format(d=rng.randrange(10, 29), n=rng.random())
        for _ in range(2000)
    ]
    records = [{"v": v, "k": k} if k % 7 else {"k": k} for k, v in enumerate(values)]
    (tmp_path / "calls.jsonl").write_text("\n".join(map(json.dumps, records)))

    def read(many):
        monkeypatch.setattr(json_columns, "_MANY", many)
        table = read_table(tmp_path / "calls.jsonl", blank_as=["n/a", "–"] * (turn % 2)).core
        column = table.columns[table.names.index("v")]
        return list(map(repr, column.cells())), [each.text for each in column.notices]

    assert read(10) == read(10**9), seed


def test_many_texts_are_not_read_one_by_one(tmp_path, monkeypatch):
    def alone(*given):
        raise AssertionError("read one by one")

    monkeypatch.setattr(json_columns.TokenReader, "read", alone)
    texts = [f"2031-01-05T10:{at % 60:02}:00.{at:06}" for at in range(3000)]
    lines = [json.dumps({"at": text, "berth": f"Quay {text}"}) for text in texts]
    (tmp_path / "calls.jsonl").write_text("\n".join(lines))
    table = read_table(tmp_path / "calls.jsonl")
    found = table.tally("distinct of at", "distinct of berth")
    assert [each.value for each in found] == [3000, 3000]


#: What stands on lines: most are records, some are parts of one, or several.
LINES = (
    '{"zone": "Outer", "dues": 120.50}', '{"dues": 80, "zone": null}', "", "  ", '{"zone" : "a"}', "{}",
    '{"zone": "[", "dues": "{"}', '{"zone": "},{"}', '{"zone": "\\": 1"}', '{"zone":"a","zone":"b"}',
    '{"a": [1, 2]}', '{"a": [{}', "{}]}", '{"a": {"b": 1, "b": 2}}', '{"a": {"b": 1}}', "{},{}", '{},2,{"b": [{}',
    '{"a": "x', 'y"}', '{"a": "}', '{"}', "[]", "12", '{"a": 1},', ' {"a": 1e400} ', '{"a": NaN}', '\ufeff{"a": 1}',
    '{"a": "' + "9" * 5000 + '"}', '{"a": ' + "9" * 5000 + "}", '{"a":\t1}\r', '{"a": "\\ud800"}', "{" * 3000,
)  # fmt: skip


@pytest.mark.parametrize("seed", range(6))
def test_records_that_are_read_together_are_those_of_each_line(seed):
    rng, together = random.Random(seed), 0
    for _ in range(300):
        sound = LINES[: rng.randrange(5, len(LINES) + 1)]
        lines = [*enumerate(rng.choices(sound, k=rng.randrange(1, 7)), 1)]
        found = json_lines._at_once(lines)
        if found is not None:
            together += 1
            one_by_one = json_lines._one_by_one(lines, "calls")
            told = [(number, repr(record), _kinds(record)) for number, _, record in one_by_one]
            assert told == [(n, repr(record), _kinds(record)) for n, _, record in found]
    assert together > 50


def _kinds(record):
    return [*map(type, record.values())]


def test_names_that_nobody_asks_for_wait_and_are_the_same_then(tmp_path, monkeypatch):
    seed = random.randrange(10**9)
    rng, path = random.Random(seed), tmp_path / "calls.jsonl"
    records = [
        {"dues": rng.choice(OTHERS), "left": rng.choice(FORMS[:7]).format(n=row, d=12), "tons": row}
        for row in range(300)
    ]
    path.write_text("".join(json.dumps(each) + "\n" for each in records))
    at_once = read_table(path)
    monkeypatch.setattr(json_lines, "_MANY_CELLS", 1)
    waiting = read_table(path)
    assert not any(column.is_made for column in waiting.core.columns)
    asked = waiting.tally("sum of tons"), at_once.tally("sum of tons")
    assert asked[0][0].value == asked[1][0].value == 44850
    for name in ("dues", "left"):
        assert list(map(repr, waiting.column(name))) == list(map(repr, at_once.column(name))), seed
    found = [each.tally("rows", where="left is filled").notices for each in (waiting, at_once)]
    assert found[0] == found[1], seed
