"""Pieces of a sheet of a workbook of ISO/IEC 29500 whose cells are taken apart all at once.

This knows the usual ways of writing cells, and gives up (`Strange`) on anything else, slips among
it: the piece is then taken apart cell by cell, which tells what is wrong. Both give the same.
"""

import re
from dataclasses import dataclass
from typing import Any

import numpy as np

from even_sieve.core.table.lanes import Array
from even_sieve.sources.plain_xml import plain_text
from even_sieve.sources.xlsx_rows import opened
from even_sieve.sources.xml_tags import Grammar, Strange, Tags, codes_by_two, demand, tags_of

(
    _UNKNOWN, _ROW, _EMPTY_ROW, _ROW_ENDS, _CELL, _EMPTY_CELL, _CELL_ENDS, _VALUE, _VALUE_ENDS,
    _NO_VALUE, _FORMULA, _EMPTY_FORMULA, _FORMULA_ENDS, _INLINE, _INLINE_ENDS, _TEXT, _TEXT_ENDS,
) = range(17)  # fmt: skip
_BY_TWO = {
    b"ro": _ROW, b"/r": _ROW_ENDS, b"c ": _CELL, b"c>": _CELL, b"c/": _CELL, b"/c": _CELL_ENDS,
    b"v>": _VALUE, b"v ": _VALUE, b"v/": _NO_VALUE, b"/v": _VALUE_ENDS, b"f>": _FORMULA,
    b"f ": _FORMULA, b"f/": _FORMULA, b"/f": _FORMULA_ENDS, b"is": _INLINE, b"/i": _INLINE_ENDS,
    b"t>": _TEXT, b"t ": _TEXT, b"/t": _TEXT_ENDS,
}  # fmt: skip
_CELLS = (_CELL, _EMPTY_CELL)
_IN_CELL = (_VALUE, _NO_VALUE, _INLINE, _CELL_ENDS)
_FOLLOWERS = {
    _ROW: (*_CELLS, _ROW_ENDS), _EMPTY_ROW: (_ROW, _EMPTY_ROW), _ROW_ENDS: (_ROW, _EMPTY_ROW),
    _CELL: (_FORMULA, _EMPTY_FORMULA, *_IN_CELL), _EMPTY_CELL: (*_CELLS, _ROW_ENDS),
    _CELL_ENDS: (*_CELLS, _ROW_ENDS), _VALUE: (_VALUE_ENDS,), _VALUE_ENDS: (_CELL_ENDS,),
    _NO_VALUE: (_CELL_ENDS,), _FORMULA: (_FORMULA_ENDS,), _EMPTY_FORMULA: _IN_CELL,
    _FORMULA_ENDS: _IN_CELL, _INLINE: (_TEXT,), _TEXT: (_TEXT_ENDS,),
    _TEXT_ENDS: (_INLINE_ENDS,), _INLINE_ENDS: (_CELL_ENDS,),
}  # fmt: skip
_KEPT = b" x"  # the one attribute: that white space is to be kept
_SPELT = {
    _ROW: (b"<row",), _ROW_ENDS: (b"</row>",),
    _CELL: (b"<c",), _CELL_ENDS: (b"</c>",),
    _VALUE: (b"<v>", b"<v" + _KEPT), _VALUE_ENDS: (b"</v>",), _NO_VALUE: (b"<v/>",),
    _FORMULA: (b"<f",), _FORMULA_ENDS: (b"</f>",),
    _INLINE: (b"<is>",), _INLINE_ENDS: (b"</is>",),
    _TEXT: (b"<t>", b"<t" + _KEPT), _TEXT_ENDS: (b"</t>",),
}  # fmt: skip
_GRAMMAR = Grammar(
    _SPELT, frozenset({_ROW, _CELL, _FORMULA}), _FOLLOWERS, frozenset({_VALUE, _FORMULA, _TEXT}),
    frozenset({_ROW, _EMPTY_ROW}), frozenset({_ROW_ENDS, _EMPTY_ROW}),
)  # fmt: skip
_codes = codes_by_two(_BY_TWO)
ATTRIBUTES_OF_FORMULA = re.compile(r'((?: [\w:.]+="[^"<\n\t]*")*) ?')
_ROWS = re.compile(r'<row(?: r="([1-9][0-9]{0,6})")?((?: [\w:.]+="[^"<&]*")*) ?/?>')
_QUOTE, _EQUALS, _SPACE, _ZERO, _NINE, _A, _Z = b'"= 09AZ'
#: Attributes of cells: of metadata, of readings.
_PASSED_BY = (b"cm", b"vm", b"ph")
_POWERS = 10 ** np.arange(7)
_MOST_OF_STYLE, _ATTRIBUTES = 6, 6
#: The kinds of cells by their first letter; what else they are called.
KINDS = ("", "n", "s", "b", "e", "d", "str", "inlineStr")
_SHORT = np.zeros(256, dtype=np.uint8)
_SHORT[list(b"nsbed")] = (1, 2, 3, 4, 5)
_LONG = ((6, b'str"'), (7, b'inlineStr"'))


