"""Cells told apart in one compiled pass are what each is by itself, and what it cannot tell it leaves."""

import math
import random
import shutil
from datetime import date
from decimal import Decimal
from functools import cache

import numpy as np
import pyarrow as pa
import pytest

from even_sieve.core.cells import Kind
from even_sieve.core.cells.dates import micros
from even_sieve.core.cells.written import DateOrder, read_ordered_date, read_written_number
from even_sieve.core.notices import Code
from even_sieve.core.table.shortest import shortest_decimals
from even_sieve.sources import at_hand, told_columns
from even_sieve.sources.arrow_buffers import strings_of
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.string_columns import column_from_strings
from even_sieve.sources.tokens import TokenReader
from even_sieve.sources.told_cells import UNSURE, WRITTEN, Fact, Told
from even_sieve.sources.told_lanes import LONG, nearest_doubles

needs_it = pytest.mark.skipif(at_hand.compiled is None, reason="there was no compiler")
CHANCE = random.Random()
LETTERS = "0123456789012345.,-+/: eETZtz'’()%€#am\u00a0\u202fé"
ODD = [
    "inf",
    "-inf",
    "+-infinity",
    "true",
    "FALSE",
    "#N/A",
    "#",
    "#x",
    "#NAME?",
    "#ÄÖ",
    "#1234",
    "1e5",
    "1E400",
    "5e",
    "-",
    "+",
    "--5",
    "-.5",
    ".5",
    "5.",
    ".",
    "007",
    "-007",
    "0",
    "-0.00",
    "1,200",
    "1,20",
    "€5",
    "(5)",
    "5%",
    "1.2.3",
    "2031-02-29",
    "2032-02-29",
    "0000-01-01",
    "0001-01-01",
    "9999-12-31T23:59:59.999999Z",
    "9999-12-31T23:59-01:00",
    "0001-01-01T00:00+01:00",
    "2031-01-05T24:00",
    "2031-01-05t10:00z",
    "2031-01-05T10",
    "20310105T1030",
    "2031-1-5",
    "123456789012345678",
    "1234567890123456789",
    "0.123456789012345678",
    "0.1234567890123456789",
    "1.234,50",
    "1'234",
    "1’234,5",
    "01.234",
    "1.23",
    "1.234.567,",
    "1,5e3",
    "3.4.2031",
    "31.04.2031",
    "3-4/2031",
    "2031/4/3",
    "13/13/2031",
    "005/04/2031",
    "12a",
    "12m",
    "Köln",
    "٣",
    "５",
    "5-",
    "1e5%",
    "2031-01-05T10:00:00.1234567",
    "2031-01-05T10:00:00,1234560+05:30",
    "2100-02-29",
    "2000-02-29",
    "12345678901234567890X",
]
ODD += ["", " ", "\u00a05", "5\u3000", "\u2003", "2031-01-05 10:00 +01:00", "- 5", "3/4/2031 2:30", "3/4/2031 2:30 PM",
        "5 pm.", "\x005", "1\u00a0234", "1\u202f234,50", "3.4.2031 12:30:15", "1 234 ,5", "“5”", "5’", "– 5", "5\u2029", "5 " * 300, "0." + "0" * 500 + "1", "1" * 450]  # fmt: skip
SHAPES = {
    "money": lambda n: f"{n / 100:.2f}",
    "codes": lambda n: f"{n:09}",
    "signs": lambda n: f"{'+-'[n % 2]}{n}.{n % 7}",
    "commas": lambda n: f"{n:,}.5".translate(str.maketrans(",.", ".,")),
    "spaces": lambda n: f"{n:,}".replace(",", "\u202f") + f",{n % 100:02}",
    "days": lambda n: f"{1 + n % 9998:04}-{1 + n % 12:02}-{1 + n % 31:02}",
    "moments": lambda n: f"20{n % 100:02}-03-0{1 + n % 9}T{n % 24:02}:{n % 60:02}:{n % 59:02}.{n % 10**7}Z",
    "offsets": lambda n: f"2031-03-0{1 + n % 9} {n % 24:02}:{n % 60:02}{'+-'[n % 2]}{n % 14:02}:{n % 2 * 3}0",
    "in order": lambda n: f"{1 + n % 31}.{1 + n % 12:02}.{1900 + n % 400}",
    "in order, timed": lambda n: f"{1 + n % 31:02}/{1 + n % 12}/{1900 + n % 400} {n % 24}:{n % 60:02}",
    "words": lambda n: f"Quay {n}",
    "letters and digits": lambda n: f"{n * 7919:x}-{n % 97}",
    "percent": lambda n: f"{n / 10}%",
    "currency": lambda n: f"€ {n:,}.{n % 100:02}" if n % 3 else f"(€{n})",
    "exponents": lambda n: f"{n / 7:.9e}",
    "powers far apart": lambda n: f"{n}.5e{n % 300 - 150}",
    "17 digits": lambda n: repr(n / 7),
    "25 digits": lambda n: f"{n * 7919}.{n**3:018}",
}  # fmt: skip


