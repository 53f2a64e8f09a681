"""Python cells made of the cells of a piece of a sheet, all those of one kind at once."""

from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
import pyarrow as pa

from even_sieve.core.cells import Cell
from even_sieve.core.table.lanes import Array
from even_sieve.sources.arrow_buffers import Bytes, fitting, stored, take
from even_sieve.sources.made_cells import cell_of, made_once, objects, rows_of
from even_sieve.sources.plain_xml import unescaped
from even_sieve.sources.sheets import NO_RESULT
from even_sieve.sources.xlsx_at_once import ATTRIBUTES_OF_FORMULA, KINDS, Cells
from even_sieve.sources.xlsx_rows import ATTRIBUTE
from even_sieve.sources.xlsx_values import Values, moments_of, spelt_out
from even_sieve.sources.xml_tags import demand

#: How a cell is made by itself of its text, its kind and its style.
OneByOne = Callable[[str, str, str], Cell]

_PLAIN, _NUMBER, _SHARED, _YES_NO, _ERROR, _DATE, _TEXT, _INLINE = range(len(KINDS))
_SIGN, _POINT, _OTHER = 1, 2, 4
#: What the bytes of a number are: digits, signs, what makes it a double, anything else.
_BYTES = np.full(256, _OTHER, dtype=np.uint8)
_BYTES[list(b"0123456789")] = 0
_BYTES[list(b"+-")] = _SIGN
_BYTES[list(b".eE")] = _POINT
#: Whole numbers of so many letters go into 64 bits.
_SURE = 18
#: A sheet with fewer cells than one in so many places is better kept cell by cell.
_SPARSE = 4
#: Formulas that subtotal hold one of these, or letters whose capitals may, or add cells.
_MAY_SUBTOTAL = r"(?i:sum|subtotal|aggregate)|[^\x00-\x7f]|\d\s*\+"