@dataclass
class Rows:
    """The rows of a piece: their numbers (0 where a row does not say it), which are hidden."""

    numbers: Array
    hidden: list[bool]

    @classmethod
    def of(cls, text: str) -> "Rows":
        """Return those of a plain piece of XML, but for any that are written unusually."""
        found = _ROWS.findall(text)
        known = {others: opened(others) for others in {each[1] for each in found}}
        demand(all(row.place is None for row in known.values()))
        numbers = np.array([int(number or 0) for number, _ in found], dtype=np.int64)
        return cls(numbers, [known[others].hidden for _, others in found])

    def digits(self) -> tuple[Array, Array]:
        """Return the digits of the numbers, a line each, and how many they are (0: not said)."""
        lengths = np.searchsorted(_POWERS, self.numbers, side="right")
        powers = np.maximum(lengths[:, None] - 1 - np.arange(len(_POWERS)), 0)
        digits = self.numbers[:, None] // _POWERS[powers] % 10 + _ZERO
        return digits.astype(np.uint8), lengths


@dataclass
class Cells:
    """The cells of a piece: an item for each of them in every array.

    `row` is the place of its row among `rows`, `column` counts from 1, `kind` is a place among
    `KINDS`; `begins` and `ends` say where the text stands among `tags.data`.
    """

    tags: Tags
    rows: Rows
    row: Array
    column: Array
    style: Array
    kind: Array
    begins: Array
    ends: Array
    has_formula: Array
    escaped: bool

    def formulas(self) -> tuple[Array, list[str], Any]:
        """Return the places of the cells that have one, their attributes, and the Arrow texts."""
        tags = self.tags
        places = tags.of(_FORMULA, _EMPTY_FORMULA)
        owners = tags.counted(*_CELLS)[places]
        empty = tags.codes[places] == _EMPTY_FORMULA
        begins, ends = tags.starts[places] + 2, tags.ends[places] - empty
        held = tags.strings(begins, ends).to_pylist()
        texts = (
            tags.ends[places] + 1,
            np.where(empty, tags.ends[places] + 1, tags.starts[places + 1]),
        )
        return owners, held, tags.strings(*texts)


def cells_of(content: bytes) -> Cells:
    """Return the cells of a piece of XML that holds whole rows. Raises `Strange`."""
    text = plain_text(content)
    if text is None:
        raise Strange
    tags = tags_of(content, _GRAMMAR, _codes)
    rows = Rows.of(text)
    demand(len(rows.numbers) == len(tags.of(_ROW, _EMPTY_ROW)))
    cells = tags.of(*_CELLS)
    row = tags.counted(_ROW, _EMPTY_ROW)[cells]
    found = _Attributes(tags, cells, row, rows.digits()).read()
    begins, ends, has_formula = _inside(tags, len(cells), found.kind == KINDS.index("inlineStr"))
    column = found.column if found.has_place else _counted(row)
    demand((column[1:] > column[:-1]) | (row[1:] > row[:-1]))
    return Cells(
        tags, rows, row, column, found.style, found.kind, begins, ends, has_formula,
        b"&" in content,
    )  # fmt: skip


def _counted(row: Array) -> Array:
    """Return the columns of cells that stand one after the other in their rows."""
    begins = np.flatnonzero(np.concatenate(([True], row[1:] > row[:-1]))) if len(row) else row
    lengths = np.diff(np.append(begins, len(row)))
    columns: Array = np.arange(1, len(row) + 1) - np.repeat(begins, lengths)
    return columns


def _inside(tags: Tags, count: int, inline: Array) -> tuple[Array, Array, Array]:
    """Return where the texts of cells begin and end, and which have a formula."""
    begins, ends = np.zeros(count, dtype=np.int64), np.zeros(count, dtype=np.int64)
    owners = tags.counted(*_CELLS)
    for code in (_TEXT, _VALUE):
        places = tags.of(code)
        if not len(places):
            continue
        begin, end = tags.texts_after(places)
        own = owners[places]
        filled = (end > begin) & (inline[own] if code == _TEXT else True)
        begins[own[filled]], ends[own[filled]] = begin[filled], end[filled]
    has_formula = np.zeros(count, dtype=bool)
    has_formula[owners[tags.of(_FORMULA, _EMPTY_FORMULA)]] = True
    return begins, ends, has_formula