def token():
    roll = CHANCE.random()
    if roll < 0.4:
        return CHANCE.choice(ODD)
    made = "".join(CHANCE.choices(LETTERS, k=CHANCE.randrange(1, 14)))
    if roll > 0.6:
        made = CHANCE.choice(list(SHAPES.values()))(CHANCE.randrange(10**9))
        if roll > 0.9:  # another letter for one of them
            place = CHANCE.randrange(len(made))
            made = made[:place] + CHANCE.choice(LETTERS) + made[place + CHANCE.randrange(2) :]
    return made


def cell_of(token, mark, order, reader):
    cell = reader.read(token)
    return (order and isinstance(cell, str) and read_ordered_date(cell, order)) or cell


def is_right(state, value, token, cell, mark):
    if state == Kind.NUMBER:  # None: one of more digits than 64 bits hold
        return isinstance(cell, Decimal) and (cell == value or (value is None and len(token) > 19))
    if state == WRITTEN:
        return read_written_number(token, mark) == value
    if state == Kind.DATE:
        return isinstance(cell, date) and micros(cell) == value
    return state == UNSURE or cell == (token if state == Kind.TEXT else None)


@needs_it
@pytest.mark.parametrize("order", [None, *DateOrder])
@pytest.mark.parametrize("mark", ".,")
def test_what_is_told_is_what_each_cell_is(mark, order):
    for _ in range(6):
        tokens = [token() for _ in range(CHANCE.randrange(1, 400))]
        strings = strings_of(["aside", *tokens])[1:]
        told = Told.of(strings.cast(CHANCE.choice([pa.string(), pa.large_string()])), mark, order)
        met = TokenReader((), mark)
        for row, each in enumerate(tokens):
            state, value = int(told.states[row]), int(told.values[row])
            reader = TokenReader((), mark)
            cell = cell_of(each, mark, order, reader)
            if state in (Kind.NUMBER, WRITTEN):
                places = int(told._places[row])
                value = None if places > 300 else Decimal(value).scaleb(-places)
            assert is_right(state, value, each, cell, mark), (each, state, value, cell)
            if state == Kind.DATE:
                met.merge(reader)
            if state == Kind.TEXT and Told.of(strings_of([each]), mark, order)[Fact.WORDS]:
                assert read_written_number(each, mark) is None, each
        own = TokenReader((), mark)
        if told.piece(own) is not None:
            assert (own.offsets, own.cut) == (met.offsets, met.cut)


@needs_it
@pytest.mark.parametrize("shape", SHAPES)
def test_what_is_plain_in_its_way_is_not_left_to_others(shape):
    tokens = [SHAPES[shape](CHANCE.randrange(10**6)) for _ in range(300)]
    comma, order = shape in ("commas", "spaces"), DateOrder.DAY_FIRST if "order" in shape else None
    told = Told.of(strings_of(tokens), "," if comma else ".", order)
    some = {
        "days": 250,
        "in order": 250,
        "in order, timed": 250,
        "powers far apart": 250,
        "letters and digits": 290,
    }
    assert 300 - told.unsure >= some.get(shape, 300)
    how = SourceOptions.of(decimal="," if comma else None, date_order=order)
    assert told_columns.column_told("dues", strings_of(tokens), how) is not None


@cache
def options():
    marks, orders, blanks = (None, ","), (None, "day-month-year"), ((), ("open", "0"))
    return [
        SourceOptions.of(decimal=m, date_order=o, blank_as=b)
        for m in marks
        for o in orders
        for b in blanks
    ]


