"""Whole numbers and ISO days that are cast at once are what they are read as otherwise."""

import random

import pytest

from even_sieve.sources import string_columns
from even_sieve.sources.arrow_buffers import strings_of
from even_sieve.sources.source_options import SourceOptions

pytestmark = pytest.mark.usefixtures("by_passes")

ODD = [
    "", "x", "2031-02-30", "007", "+5", "1.5", "2031-01-05T10:00", "-0", "-", "12 ", " 2031-01-05", "0", "1e3",
    "20310105", "9" * 19, "-" + "9" * 18, "0000-01-01", "0001-01-01", "9999-12-31",
]  # fmt: skip
SAID = [
    {}, {"decimal": ","}, {"date_order": "day-month-year"}, {"date_order": "year-month-day"}, {"blank_as": ["0"]},
    {"blank_as": ["2031-01-05", "-"]}, {"blank_as": ["x"]},
]  # fmt: skip


def facts(column):
    lanes = {kind: (type(each), each.values.dtype) for kind, each in column.lanes.items()}
    return (
        list(map(repr, column.cells())),
        lanes,
        column.notices,
        column.conventions,
        column.trimmed,
    )


@pytest.mark.parametrize("turn", range(8))
def test_what_is_cast_at_once_is_what_is_read(turn, monkeypatch):
    seed = random.randrange(10**9)
    g, cast = random.Random(seed), 0
    for number in range(12):
        if g.random() < 0.5:
            cells = [str(g.randrange(-(10**9), 10 ** g.randrange(1, 18))) for _ in range(3000)]
        else:
            cells = [f"{g.randrange(1, 9999):04}-{g.randrange(1, 13):02}-09" for _ in range(3000)]
        for _ in range(g.choice([0, 0, 1, 2]) if number else 0):
            cells[g.randrange(3000)] = g.choice(ODD)
        strings, options = strings_of(cells), SourceOptions.of(**(g.choice(SAID) if number else {}))
        cast += string_columns._plain("x", strings, options) is not None
        found = string_columns.column_from_strings("x", strings, options)
        with monkeypatch.context() as patch:
            patch.setattr(string_columns, "_plain", lambda *_: None)
            slow = string_columns.column_from_strings("x", strings, options)
        assert facts(found) == facts(slow), seed
    assert cast > 0, seed