class Made:
    """Makes the cells of one piece. Raises `Strange` for what is better looked at one by one."""

    def __init__(self, cells: Cells, values: Values, one_by_one: OneByOne) -> None:
        self._cells, self._values, self._one_by_one = cells, values, one_by_one
        self._filled = cells.ends > cells.begins
        self._numeric = self._filled & (cells.kind <= _NUMBER)
        self._made = np.empty(len(cells.kind), dtype=object)

    def rows(self) -> list[list[Cell]]:
        """Return the cells of every row, up to its last filled one."""
        cells, made = self._cells, self._made
        made[cells.has_formula & ~self._filled] = NO_RESULT
        for kind, make in (
            (_SHARED, self._shared),
            (_YES_NO, self._yes_no),
            (_ERROR, self._alone),
            (_DATE, self._alone),
            (_TEXT, self._texts),
            (_INLINE, self._texts),
        ):
            own = np.flatnonzero((cells.kind == kind) & self._filled)
            if len(own):
                made[own] = make(own)
        own = np.flatnonzero(self._numeric)
        if len(own):
            made[own] = self._numbers(own)
        return self._in_rows()

    def looks(self, numbers: Array) -> Iterator[tuple[int, str, int, int]]:
        """Yield runs of cells that show a number as percent or in a currency.

        Each is its column, how, and its first and last row; `numbers` are those of all rows.
        """
        looks, cells = self._values.looks, self._cells
        own = np.flatnonzero(self._numeric & np.isin(cells.style, list(looks)))
        if not len(own):
            return
        own = own[np.lexsort((cells.row[own], cells.column[own]))]
        column, row = cells.column[own], numbers[cells.row[own]]
        look = np.array([looks[style] for style in cells.style[own].tolist()], dtype=object)
        new = (column[1:] != column[:-1]) | (row[1:] != row[:-1] + 1) | (look[1:] != look[:-1])
        begins = np.flatnonzero(np.concatenate(([True], new.astype(bool))))
        ends = np.append(begins[1:], len(own)) - 1
        for begin, end in zip(begins.tolist(), ends.tolist(), strict=True):
            yield int(column[begin]), look[begin], int(row[begin]), int(row[end])

    def formulas(self) -> Iterator[tuple[int, int, str, str]]:
        """Yield the cells whose formulas may subtotal: place of the row, column, group, words."""
        owners, attributes, words = self._cells.formulas()
        groups = {each: _group(each) for each in set(attributes)}
        asked = np.array([bool(groups[each]) for each in attributes], dtype=bool)
        if len(owners):
            asked |= fitting(words, _MAY_SUBTOTAL)
        rows, columns = self._cells.row[owners].tolist(), self._cells.column[owners].tolist()
        places = np.flatnonzero(asked)
        for place, text in zip(places.tolist(), take(words, places).to_pylist(), strict=True):
            yield rows[place], columns[place], groups[attributes[place]], unescaped(text)

    def _strings(self, own: Array) -> Any:
        return self._cells.tags.strings(self._cells.begins[own], self._cells.ends[own])

    def _texts(self, own: Array) -> Array:
        escaped = self._cells.escaped
        return made_once(
            self._strings(own),
            lambda text: cell_of(spelt_out(unescaped(text) if escaped else text)),
        )

    def _shared(self, own: Array) -> Array:
        strings = self._strings(own)
        demand(_BYTES[Bytes.of(strings).used] == 0)
        places = stored(strings.cast(pa.int64()), np.int64)
        demand(places < len(self._values.texts))
        return self._values.shared[places]

    def _yes_no(self, own: Array) -> Array:
        letters = self._cells.tags.data[self._cells.begins[own]]
        demand(self._cells.ends[own] - self._cells.begins[own] == 1)
        demand((letters == ord("0")) | (letters == ord("1")))
        return objects((letters == ord("1")).tolist())

    def _alone(self, own: Array) -> Array:
        """Return cells of one kind that are made one by one, each different text once."""
        kind = KINDS[self._cells.kind[own[0]]]
        return made_once(
            self._strings(own), lambda text: self._one_by_one(unescaped(text), kind, "")
        )

    def _numbers(self, own: Array) -> Array:
        made = np.empty(len(own), dtype=object)
        style = self._cells.style[own]
        dated = np.isin(style, list(self._values.dates))
        strings = self._strings(own)
        whole, doubles = _read(strings)
        places = np.flatnonzero(~whole)
        made[places] = doubles.tolist()
        sure = Bytes.of(strings).lengths <= _SURE
        places = np.flatnonzero(whole & sure)
        made[places] = stored(take(strings, places).cast(pa.int64()), np.int64).tolist()
        for place in np.flatnonzero(whole & ~sure).tolist():
            made[place] = int(strings[place].as_py())
        if dated.any():
            chosen = np.flatnonzero(dated)
            made[chosen] = self._moments(made[chosen], style[chosen], strings, chosen)
        return made

    def _moments(self, numbers: Array, styles: Array, strings: Any, chosen: Array) -> Array:
        found, known = moments_of(numbers.astype(np.float64), self._values.epoch)
        known &= ~np.isin(styles, list(self._values.lengths))
        rest = np.flatnonzero(~known)
        texts = take(strings, chosen[rest]).to_pylist()
        pairs = list(zip(texts, styles[rest].tolist(), strict=True))
        alone = {pair: self._one_by_one(pair[0], "", str(pair[1])) for pair in set(pairs)}
        found[rest] = objects(list(map(alone.__getitem__, pairs)))
        return found

    def _in_rows(self) -> list[list[Cell]]:
        cells, count = self._cells, len(self._cells.rows.hidden)
        width = int(cells.column.max(initial=0))
        demand(count * width <= _SPARSE * len(cells.column) + _SPARSE * _SPARSE)
        grid = np.empty((count, width), dtype=object)
        grid[cells.row, cells.column - 1] = self._made
        return rows_of(grid)


def _read(strings: Any) -> tuple[Array, Array]:
    """Tell which numbers are whole, bool, and return the others as doubles."""
    held = Bytes.of(strings)
    kinds = _BYTES[held.used]
    demand(kinds < _OTHER)
    points = np.concatenate(([0], np.cumsum(kinds == _POINT, dtype=np.int32)))
    offsets = held.offsets - held.offsets[0]
    whole = points[offsets[1:]] == points[offsets[:-1]]
    if whole.all():
        return whole, np.array([])
    others = take(strings, np.flatnonzero(~whole))
    doubles = stored(others.cast(pa.float64()), np.float64)
    demand(np.isfinite(doubles))
    return whole, doubles


def _group(attributes: str) -> str:
    """Return the group of formulas that attributes say; nothing where they say none."""
    found = ATTRIBUTES_OF_FORMULA.fullmatch(attributes)
    demand(found is not None)
    pairs = ATTRIBUTE.findall(attributes)
    held = dict(pairs)
    demand(len(held) == len(pairs))
    return unescaped(held.get("si", "")) if held.get("t") == "shared" else ""