@needs_it
@pytest.mark.parametrize("shape", SHAPES)
def test_a_column_is_the_same_without_a_compiler(shape, monkeypatch):
    for how in options():
        some, few = CHANCE.sample(list(SHAPES), 2)
        part = CHANCE.choice([0, 0, 0.001, 0.02, 0.5])
        tokens = [
            SHAPES[shape if CHANCE.random() >= part else some](CHANCE.randrange(10**8))
            for _ in range(4500)
        ]
        for _ in range(CHANCE.choice([0, 1, 30])):
            tokens[CHANCE.randrange(len(tokens))] = CHANCE.choice(
                [token(), "", "waived", SHAPES[few](7)]
            )
        found = []
        for compiled in (at_hand.compiled, None):
            with monkeypatch.context() as patch:
                patch.setattr(at_hand, "compiled", compiled)
                column = column_from_strings("dues", strings_of(tokens), how)
            # Of numbers with lost digits any may be named.
            told = [n.code if n.code is Code.DIGITS_LOST else n for n in column.notices]
            facts = column.counts, told, column.trimmed, column.conventions, column.shown
            found.append((list(map(repr, column.cells())), facts))
        assert found[0] == found[1], (how, some, few, part)


@pytest.mark.parametrize("order", [None, "day-month-year"])
@pytest.mark.parametrize(("first", "then"), [(7, 900), (900, 7)])
def test_the_first_time_whose_digits_are_cut_is_named(order, first, then):
    tokens = [f"2031-01-05 10:20:{n % 60:02}.{n:06}" for n in range(5000)]
    tokens[first], tokens[then] = "20310105T093059.1234567", "2031-12-23 02:00:59.2030921"
    column = column_from_strings("arrived", strings_of(tokens), SourceOptions.of(date_order=order))
    named = tokens[min(first, then)]
    assert [named in each.text for each in column.notices if each.code is Code.TIMES_CUT] == [True]


def about(chance):
    """Return a number of many digits, often about half way between two doubles."""
    near = chance.random() * 10 ** chance.randrange(-2, 15)
    half = (Decimal(near) + Decimal(math.nextafter(near, math.inf))) / 2
    more = Decimal(chance.choice([-1, 0, 1])) * Decimal(10) ** -chance.randrange(15, 30)
    plain = f"{chance.randrange(10**9)}.{chance.randrange(10**15)}"
    text = chance.choice(
        [f"{half + more:f}", f"{Decimal(near):f}", repr(near), plain, f"{near:.20f}"]
    )
    return chance.choice(["", "-"]) + text[: chance.randrange(17, 38)]


@needs_it
def test_doubles_and_their_decimals_are_the_nearest_and_the_shortest():
    chance, told = random.Random(), 0
    texts = [about(chance) for _ in range(4000)]
    texts = [each for each in texts if "e" not in each]
    strings, rows = strings_of(texts), np.arange(len(texts))
    whole, places = np.zeros(len(texts), np.int64), np.full(len(texts), LONG, np.int16)
    found, left = nearest_doubles(strings, ".", rows, whole, places)
    done = np.setdiff1d(rows, left)
    for at in done.tolist():
        assert found[at] == float(texts[at])
        shortest = Decimal(int(whole[at])).scaleb(-int(places[at]))
        assert shortest == Decimal(repr(float(texts[at]))), texts[at]
        told += 1
    assert told > len(texts) // 3
    again = shortest_decimals(found[done])
    assert [each.tolist() for each in again] == [whole[done].tolist(), places[done].tolist()]


@needs_it
def test_buffers_that_do_not_belong_together_are_refused():
    made = [np.zeros(3, np.uint8), np.zeros(3, np.int64), np.zeros(3, np.int16)]
    facts, offsets = np.zeros(len(Fact) + 56, np.int64), np.zeros(2880, np.uint8)
    for ends in ([0, 1, 2, 9], [0, 2, 1, 3], [-1, 1, 2, 3], [0, 1]):
        with pytest.raises(ValueError, match="not the buffers of one array"):
            at_hand.compiled.tell(b"12.", np.array(ends, np.int32), 46, 0, *made, facts, offsets)


def test_where_there_is_a_compiler_the_pass_was_compiled():
    assert at_hand.compiled is not None or not shutil.which("cc")
