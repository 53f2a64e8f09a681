"""Texts are put in order when that is first asked for, and answer the same before and after."""

import copy
import pickle
import random

import pyarrow as pa
import pytest

from even_sieve.core.cells import Kind, fold, looks_like_date, looks_like_number
from even_sieve.core.cells.likeness import Likeness
from even_sieve.core.criteria import spelt_alike
from even_sieve.core.criteria.operands import Pattern, Wild
from even_sieve.core.criteria.operands.wildcards import (
    matcher,
    matches_as_written,
    one_to_one,
    settled,
)
from even_sieve.core.measures.best import Extremes
from even_sieve.core.query import Query
from even_sieve.core.table import Column, Table, column_from_cells
from even_sieve.core.table import texts_of_rows as core
from even_sieve.core.table.how_to_read import options_to_read
from even_sieve.core.table.likes import count_like, texts_like
from even_sieve.core.table.total_labels import labels_of_totals
from even_sieve.core.tally import tally
from even_sieve.sources import growing_cells, text_lanes
from even_sieve.sources.like_dates import with_date_notice
from even_sieve.sources.text_lanes import text_lane_later, text_lane_of

WORDS = ["Mole 1", "MOLE 1", "Pier", "pier", "Straße", "STRASSE", "Hafen İ", "e\u0301a", "\u00e9A",
         "Kran \u212a", "kran k", "Pier\u200b", "Quay  9", "a*b", "\U0001f6a2 7", "ﬁsh", "Total"]  # fmt: skip

#: Those that look like no others.
APART = [word for word in WORDS if "\u200b" not in word and "  " not in word]


@pytest.fixture(autouse=True)
def short(monkeypatch):
    monkeypatch.setattr(text_lanes, "_FEW", 4)
    monkeypatch.setattr(text_lanes, "_MANY", 0.0)


def tables(chance, words=WORDS, rows=60):
    """Return a table whose texts wait, and one of the same cells whose texts are in order."""
    cells = [chance.choice(words) if chance.random() < 0.8 else "" for _ in range(rows)]
    waiting = growing_cells.read_in_bulk("name", pa.array(cells))
    made = column_from_cells("name", [cell or None for cell in cells])
    assert not waiting.lanes[Kind.TEXT].is_made
    return tuple(
        Table((column, column_from_cells("row", list(range(rows)))), rows)
        for column in (waiting, made)
    )


def lane_of(table) -> object:
    return table.column("name").lanes[Kind.TEXT]


ROW_BY_ROW = ['= "pier"', "= mole* | pier", "!= STRASSE", "= ?ier", "= str?*", "= stra?e", "!= ?sh", "= *\u00e9*",
              '= "kran k" | x | Total | "ﬁsh"', "= *\\*?", "!= pier | *1", "= \\  | pier"]  # fmt: skip


@pytest.mark.parametrize("said", ROW_BY_ROW)
def test_values_and_wildcards_are_looked_for_before_texts_are_in_order(said):
    for _ in range(4):
        waiting, made = tables(random.Random())
        found, known = (
            tally(Query.of(where=f"name {said}"), table, ["count", "sum of row"])
            for table in (waiting, made)
        )
        for one, other in zip(found, known, strict=True):
            assert (one.value, one.account) == (other.value, other.account)
            assert one.notices == other.notices
    lane = text_lane_later(pa.array(APART))
    mole = tally(Query.of(where='name = "mole 1"'), _only(lane), ["count"])
    assert (mole[0].value, lane.is_made) == (2, False)


def _only(lane) -> Table:
    length = len(lane.of_rows.spellings)
    return Table((Column("name", length, {Kind.TEXT: lane}, None),), length)


@pytest.mark.parametrize("said", ['< "pier"', '>= "s"', '= "quay"', "is blank", '= "\ud800"'])
def test_what_needs_the_order_or_finds_nothing_is_the_same(said):
    waiting, made = tables(random.Random())
    query = Query.of(where=f"name {said}")
    found, known = (tally(query, each, ["count"]) for each in (waiting, made))
    assert (found[0].value, found[0].account) == (known[0].value, known[0].account)
    assert found[0].notices == known[0].notices


@pytest.mark.parametrize("letters", ["abcDE", "abcß\u00e9", "a"])
def test_the_closest_texts_are_the_same_before_they_are_in_order(monkeypatch, letters):
    monkeypatch.setattr(spelt_alike, "_MOST_COMPARED", 2)
    monkeypatch.setattr(spelt_alike, "_AROUND", 3)
    monkeypatch.setattr(text_lanes, "_SAMPLE_OF_ENDS", 16)
    chance, said = random.Random(), set()
    for _ in range(60):
        texts = ["".join(chance.choice(letters) for _ in range(chance.randrange(4, 9)))
                 for _ in range(chance.choice([5, 60, 200]))]  # fmt: skip
        sought = chance.choice([chance.choice(texts)[1:] + "q", "zzzzz", "", "aaaaaaa\ud800"])
        later, now = text_lane_later(pa.array(texts)), text_lane_of(pa.array(texts))
        for _ in range(2):
            words = spelt_alike.spelt_alike(sought, later)
            assert words == spelt_alike.spelt_alike(sought, now)
            said.add((bool(words), later.is_made))
    assert {(True, False), (False, False)} <= said or letters == "a"


def test_after_a_few_questions_they_are_put_in_order(monkeypatch):
    monkeypatch.setattr(core, "_MOST_ASKED", 2)
    waiting, made = tables(random.Random(3), APART)
    for asked in range(4):
        answers = [
            tally(Query.of(where="name = pier | mole*"), each, ["count"])
            for each in (waiting, made)
        ]
        assert answers[0][0].value == answers[1][0].value
        assert lane_of(waiting).is_made == (asked > 0)  # a pattern and a value: two questions


