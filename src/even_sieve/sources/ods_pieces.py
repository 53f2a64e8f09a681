"""Pieces of rows of an OpenDocument sheet: what they hold, all those of one kind made at once."""

from collections.abc import Callable, Iterator
from contextlib import suppress
from decimal import InvalidOperation
from typing import Any, NamedTuple, TypeAlias

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from pyarrow import ArrowInvalid

from even_sieve.core.cells import Cell
from even_sieve.core.table.lanes import Array
from even_sieve.sources import ods_rows
from even_sieve.sources.arrow_buffers import Bytes, fitting, stored, take
from even_sieve.sources.limits import Limits
from even_sieve.sources.made_cells import cell_of, dates_of, made_once, objects, rows_of
from even_sieve.sources.ods_at_once import (
    BOOLEAN,
    CURRENCY,
    DATE,
    FLOAT,
    NO_TYPE,
    PERCENTAGE,
    STRING,
    TIME,
    TYPES,
    Cells,
    cells_of,
)
from even_sieve.sources.ods_cells import PlainCells
from even_sieve.sources.ods_made import (
    Made,
    cell_by_itself,
    made_of,
    number_of,
    of_type,
    stored_text,
    time_of,
)
from even_sieve.sources.plain_xml import unescaped
from even_sieve.sources.shown_by_source import MERGED, PERCENT
from even_sieve.sources.xml_tags import Strange, among, demand

#: Numbers of at most 15 digits, written plainly.
_SHORT = r"^-?[0-9]{1,15}(?:\.[0-9]{1,14})?$"
_LONGEST_SHORT = 16
#: A piece of fewer cells than one in so many places is better kept cell by cell.
_SPARSE = 4


#: Formulas and looks, as `Made` says them of a row, by the row's place.
_Formulas: TypeAlias = dict[int, list[tuple[int, int, str]]]
_Looks: TypeAlias = dict[int, list[tuple[int, str]]]


class MadeRows(NamedTuple):
    """What several rows hold, as `Made` says it of one."""

    times: list[int]
    visibility: list[str]
    cells: list[list[Cell]]
    formulas: _Formulas
    looks: _Looks

    def one_by_one(self) -> Iterator[Made]:
        """Yield them as rows."""
        rows = zip(self.times, self.visibility, self.cells, strict=True)
        for place, row in enumerate(rows):
            yield Made(*row, self.formulas.get(place, []), self.looks.get(place, []))


def begin_rows(limits: Limits) -> Callable[[bytes], list[Made] | MadeRows | None]:
    """Return what reads pieces of plain rows, here or in another process."""
    cells = PlainCells()

    def read(text: bytes) -> list[Made] | MadeRows | None:
        with suppress(Strange, ArrowInvalid, ValueError, OverflowError, InvalidOperation):
            return _AtOnce(cells_of(text), limits).rows()
        rows = ods_rows.plain_rows(text, cells)
        return None if rows is None else [made_of(row, limits) for row in rows]

    return read


