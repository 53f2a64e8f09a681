"""Rows of an OpenDocument sheet whose cells are taken apart all at once.

This knows the usual ways of writing cells, and gives up (`Strange`) on anything else, slips among
it: the piece is then taken apart cell by cell, which tells what is wrong. Both give the same.
"""

import re
from dataclasses import dataclass

import numpy as np
import pyarrow as pa

from even_sieve.core.table.lanes import Array
from even_sieve.sources.arrow_buffers import Bytes, stored
from even_sieve.sources.plain_xml import plain_text
from even_sieve.sources.xml_tags import (
    Grammar,
    Strange,
    Tags,
    among,
    demand,
    stand_at,
    tags_of,
    white_between,
)

(
    _UNKNOWN, _ROW, _EMPTY_ROW, _ROW_ENDS, _CELL, _EMPTY_CELL, _CELL_ENDS, _COVERED,
    _EMPTY_COVERED, _COVERED_ENDS, _TEXT, _TEXT_ENDS,
) = range(12)  # fmt: skip
_CELLS = (_CELL, _EMPTY_CELL, _COVERED, _EMPTY_COVERED)
_AFTER_CELL = (*_CELLS, _ROW_ENDS)
_FOLLOWERS = {
    _ROW: _AFTER_CELL, _EMPTY_ROW: (_ROW, _EMPTY_ROW), _ROW_ENDS: (_ROW, _EMPTY_ROW),
    _CELL: (_TEXT, _CELL_ENDS), _EMPTY_CELL: _AFTER_CELL, _CELL_ENDS: _AFTER_CELL,
    _COVERED: (_TEXT, _COVERED_ENDS), _EMPTY_COVERED: _AFTER_CELL, _COVERED_ENDS: _AFTER_CELL,
    _TEXT: (_TEXT_ENDS,), _TEXT_ENDS: (_CELL_ENDS, _COVERED_ENDS),
}  # fmt: skip


_SPELT = {
    _ROW: (b"<table:table-row",), _ROW_ENDS: (b"</table:table-row>",),
    _CELL: (b"<table:table-cell",), _CELL_ENDS: (b"</table:table-cell>",),
    _COVERED: (b"<table:covered-table-cell",), _COVERED_ENDS: (b"</table:covered-table-cell>",),
    _TEXT: (b"<text:p>",), _TEXT_ENDS: (b"</text:p>",),
}  # fmt: skip
_GRAMMAR = Grammar(
    _SPELT, frozenset({_ROW, _CELL, _COVERED}), _FOLLOWERS, frozenset({_TEXT}),
    frozenset({_ROW, _EMPTY_ROW}), frozenset({_ROW_ENDS, _EMPTY_ROW}),
)  # fmt: skip
#: Opening tags by the letter at this place, closing ones by their length.
_TOLD_AT = 13
_BY_LETTER = np.zeros(256, dtype=np.uint8)
_BY_LETTER[list(b"rcd")] = (_ROW, _CELL, _COVERED)
_BY_LENGTH = np.zeros(64, dtype=np.uint8)
for _code in (_ROW_ENDS, _CELL_ENDS, _COVERED_ENDS, _TEXT_ENDS):
    _BY_LENGTH[len(_SPELT[_code][0])] = _code
_SLASH, _QUOTE, _EQUALS, _SPACE, _A = b'/"= a'
#: A letter that, with its length, tells most names of attributes apart.
_TELLING = 7
#: White space in a text that the standard has read as a single space.
_RUN = re.compile(r"<text:p>[^<]*?(?: {2}|[\t\n])[^<]*</text:p>")

#: The types of cells; the last one says none.
TYPES = ("float", "string", "date", "boolean", "percentage", "currency", "time", "")
FLOAT, STRING, DATE, BOOLEAN, PERCENTAGE, CURRENCY, TIME, NO_TYPE = range(len(TYPES))
#: In which attribute each has its value.
_VALUES = {
    FLOAT: "value", STRING: "string-value", DATE: "date-value", BOOLEAN: "boolean-value",
    PERCENTAGE: "value", CURRENCY: "value", TIME: "time-value",
}  # fmt: skip