def test_a_column_with_such_texts_is_copied_and_travels():
    waiting, made = tables(random.Random(5))
    assert pickle.loads(pickle.dumps(lane_of(waiting).of_rows)) is None
    lanes = [copy.copy(lane_of(waiting)), pickle.loads(pickle.dumps(lane_of(waiting)))]
    for lane in (*lanes, lane_of(waiting)):
        assert list(lane.spellings) == list(lane_of(made).spellings)
        texts = made.column("name").states == Kind.TEXT
        assert (lane.codes == lane_of(made).codes)[texts].all()
        assert lane.is_made
        assert lane.of_rows is None
    assert list(waiting.column("name").cells()) == list(made.column("name").cells())


def test_what_is_told_of_texts_is_the_same():
    for seed in range(5):
        waiting, made = tables(random.Random(seed))
        size = waiting.column("name").__sizeof__()
        assert labels_of_totals(waiting) == labels_of_totals(made)
        assert waiting.column("name").look_alikes == made.column("name").look_alikes
        assert size > waiting.column("name").states.nbytes
    plain = text_lane_later(pa.array(["Mole", "Pier", "Quay", "Berth", "Dock"]))
    assert _only(plain).column("name").look_alikes == ()
    assert _only(plain).column("name").number_like is None
    assert not plain.is_made


@pytest.mark.parametrize("sample", [4, 1 << 14])
def test_dates_among_them_are_told_by_the_first_in_order(monkeypatch, sample):
    monkeypatch.setattr(text_lanes, "_SAMPLE", sample)
    chance, told = random.Random(), 0
    for _ in range(40):
        days = [f"{chance.randrange(1, 31)}.{chance.choice(['4', '04', 'Mai'])}.203{n % 9}"
                for n in range(chance.choice([0, 1, 90, 400]))]  # fmt: skip
        texts = pa.array([*days, *chance.sample(WORDS, 9), "4 May 2031", "4 MAY 2031"])
        lanes = text_lane_later(texts), text_lane_of(texts)
        later, now = (
            with_date_notice(Column("paid", len(texts), {Kind.TEXT: lane}, None)) for lane in lanes
        )
        assert later.notices == now.notices
        assert not lanes[0].is_made
        told += len(days) > 90
    assert told


@pytest.mark.parametrize("measure", ["min of name", "max of name"])
def test_ends_are_told_before_all_are_in_order(monkeypatch, measure):
    chance, again = random.Random(), 0
    following = Extremes.following

    def counted(state):
        nonlocal again
        again += following(state) is not None
        return following(state)

    monkeypatch.setattr(Extremes, "following", counted)
    for _ in range(40):
        monkeypatch.setattr(text_lanes, "_END", chance.choice([2, 64]))
        words = WORDS if chance.random() < 0.5 else [f"Berth {n} {n % 7}x" for n in range(99)]
        waiting, made = tables(chance, words, rows=chance.choice([40, 300]))
        for where in (None, "row < 5", "row = 3", "row > 999"):
            query = Query.of(where=where)
            one, other = (tally(query, each, [measure])[0] for each in (waiting, made))
            assert (one.value, one.account, one.found_at) == (
                other.value,
                other.account,
                other.found_at,
            )
            assert one.notices == other.notices
    assert again
    lane = text_lane_later(pa.array(["Quay", "mole", "Pier", "pier", "Dock"] * 9))
    assert tally(Query.of(), _only(lane), [measure])[0].value == (
        "Quay" if "max" in measure else "Dock"
    )
    assert not lane.is_made


def test_texts_like_numbers_are_counted_before_all_are_in_order():
    waiting, made = tables(random.Random(), ["12 EUR", "5-May-2031", "1,200", *APART], rows=200)
    columns = [table.column("name") for table in (waiting, made)]
    found = [
        (
            [count_like(each, what) for what in (Likeness.NUMBER, Likeness.DATE)],
            [*texts_like(each, Likeness.NUMBER)],
            options_to_read(each),
        )
        for each in columns
    ]
    assert not lane_of(waiting).is_made
    cells = list(filter(None, columns[1].cells()))
    counts = [sum(map(test, cells)) for test in (looks_like_number, looks_like_date)]
    assert found == 2 * [(counts, ["1,200", "12 EUR", "\U0001f6a2 7"], "")]


LONGER = [
    "sSßẞab",
    "fiﬁﬂﬀﬃF",
    "iİıI\u0307k",
    "nŉʼa",
    "aᾳαι\u1fb0Α",
    "եւև",
    "sße\u0301o",
    "sß\ue000x",
]


def test_one_letter_is_one_as_written_among_many_texts_too():
    chance, apart, found = random.Random(), 0, 0
    for _ in range(60):
        letters = chance.choice(LONGER)
        texts = sorted(
            {"".join(chance.choices(letters, k=chance.randrange(1, 8))) for _ in range(60)}
        )
        lane = text_lane_of(pa.array(texts))
        parts = [chance.choice([Wild.ONE, Wild.ANY_RUN, *letters, letters[:2]]) for _ in range(4)]
        pattern = Pattern((Wild.ONE, *parts))
        settled_parts = settled(pattern.parts)
        as_folded = matcher(settled_parts)
        wanted = [
            as_folded(fold(text)) if one_to_one(text) else matches_as_written(settled_parts, text)
            for text in lane.spellings
        ]
        assert pattern.codes_in(lane).tolist() == wanted, (parts, texts)
        apart += len(lane.spellings.with_letters_apart().places)
        found += sum(wanted)
    assert apart
    assert found