class _Attributes:
    """Reads the place, the style and the kind of cells out of their tags, in whatever order."""

    def __init__(self, tags: Tags, cells: Array, row: Array, digits: tuple[Array, Array]) -> None:
        self._data, self._row, self._digits = tags.data, row, digits
        self._at = tags.starts[cells] + 2
        stop = tags.ends[cells] - (tags.codes[cells] == _EMPTY_CELL)
        self._stop = stop - (self._data[stop - 1] == _SPACE)
        count = len(cells)
        self.column, self.style = np.zeros(count, np.int64), np.zeros(count, np.int64)
        self.kind = np.zeros(count, np.uint8)
        self.has_place = False
        self._met = {name: np.zeros(count, dtype=bool) for name in b"rst"}

    def read(self) -> "_Attributes":
        """Read them all. Raises `Strange` for others, and for one that stands there twice."""
        ways = {ord("r"): self._place, ord("s"): self._style, ord("t"): self._kind}
        for _ in range(_ATTRIBUTES):
            left = np.flatnonzero(self._at < self._stop)
            if not len(left):
                break
            at, data = self._at[left], self._data
            other = data[at + 2] != _EQUALS
            if other.any():
                self._pass_by(left[other])
                left, at = left[~other], at[~other]
            demand((data[at] == _SPACE) & (data[at + 3] == _QUOTE))
            names, known = data[at + 1], 0
            for name, way in ways.items():
                own = left[names == name]
                if len(own):
                    demand(~self._met[name][own])
                    self._met[name][own] = True
                    end = way(own, self._at[own] + 4)
                    demand(data[end] == _QUOTE)
                    self._at[own] = end + 1
                    known += len(own)
            demand(known == len(left))
        demand(self._at == self._stop)
        placed = self._met[ord("r")]
        self.has_place = bool(placed.any())
        demand(placed.all() or not self.has_place)
        return self

    def _pass_by(self, own: Array) -> None:
        """Go past an attribute of two letters that says nothing here, with a short number."""
        data, at = self._data, self._at[own]
        first, second = data[at + 1], data[at + 2]
        known = np.zeros(len(own), dtype=bool)
        for name in _PASSED_BY:
            known |= (first == name[0]) & (second == name[1])
        demand(known & (data[at] == _SPACE) & (data[at + 3] == _EQUALS) & (data[at + 4] == _QUOTE))
        at = at + 5
        for _ in range(_MOST_OF_STYLE):
            at = at + ((data[at] >= _ZERO) & (data[at] <= _NINE))
        demand(data[at] == _QUOTE)
        self._at[own] = at + 1

    def _place(self, own: Array, at: Array) -> Any:
        data = self._data
        letters = [data[at + place] for place in range(3)]
        is_letter = [(each >= _A) & (each <= _Z) for each in letters]
        demand(is_letter[0])
        column = letters[0].astype(np.int64) - _A + 1
        count = np.ones(len(own), dtype=np.int64)
        going = is_letter[0]
        for letter, here in zip(letters[1:], is_letter[1:], strict=True):
            going = going & here
            column = np.where(going, column * 26 + letter - _A + 1, column)
            count += going
        self.column[own] = column
        digits, lengths = self._digits
        rows, at = self._row[own], at + count
        length = lengths[rows]
        demand(length)
        for place in range(int(length.max())):
            demand((data[at + place] == digits[rows, place]) | (place >= length))
        return at + length

    def _style(self, own: Array, at: Array) -> Any:
        found, length = np.zeros(len(own), np.int64), np.zeros(len(own), np.int64)
        first = self._data[at] == _ZERO
        going = np.ones(len(own), dtype=bool)
        for place in range(_MOST_OF_STYLE):
            digit = self._data[at + place].astype(np.int64) - _ZERO
            going &= (digit >= 0) & (digit <= 9)
            if not going.any():
                break
            found = np.where(going, found * 10 + digit, found)
            length += going
        demand((length > 0) & (~first | (length == 1)))
        self.style[own] = found
        return at + length

    def _kind(self, own: Array, at: Array) -> Any:
        data = self._data
        short = data[at + 1] == _QUOTE
        kind, length = _SHORT[data[at]] * short, short.astype(np.int64)
        for number, letters in _LONG:
            rest = np.flatnonzero(kind == 0)
            for place, letter in enumerate(letters):
                rest = rest[data[at[rest] + place] == letter]
            kind[rest], length[rest] = number, len(letters) - 1
        demand(kind)
        self.kind[own] = kind
        return at + length