class _AtOnce:
    """Makes the cells of one piece. Raises `Strange` for what is better looked at one by one."""

    def __init__(self, cells: Cells, limits: Limits) -> None:
        self._cells, self._limits = cells, limits
        self._made = np.empty(len(cells.row), dtype=object)
        self._has_text, self._has_formula, self._has_currency = (
            ends > begins for begins, ends in (cells.text, cells.formula, cells.currency)
        )
        lengths = cells.text[1] - cells.text[0]
        demand(lengths <= limits.cell)  # letters take one byte or more
        demand(~self._has_currency | (cells.kind == CURRENCY))

    def rows(self) -> MadeRows:
        """Return what the rows hold."""
        cells = self._cells
        stands = ~cells.covered & ((cells.kind != NO_TYPE) | self._has_text | self._has_formula)
        alone = stands & (self._has_formula | cells.is_error)
        for kinds, make in (
            ((FLOAT, PERCENTAGE, CURRENCY), self._numbers),
            ((STRING, NO_TYPE), self._texts),
            ((TIME,), self._times),
            ((DATE,), self._dates),
            ((BOOLEAN,), self._typed),
        ):
            own = np.flatnonzero(stands & ~alone & among(cells.kind, kinds))
            if len(own):
                self._made[own] = make(own)
        own = np.flatnonzero(alone)
        if len(own):
            self._made[own] = self._alone(own)
        return self._in_rows(stands)

    def _strings(self, spans: tuple[Array, Array], own: Array) -> Any:
        return self._cells.tags.strings(spans[0][own], spans[1][own])

    def _words(self, spans: tuple[Array, Array], own: Array) -> list[str]:
        filled = spans[1][own] > spans[0][own]
        found = np.full(len(own), "", dtype=object)
        found[filled] = self._strings(spans, own[filled]).to_pylist()
        return list(map(unescaped, found.tolist()))

    def _numbers(self, own: Array) -> Array:
        begins, ends = (each[own] for each in self._cells.value)
        demand(ends > begins)
        strings = self._strings(self._cells.value, own)
        held = Bytes.of(strings)
        short = fitting(strings, _SHORT)
        minus = held.data[held.offsets[:-1]] == ord("-")
        short &= held.lengths - minus <= _LONGEST_SHORT
        made = np.empty(len(own), dtype=object)
        points = np.concatenate(([0], np.cumsum(held.used == ord("."), dtype=np.int32)))
        dotted = np.diff(points[held.offsets - held.offsets[0]]) > 0
        for places, kind, stores in (
            (np.flatnonzero(short & ~dotted), pa.int64(), np.int64),
            (np.flatnonzero(short & dotted), pa.float64(), np.float64),
        ):
            if len(places):
                made[places] = stored(take(strings, places).cast(kind), stores).tolist()
        rest = np.flatnonzero(~short)
        if len(rest):
            made[rest] = objects(list(map(number_of, take(strings, rest).to_pylist())))
        return made

    def _texts(self, own: Array) -> Array:
        cells = self._cells
        values = np.flatnonzero(
            (cells.kind[own] == STRING) & (cells.value[1] > cells.value[0])[own]
        )
        filled = np.flatnonzero(self._has_text[own])
        made = np.empty(len(own), dtype=object)
        for spans, places in ((cells.value, values), (cells.text, filled)):
            if len(places):
                found = made_once(
                    self._strings(spans, own[places]),
                    lambda text: cell_of(unescaped(text) if cells.escaped else text),
                )
                made[places] = np.where(found == None, made[places], found)  # noqa: E711
        both = np.intersect1d(values, filled, assume_unique=True)
        if len(both):
            two = (self._strings(spans, own[both]) for spans in (cells.value, cells.text))
            both = both[stored(pc.not_equal(*two).cast(pa.uint8()), np.uint8) > 0]
            two_words = (self._words(spans, own[both]) for spans in (cells.value, cells.text))
            made[both] = objects(
                [cell_of(stored_text(*each)) for each in zip(*two_words, strict=True)]
            )
        return made

    def _times(self, own: Array) -> Array:
        made, (begins, ends) = self._texts(own), self._cells.value
        unseen = np.flatnonzero((made == None) & (ends > begins)[own])  # noqa: E711
        if len(unseen):
            strings = self._strings(self._cells.value, own[unseen])
            made[unseen] = made_once(strings, lambda text: cell_of(time_of(unescaped(text))))
        return made

    def _dates(self, own: Array) -> Array:
        found = dates_of(self._strings(self._cells.value, own))
        return self._typed(own) if found is None else found

    def _typed(self, own: Array) -> Array:
        begins, ends = (each[own] for each in self._cells.value)
        demand(ends > begins)
        kind = TYPES[self._cells.kind[own[0]]]
        return made_once(self._strings(self._cells.value, own), lambda word: of_type(kind, word))

    def _alone(self, own: Array) -> Array:
        cells = self._cells
        formulas, values, texts = (
            self._words(spans, own) for spans in (cells.formula, cells.value, cells.text)
        )
        errors = ["error" if each else "" for each in cells.is_error[own].tolist()]
        kinds = [TYPES[each] for each in cells.kind[own].tolist()]
        longest = self._limits.cell
        made = map(cell_by_itself, formulas, kinds, values, errors, texts, [longest] * len(own))
        return objects(list(made))

    def _in_rows(self, stands: Array) -> MadeRows:
        cells, made = self._cells, self._made
        count, times = len(cells.row_seen), cells.times
        ends = np.cumsum(times)
        first = np.searchsorted(cells.row, np.arange(count))
        before = np.concatenate(([0], ends))[first]
        ends = ends - before[cells.row]
        filled = stands & (made != None)  # noqa: E711
        width = int(ends[filled].max(initial=0))
        demand(width <= self._limits.columns)
        demand(np.bincount(cells.row, minlength=1) <= self._limits.columns)
        demand(count * width <= _SPARSE * len(cells.row) + _SPARSE * _SPARSE)
        own = np.flatnonzero(filled)
        grid = np.empty((count, width), dtype=object)
        many = times[own] if (times[own] > 1).any() else None
        places, rows = ends[own] - times[own], cells.row[own]
        if many is not None:
            step = np.arange(int(many.sum())) - np.repeat(np.cumsum(many) - many, many)
            own, rows = np.repeat(own, many), np.repeat(rows, many)
            places = np.repeat(places, many) + step
        grid[rows, places] = made[own]
        beside = self._beside(stands, ends)
        return MadeRows(cells.row_times.tolist(), cells.row_seen, rows_of(grid), *beside)

    def _beside(self, stands: Array, ends: Array) -> tuple[_Formulas, _Looks]:
        """Return the formulas and the looks of every row."""
        cells, made = self._cells, self._made
        formulas: _Formulas = {}
        looks: _Looks = {}
        own = np.flatnonzero(stands & self._has_formula & (made != None))  # noqa: E711
        words = self._words(cells.formula, own)
        for at, word in zip(own.tolist(), words, strict=True):
            end = int(ends[at])
            own_row = formulas.setdefault(int(cells.row[at]), [])
            own_row.append((end - int(cells.times[at]) + 1, end + 1, word))
        own = np.flatnonzero(stands & ((cells.kind == PERCENTAGE) | self._has_currency))
        words = self._words(cells.currency, own)
        for at, word in zip(own.tolist(), words, strict=True):
            look = PERCENT if cells.kind[at] == PERCENTAGE else word
            end = int(ends[at])
            columns = range(end - int(cells.times[at]) + 1, end + 1)
            looks.setdefault(int(cells.row[at]), []).extend((each, look) for each in columns)
        for at in np.flatnonzero(cells.covered).tolist():
            first = int(ends[at] - cells.times[at]) + 1
            columns = range(first, min(int(ends[at]), self._limits.columns) + 1)
            looks.setdefault(int(cells.row[at]), []).extend((each, MERGED) for each in columns)
        return formulas, looks