@dataclass
class Attributes:
    """The attributes of rows and cells: the tag of each, where its name and its value stand."""

    data: Array
    tag: Array
    name: tuple[Array, Array]
    length: Array
    value: tuple[Array, Array]

    @classmethod
    def of(cls, tags: Tags) -> "Attributes":
        """Return those of the tags. Raises `Strange` for anything that is written unusually."""
        data = tags.data
        quotes = np.flatnonzero(data == _QUOTE)
        tag = np.searchsorted(tags.starts, quotes, side="right") - 1
        inside = (tag >= 0) & (quotes < tags.ends[tag])
        quotes, tag = quotes[inside], tag[inside]
        demand(len(quotes) % 2 == 0)
        opening, closing, tag = quotes[::2], quotes[1::2], tag[::2]
        first = np.concatenate(([True], tag[1:] != tag[:-1]))[: len(tag)]
        heads = _HEADS[tags.codes[tag]] + tags.starts[tag]
        begin = np.where(first, heads, np.concatenate(([0], closing[:-1] + 1))[: len(tag)])
        demand((data[begin] == _SPACE) & (data[opening - 1] == _EQUALS) & (begin < opening - 2))
        demand(white_between(data, begin + 1, opening) == 0)
        last = np.concatenate((first[1:], [True]))[: len(tag)]
        _demand_closed(tags, tag[last], closing[last] + 1)
        length = np.minimum(opening - begin - 2, 255).astype(np.uint8)
        return cls(data, tag, (begin + 1, opening - 1), length, (opening + 1, closing))

    def named(self, name: str) -> Array:
        """Return the places of those of a name. Raises `Strange` where a tag has two of it."""
        begin, _ = self.name
        letters = name.encode()
        fits: Array = np.flatnonzero(self.length == len(letters))
        fits = fits[self.data[begin[fits] + _TELLING] == letters[_TELLING]]
        fits = fits[stand_at(self.data, begin[fits], letters)]
        demand(self.tag[fits[1:]] > self.tag[fits[:-1]])
        return fits


_HEADS = np.zeros(256, dtype=np.int64)
for _code in (_ROW, _CELL, _COVERED):
    _HEADS[_code] = _HEADS[_code + 1] = len(_SPELT[_code][0])


def _demand_closed(tags: Tags, own: Array, after: Array) -> None:
    """Give up where anything but a space stands behind the last attribute of tags, or for none."""
    plain = among(tags.codes, (_ROW, _EMPTY_ROW, *_CELLS))
    stops = tags.ends - among(tags.codes, (_EMPTY_ROW, _EMPTY_CELL, _EMPTY_COVERED))
    begins = tags.starts + _HEADS[tags.codes]
    begins[own] = after
    gap = (stops - begins)[plain]
    demand((gap == 0) | ((gap == 1) & (tags.data[begins[plain]] == _SPACE)))


@dataclass
class Cells:
    """The cells of a piece: an item for each of them in every array.

    `row` is the place of its row, `position` counts from 0, `times` is how often it stands there;
    of a text or a value, begins and ends among `tags.data` are told (alike: there is none).
    `row_times` and `row_seen` are of the rows.
    """

    tags: Tags
    row: Array
    covered: Array
    times: Array
    kind: Array
    is_error: Array
    formula: tuple[Array, Array]
    currency: tuple[Array, Array]
    value: tuple[Array, Array]
    text: tuple[Array, Array]
    row_times: Array
    row_seen: list[str]
    escaped: bool


def cells_of(content: bytes) -> Cells:
    """Return the cells of a piece of XML that holds whole rows. Raises `Strange`."""
    text = plain_text(content)
    if text is None:
        raise Strange
    if ("  " in text or "\t" in text or "\n" in text) and _RUN.search(text):
        raise Strange
    tags = tags_of(content, _GRAMMAR, _codes)
    return _Reading(content, tags).cells()


def _codes(data: Array, starts: Array, ends: Array) -> Array:
    first, second = data[starts + 1], data[starts + 2]
    lengths = np.minimum(ends - starts + 1, len(_BY_LENGTH) - 1)
    codes = np.where(second == _A, _BY_LETTER[data[starts + _TOLD_AT]], _TEXT).astype(np.uint8)
    return np.where(first == _SLASH, _BY_LENGTH[lengths], codes)


