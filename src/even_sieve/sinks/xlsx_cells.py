"""Cells of sheets of ISO/IEC 29500 as XML, so many rows at once."""

from collections.abc import Callable, Sequence
from datetime import datetime
from functools import partial
from typing import Any, TypeAlias

import numpy as np
import pyarrow as pa

from even_sieve.core.cells import Cell, Kind
from even_sieve.core.cells.dates import DAY
from even_sieve.core.table import Column
from even_sieve.core.table.lanes import Array, DateLane
from even_sieve.sinks.arrow_tokens import Spelling, filled_alone, glued, spelt_apart, tokens_of
from even_sieve.sinks.tokens import token
from even_sieve.sinks.xlsx_text import EPOCH, NO_DAY, stored
from even_sieve.sources.arrow_buffers import array_of, strings_of

#: What stands otherwise in XML than in a text.
_OTHERWISE = r"[&<>\r]|_x[0-9A-Fa-f]{4}_"
_TO_1970 = datetime(1970, 1, 1).toordinal() - EPOCH.toordinal()
#: Gives the XML of the cells of some rows, by the numbers of these rows as strings.
Maker: TypeAlias = Callable[[slice, Any], Any]


def has_times(column: Column) -> bool:
    """Tell whether the dates of a column have times."""
    lane = column.lanes.get(Kind.DATE)
    return isinstance(lane, DateLane) and lane.has_time


def cell_maker(column: Column, letter: str, number: str, day: str, other: str) -> Maker:
    """Return what makes the cells of a column; `number`, `day` and `other` are their styles."""

    def one(cell: Cell, decimals: int) -> str:
        return f'{other} t="b"><v>{int(cell)}</v></c>' if isinstance(cell, bool) else token(cell)

    spelling = Spelling(
        one,
        partial(_texts, other),
        partial(_errors, other),
        partial(_valued, day),
        partial(_valued, number),
        places=False,
        dates=_day_numbers,
    )
    tokens = tokens_of(column, spelling)

    def made(rows: slice, numbers: Any) -> Any:
        found = tokens(rows)
        return filled_alone(found, glued(f'<c r="{letter}', numbers, '"', found))

    return made


def rows_at_once(makers: Sequence[Maker], rows: slice, first: int) -> list[str]:
    """Return the XML of rows whose first is row `first` of the sheet."""
    numbers = array_of(np.arange(rows.start, rows.stop) + first, pa.int64()).cast(pa.large_string())
    cells = (make(rows, numbers) for make in makers)
    found: list[str] = glued('<row r="', numbers, '">', *cells, "</row>").to_pylist()
    return found


def _valued(style: str, values: Any) -> Any:
    return glued(f"{style}><v>", values, "</v></c>")


def _texts(style: str, strings: Any) -> Any:
    def otherwise(own: Any) -> Any:
        return strings_of(list(map(stored, own.to_pylist())))

    text = spelt_apart(strings, _OTHERWISE, otherwise)
    return glued(f'{style} t="inlineStr"><is><t>', text, "</t></is></c>")


def _errors(style: str, tokens: Any) -> Any:
    """Return error cells; one that no workbook knows is a text."""
    return strings_of(
        [
            f'{style} t="e"><v>{each}</v></c>'
            if each.startswith("#")
            else f'{style} t="inlineStr"><is><t>{each}</t></is></c>'
            for each in map(stored, tokens.to_pylist())
        ]
    )


def _day_numbers(lane: DateLane, values: Array) -> Any:
    """Return days as numbers, as the standard counts them."""
    unit = DAY if lane.has_time else 1
    since = values.astype(np.int64) + _TO_1970 * unit
    if not lane.has_time:
        counted = np.where((since >= 1) & (since < NO_DAY), since - 1, since)
        return array_of(counted, pa.int64()).cast(pa.large_string())
    parts = np.where(np.abs(since) < 2**53, since / unit, 0.0).tolist()
    for place in np.flatnonzero(np.abs(since) >= 2**53).tolist():
        parts[place] = int(since[place]) / unit
    return strings_of([token(each - 1 if 1 <= each < NO_DAY else each) for each in parts])
