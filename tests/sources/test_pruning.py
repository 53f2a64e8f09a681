"""What is left unread changes no figure and no account, and is refused where it could."""

import json
from datetime import date, datetime, timedelta
from decimal import Decimal
from pathlib import Path

import numpy as np
import pyarrow as pa
import pytest
from click.testing import CliRunner, Result
from pyarrow import parquet

from even_sieve import Query, combine, read_table
from even_sieve.cli.main import main
from even_sieve.core.errors import SieveError

_START = datetime(2031, 1, 1)
_LETTERS = ["a", "B", "b", "z", "Z", " ", "0", "9", "ß", "ſ", "\u212a", "k", "é", "e\u0301", "'"]
_MEASURES = ["rows", "sum of n", "filled of text", "max of moment", "distinct of double"]


def _columns(random: np.random.Generator, rows: int) -> dict[str, pa.Array]:
    """Return columns of many types, some of them in order so that their groups have ends apart."""

    def ordered(values: np.ndarray) -> np.ndarray:
        return np.sort(values) if random.random() < 0.7 else values

    def gaps() -> np.ndarray:
        gaps = random.random(rows) < random.choice([0, 0.1])
        start = int(random.integers(rows))
        gaps[start : start + int(random.integers(rows // 3))] |= random.random() < 0.3
        return gaps

    numbers = ordered(random.integers(0, 400, rows))
    doubles = ordered(random.integers(-300, 300, rows) / random.choice([1, 10, 100]))
    doubles[random.random(rows) < random.choice([0, 0.05])] = np.nan
    micros = ordered(random.integers(0, 400 * 86_400, rows)) * 1_000_000 + random.choice([0, 1])
    unit = str(random.choice(["s", "ms", "us", "ns"]))
    zone = random.choice([None, "UTC", "+05:30"])
    moments = [_START + timedelta(microseconds=int(each)) for each in micros]
    few = [*map(str, random.choice(_LETTERS, 3))]
    texts = ["".join(random.choice(_LETTERS if i % 9 else few, 2)) for i in range(rows)]
    texts = sorted(texts) if random.random() < 0.7 else texts
    days = [each.date() for each in moments]
    whole = str(random.choice(["int8", "int64", "uint8", "uint64"]))
    small = numbers % 100 if whole.endswith("8") else numbers
    coded = pa.array(texts, mask=gaps()).dictionary_encode()
    return {
        "n": pa.array(small, pa.type_for_alias(whole), mask=gaps()),
        "double": pa.array(doubles, mask=gaps()),
        "amount": pa.array([Decimal(int(n)) / 8 for n in numbers], pa.decimal128(12, 3)),
        "day": pa.array(days, pa.date32(), mask=gaps()),
        "moment": pa.array(moments, pa.timestamp(unit, zone), mask=gaps(), safe=False),
        "text": coded if random.random() < 0.5 else pa.array(texts, mask=gaps()),
    }


def _criteria(random: np.random.Generator, columns: dict[str, pa.Array]) -> str:
    """Return random criteria whose values stand in the columns, or near them."""

    def condition() -> str:
        name = str(random.choice([*columns]))
        if random.random() < 0.15:
            return f"{name} is {random.choice(['', 'not '])}{random.choice(['blank', 'filled'])}"
        column = columns[name]
        value = column[int(random.integers(len(column)))].as_py()
        if name == "text":
            shown = '"' + (value or "q").replace('"', '""') + '"'
            values = [shown, shown.swapcase(), '"b*"', "zz", "'a b'"]
            return f"text {random.choice(['=', '!='])} {' | '.join(random.choice(values, 2))}"
        if name in ("day", "moment"):
            moment = value or _START
            shapes = ["%Y", "%Y-%m", "%Y-%m-%d"] + ["%Y-%m-%dT%H:%M:%S"] * (name == "moment")
            shown = moment.strftime(str(random.choice(shapes)))
        else:
            shown = str(0 if value is None else value).replace("nan", "0")
        if random.random() < 0.3:
            return f"{name} in {shown}.."
        return f"{name} {random.choice(['=', '!=', '<', '<=', '>', '>='])} {shown}"

    first, second, third = (condition() for _ in range(3))
    shapes = [first, f"{first} and {second}", f"{first} and {second} and not ({third})"]
    shapes += [f"{first} or {second} and {third}", f"not ({first} or {second})"]
    return str(random.choice(shapes))


@pytest.mark.parametrize("seed", range(4))
def test_figures_and_accounts_are_those_of_all_rows(seed: int, tmp_path: Path) -> None:
    random = np.random.default_rng(seed)
    rows, left = int(random.integers(160, 400)), 0
    columns = _columns(random, rows)
    for number, start in enumerate(range(0, rows, 150)):
        part = pa.table(columns).slice(start, 150)
        size = int(random.integers(3, 40))
        parquet.write_table(part, tmp_path / f"{number}.parquet", row_group_size=size)
    whole = read_table(tmp_path)
    for _ in range(20):
        where = _criteria(random, columns)
        try:
            wanted = whole.tally(*_MEASURES, where=where)
        except SieveError as error:
            with pytest.raises(type(error)):
                read_table(tmp_path, prune=where).tally(*_MEASURES, where=where)
            continue
        table = read_table(tmp_path, prune=where)
        found = table.tally(*_MEASURES, where=where)
        assert [each.value for each in found] == [each.value for each in wanted], where
        assert [each.account for each in found] == [each.account for each in wanted], where
        assert [each.found_at for each in found] == [each.found_at for each in wanted], where
        table.recheck(found)
        left += len(whole) - len(table)
    assert left


@pytest.fixture
def pruned(tmp_path: Path) -> Path:
    path = tmp_path / "calls.parquet"
    dues = [*range(100)]
    parquet.write_table(pa.table({"dues": dues, "tons": dues}), path, row_group_size=10)
    return path


def test_what_unread_rows_may_matter_to_is_refused(pruned: Path) -> None:
    table = read_table(pruned, prune="dues < 15")
    assert (len(table), table.tally("rows", where="dues < 12")[0].account.rows) == (20, 100)
    assert table.tally("rows", where="dues < 15 and tons > 3")[0].account.unmatched == 89
    assert "80 rows in 8 of 10 groups" in table.notices[-1].text
    asks = [
        lambda: table.tally("rows"),
        lambda: table.tally("rows", where="dues < 16"),
        lambda: table.tally("rows regardless of dues", where="dues < 15"),
        lambda: table.bridge("sum of dues", where="dues < 15"),
        lambda: table.mark(subtotal="dues = 3").tally("rows", where="dues < 15"),
        lambda: combine([table, table]),
    ]
    for ask in asks:
        with pytest.raises(SieveError, match=r"80 rows of .* were not read"):
            ask()
    assert table.sift("dues < 15").tally("rows")[0].account.rows == 15


def test_a_column_that_is_read_as_something_else_has_no_ends(pruned: Path) -> None:
    table = read_table(pruned, prune="dues < 15", as_date="dues")
    assert len(table) == 100


def test_one_group_stays_where_none_can_match(pruned: Path) -> None:
    found = read_table(pruned, prune="dues > 500").tally("sum of dues", where="dues > 500")
    assert (found[0].value, found[0].account.rows, found[0].account.unmatched) == (0, 100, 100)


def test_what_values_mean_never_hangs_on_rows_that_are_not_read(tmp_path: Path) -> None:
    days = pa.array([date(2031, 1, 1)] * 5 + [None] * 5, pa.date32())
    dated, numbered = tmp_path / "1.parquet", tmp_path / "2.parquet"
    parquet.write_table(pa.table({"at": days, "n": range(10)}), dated, row_group_size=5)
    some = pa.table({"at": range(10), "n": range(20, 30)})
    parquet.write_table(some, numbered, row_group_size=5)
    asked = ("at = 2031", "at != 2031 and n < 15", "n > 25 and not (at = 2031)", "n < 5")
    for named in (tmp_path, dated, numbered):
        for where in asked:
            found = read_table(named, prune=where).tally("rows", where=where)
            assert found[0] == read_table(named).tally("rows", where=where)[0]
    assert len(read_table(tmp_path, prune="n < 5")) == 20
    assert len(read_table(dated, prune="n < 5 and at = 2031")) == 5
    whole = read_table(numbered)
    for where, left in (("k = 2031", 10), ("k > 5", 5), ("k = '5'", 10)):
        again = {"where": f"n < 22 and {where}", "derive": "k = at * 2"}
        found = read_table(numbered, prune=Query.of(**again))
        assert len(found) == left
        assert found.tally("rows", **again)[0].account == whole.tally("rows", **again)[0].account


def run(*words: str) -> Result:
    return CliRunner().invoke(main, words)


def test_the_command_line_prunes_by_its_criteria(pruned: Path) -> None:
    asked = ["tally", str(pruned), "sum of tons", "--where", "dues in 12..13", "--format", "json"]
    plain, found = run(*asked), run(*asked, "--prune")
    assert json.loads(found.output)["measures"] == json.loads(plain.output)["measures"]
    assert [each["code"] for each in json.loads(found.output)["notices"]] == ["rows-left-unread"]
    shown = run("rows", str(pruned), "--where", "dues = 57 or tons is blank", "--prune").output
    assert " 58     57     57\n" in shown
    assert "1 of 100 rows matches" in shown
    for more in (["--where", "dues < 5", "--hidden", "tons = 3"], [], ["--cluster", "here"]):
        assert run("tally", str(pruned), "rows", "--prune", *more).exit_code == 2
    refused = run("rows", str(pruned), "--where", "dues < 5", "--prune", "--all")
    assert (refused.exit_code, "do not match are not all read" in refused.output) == (2, True)