class _Reading:
    """Reads the cells of one piece."""

    def __init__(self, content: bytes, tags: Tags) -> None:
        self._tags, self._escaped = tags, b"&" in content
        self._held = Attributes.of(tags)
        self._cells = tags.of(*_CELLS)
        self._number = tags.counted(*_CELLS)
        self._count = len(self._cells)

    def cells(self) -> Cells:
        """Return them."""
        tags = self._tags
        covered = tags.codes[self._cells] >= _COVERED
        kind = self._kinds()
        places = tags.of(_TEXT)
        text = self._spans(self._number[places], *tags.texts_after(places))
        row_times, row_seen = self._rows()
        _, error = self._of("calcext:value-type", {b"error": 1})
        return Cells(
            tags, tags.counted(_ROW, _EMPTY_ROW)[self._cells], covered, self._times(), kind,
            error == 1, self._spanned("table:formula"), self._spanned("office:currency"),
            self._values(kind), text, row_times, row_seen, self._escaped,
        )  # fmt: skip

    def _spans(self, own: Array, begins: Array, ends: Array) -> tuple[Array, Array]:
        found = np.zeros(self._count, np.int64), np.zeros(self._count, np.int64)
        found[0][own], found[1][own] = begins, ends
        return found

    def _owned(self, name: str) -> tuple[Array, Array, Array]:
        """Return the cells that have an attribute, and where its values begin and end."""
        places = self._held.named(name)
        tag, (begins, ends) = self._held.tag[places], self._held.value
        demand(self._tags.codes[tag] >= _CELL)
        return self._number[tag], begins[places], ends[places]

    def _spanned(self, name: str) -> tuple[Array, Array]:
        return self._spans(*self._owned(name))

    def _of(self, name: str, known: dict[bytes, int], rest: int | None = 0) -> tuple[Array, Array]:
        """Return the cells that have an attribute, and a number for each cell by its value.

        Of values that are not known it is `rest`; None gives up on them.
        """
        own, begins, ends = self._owned(name)
        found = np.zeros(self._count, dtype=np.int64)
        words = self._tags.strings(begins, ends).dictionary_encode()
        numbers = []
        for word in words.dictionary.to_pylist():
            number = known.get(word.encode(), rest)
            if number is None:
                raise Strange
            numbers.append(number)
        if len(own):
            found[own] = np.array(numbers)[stored(words.indices, np.int32)]
        return own, found

    def _kinds(self) -> Array:
        known = {name.encode(): number for number, name in enumerate(TYPES) if name}
        own, found = self._of("office:value-type", known, None)
        kinds = np.full(self._count, NO_TYPE)
        kinds[own] = found[own]
        return kinds

    def _values(self, kind: Array) -> tuple[Array, Array]:
        begins, ends = np.zeros(self._count, np.int64), np.zeros(self._count, np.int64)
        for name in dict.fromkeys(_VALUES.values()):
            own, begin, end = self._owned(f"office:{name}")
            kinds = [each for each, value in _VALUES.items() if value == name]
            demand(among(kind[own], kinds))
            begins[own], ends[own] = begin, end
        return begins, ends

    def _times(self) -> Array:
        own, begins, ends = self._owned("table:number-columns-repeated")
        times = np.ones(self._count, dtype=np.int64)
        times[own] = self._counts(begins, ends)
        return times

    def _counts(self, begins: Array, ends: Array) -> Array:
        words = self._tags.strings(begins, ends)
        demand(np.all((ends > begins) & (ends - begins < 9)))
        letters = Bytes.of(words).used
        demand((letters >= ord("0")) & (letters <= ord("9")))
        times = stored(words.cast(pa.int64()), np.int64) if len(begins) else begins
        demand(times > 0)
        return times

    def _rows(self) -> tuple[Array, list[str]]:
        """Return how often each row stands there, and what is said of whether it is seen."""
        tags, held = self._tags, self._held
        rows = tags.of(_ROW, _EMPTY_ROW)
        number = tags.counted(_ROW, _EMPTY_ROW)
        times, seen = np.ones(len(rows), np.int64), [""] * len(rows)
        begins, ends = held.value
        places = held.named("table:number-rows-repeated")
        demand(tags.codes[held.tag[places]] < _CELL)
        times[number[held.tag[places]]] = self._counts(begins[places], ends[places])
        places = held.named("table:visibility")
        demand(tags.codes[held.tag[places]] < _CELL)
        words = tags.strings(begins[places], ends[places]).to_pylist()
        for place, word in zip(number[held.tag[places]].tolist(), words, strict=True):
            seen[place] = word
        return times, seen
