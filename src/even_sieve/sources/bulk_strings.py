"""Columns of many different strings, read all at once.

Plain decimals, ISO dates and words are found by their bytes and made into lanes whole;
what is left over is read token by token.
"""

from dataclasses import dataclass, field, replace
from operator import itemgetter
from typing import Any

import numpy as np
import pyarrow.compute as pc

from even_sieve.core.cells import Kind, fold
from even_sieve.core.cells.dates import DAY
from even_sieve.core.notices import Notice
from even_sieve.core.table import Column, column_from_codes
from even_sieve.core.table.build import assemble
from even_sieve.core.table.growing import join_columns
from even_sieve.core.table.lanes import (
    Array,
    DateLane,
    Lane,
    changed,
)
from even_sieve.sources.arrow_buffers import Bytes, mask_of, stored, take
from even_sieve.sources.byte_dates import (
    DATE_LENGTHS,
    OFFSET_DATE,
    dates,
    dates_with_offsets,
    moments,
)
from even_sieve.sources.byte_shapes import (
    LONG_CODE,
    decimals,
)
from even_sieve.sources.exponents import powers
from even_sieve.sources.shaped import Shaped
from even_sieve.sources.side_by_side import by_stretches
from even_sieve.sources.text_lanes import text_lane_of
from even_sieve.sources.tokens import TokenReader
from even_sieve.sources.woven import spread

#: What may be a number or a date, among strings that begin like one; all others are texts. Words
#: of three or eight letters may say that it is infinite.
_MAY_BE_ONE = (
    r"(?i)^[+-]*(?:\d*\.?\d*(?:e[+-]?\d+)?|[a-z]{3}|[a-z]{8})$"
    r"|^\d{4}-\d\d-\d\d(?:(?:T\d\d|[T ]\d\d:\d\d(?::\d\d(?:[.,]\d+)?)?)\s?(?:Z|[+-]\d\d[:\d]*)?)?$"
    r"|^\d{8}T\d"
)
#: Words that are no text: yes/no, and numbers beyond any.
_NO_TEXT = r"(?i)^(true|false|inf|infinity)$"

_BYTES = np.arange(256)
#: Which first bytes a number or a date can have; which only a word has.
_MAY_COUNT = np.isin(_BYTES, list(b"0123456789+-."))
_WORD = ~_MAY_COUNT & ~np.isin(_BYTES, list(b"\0#"))
#: The last bytes of a number, or of what is looked at as one; what goes on after a year, a day.
_ENDS_ONE = np.isin(_BYTES, list(b"0123456789.+-fFyY"))
_GOES_ON, _DAY, _MOMENT = np.isin(_BYTES, list(b"-tT")), 4, 8
_MAY_BE_NO_TEXT = np.isin(_BYTES, list(b"tTfFiI"))
#: Which bytes may begin or end white space, in ASCII or in UTF-8.
_SPACE, _NOT_ASCII = 0x20, 0x80
_SPACES = [letter.encode() for letter in map(chr, range(0x3001)) if letter.isspace()]
_BEGINS_SPACE, _ENDS_SPACE = (np.isin(_BYTES, [each[at] for each in _SPACES]) for at in (0, -1))


@dataclass
class Piece:
    """Some rows of a column: lanes of all kinds but text, states, and the texts themselves.

    `words` is an Arrow array of the texts alone, in the order of their rows; None without any.
    `apart` are rows, blank so far, whose cells do not go into these lanes, and their columns.
    """

    length: int
    lanes: dict[Kind, Lane]
    states: Array
    words: Any = None
    apart: list[tuple[Array, Column]] = field(default_factory=list)

    def put(self, kind: Kind, lane: Lane, rows: Array) -> None:
        """Add a lane made for some rows alone."""
        if len(rows) < self.length:
            lane = spread(lane, rows, self.length)
        self.lanes[kind] = lane
        self.states[rows] = kind

    def but_for_texts(self) -> tuple[dict[Kind, Lane], Array]:
        """Return the lanes of all kinds but text, and the states; what was apart is among them."""
        if not self.apart:
            return dict(self.lanes), self.states
        texts = self.states == Kind.TEXT
        states = np.where(texts, np.uint8(Kind.BLANK), self.states)
        column = assemble("", self.length, self.lanes, states)
        order = np.arange(self.length)
        rows = np.concatenate([own for own, _ in self.apart])
        order[rows] = np.arange(len(rows)) + self.length
        joined = join_columns("", (column, *(apart for _, apart in self.apart))).take(order)
        full = np.full(self.length, joined.only_kind, dtype=np.uint8)
        states = full if joined.states is None else joined.states
        states[texts] = Kind.TEXT
        return dict(joined.lanes), states


def trim(strings: Any) -> tuple[Any, int]:
    """Return the strings without outer white space, and how many had some."""
    text = Bytes.of(strings)
    used = text.used
    if not len(used) or (used.min() > _SPACE and used.max() < _NOT_ASCII):
        return strings, 0
    first, last = text.ends()
    if not (_BEGINS_SPACE[first].any() or _ENDS_SPACE[last].any()):
        return strings, 0
    trimmed = by_stretches(pc.utf8_trim_whitespace, strings)
    return trimmed, int(np.count_nonzero(Bytes.of(strings).lengths != Bytes.of(trimmed).lengths))


def column_of_piece(name: str, piece: Piece, notices: tuple[Notice, ...]) -> Column:
    """Return the column that a piece holds, its texts made into a lane."""
    lanes, states = piece.but_for_texts()
    if piece.words is not None:
        lane = text_lane_of(piece.words)
        if len(lane.codes) < piece.length:
            codes = np.zeros(piece.length, dtype=lane.codes.dtype)
            codes[piece.states == Kind.TEXT] = lane.codes
            lane = replace(lane, codes=codes)
        lanes[Kind.TEXT] = lane
    return assemble(name, piece.length, lanes, states, notices)


def read_piece(strings: Any, blank_as: tuple[str, ...], reader: TokenReader) -> Piece:
    """Return what trimmed strings hold.

    The reader takes what is read token by token, and remembers what it met.
    """
    first, _ = Bytes.of(strings).ends()
    found = Piece(len(strings), {}, np.full(len(strings), Kind.BLANK, dtype=np.uint8))
    left = first != 0
    rows = np.flatnonzero(_MAY_COUNT[first])
    some = Shaped(take(strings, rows))
    for kind, read in ((Kind.DATE, dates), (Kind.NUMBER, decimals)):
        places, lane = read(some)
        if lane is not None:
            found.put(kind, lane, rows[places])
            left[rows[places]] = False
            lengths = Bytes.of(some.strings).lengths[places]
            if kind is Kind.DATE and (lengths > DATE_LENGTHS[0]).any():
                reader.offsets.add(None)  # for the reader to tell, should others have offsets
            rows, some = _rest(rows, some, places)
    if Kind.DATE not in found.lanes:
        places = _put_dates_with_offsets(found, rows, some, reader)
        left[rows[places]] = False
        rows, some = _rest(rows, some, places)
    for put in (_put_moments, _put_powers):
        places = put(found, rows, some, reader)
        left[rows[places]] = False
        rows, some = _rest(rows, some, places)
    words = left & _WORD[first]
    words[rows[_are_codes(some)]] = True
    _drop_what_is_no_text(strings, first, words, blank_as)
    rest = np.flatnonzero(left & ~words)
    if len(rest):
        words[_put_rest(found, take(strings, rest), rest, reader)] = True
    rows = np.flatnonzero(words)
    if len(rows):
        found.words = take(strings, rows)
        found.states[rows] = Kind.TEXT
    return found


def _rest(rows: Array, some: Shaped, places: Array) -> tuple[Array, Shaped]:
    """Return the rows, and their strings, but for those at these places."""
    if not len(places):
        return rows, some
    kept = all_but(places, len(rows))
    return rows[kept], some.take(kept)


def _are_codes(some: Shaped) -> Array:
    """Tell of strings that begin as numbers do, and that were not read, which are texts, bool."""
    text = Bytes.of(some.strings)
    words = np.ones(len(some.strings), dtype=bool)
    if not len(words):
        return words
    digits = mask_of(pc.ascii_is_decimal(some.strings))
    led = text.data[text.offsets[:-1]] == ord("0")
    words[digits] = ((text.lengths >= LONG_CODE) | (led & (text.lengths > 1)))[digits]
    others = np.flatnonzero(~digits)
    starts, stops = text.offsets[others], text.offsets[others + 1]
    may_be = _ENDS_ONE[text.data[stops - 1]]
    for place in (_DAY, _MOMENT):  # of dates the beginning is enough
        may_be |= _GOES_ON[text.at(starts + place)]
    words[some.matching(others[may_be], _MAY_BE_ONE)] = False
    return words


def _put_dates_with_offsets(found: Piece, rows: Array, some: Shaped, reader: TokenReader) -> Array:
    """Put in the times that have an offset; return their places among the rows."""
    text = Bytes.of(some.strings)
    places = np.flatnonzero(text.lengths > DATE_LENGTHS[1])
    places = places[text.data[text.offsets[places] + 4] == ord("-")]
    places = some.matching(places, OFFSET_DATE)
    read = dates_with_offsets(take(some.strings, places)) if len(places) else None
    if read is None:
        return places[:0]
    lane, offsets = read
    found.put(Kind.DATE, lane, rows[places])
    reader.offsets |= offsets
    return places


def _put_moments(found: Piece, rows: Array, some: Shaped, reader: TokenReader) -> Array:
    """Put in dates and times in whatever ISO form, beside others; return their places."""
    read = moments(some)
    if read is None:
        return rows[:0]
    reader.offsets |= read.offsets
    reader.cut = reader.cut or read.cut
    known, micros = found.lanes.get(Kind.DATE), read.micros
    if isinstance(known, DateLane):
        before = known.values if known.has_time else known.values * np.int64(DAY)
        before[rows[read.places]] = micros
        micros = before
    has_time = bool((micros % DAY).any())
    lane = DateLane(micros if has_time else (micros // DAY).astype(np.int32), has_time)
    if known is None:
        found.put(Kind.DATE, lane, rows[read.places])
    else:
        found.lanes[Kind.DATE] = lane
        found.states[rows[read.places]] = Kind.DATE
    return read.places


def _put_powers(found: Piece, rows: Array, some: Shaped, reader: TokenReader) -> Array:
    """Put in numbers with exponents, apart where there are others; return their places."""
    places, column = powers(some)
    if column is None:
        return places[:0]
    if Kind.NUMBER in found.lanes:
        found.apart.append((rows[places], column))
    else:
        found.put(Kind.NUMBER, column.lanes[Kind.NUMBER], rows[places])
    return places


def _put_rest(found: Piece, tokens: Any, rows: Array, reader: TokenReader) -> Array:
    """Read tokens one by one and put all but text into their lanes; return the rows of text.

    Where there is such a lane already, they stay apart.
    """
    coded = tokens.dictionary_encode()
    cells = [reader.read(token) for token in coded.dictionary.to_pylist()]
    codes = stored(coded.indices, np.int32)
    is_text = np.array([isinstance(cell, str) for cell in cells])
    others = [None if isinstance(cell, str) else cell for cell in cells]
    column = column_from_codes("rest", others, codes)
    if set(column.lanes) & set(found.lanes):
        others_at = np.flatnonzero(~is_text[codes])
        found.apart.append((rows[others_at], column.take(others_at)))
    else:
        for kind, lane in column.lanes.items():
            here = slice(None) if column.states is None else column.states == kind
            found.put(kind, changed(lane, itemgetter(here)), rows[here])
    texts: Array = rows[is_text[codes]]
    return texts


def _drop_what_is_no_text(
    strings: Any, first: Array, words: Array, blank_as: tuple[str, ...]
) -> None:
    """Take out of the mask of words those that are yes/no, infinite, or stand for a blank."""
    may_be = np.flatnonzero(words & _MAY_BE_NO_TEXT[first])
    other = mask_of(pc.match_substring_regex(take(strings, may_be), _NO_TEXT))
    words[may_be[other]] = False
    if not blank_as:
        return
    rows = np.flatnonzero(words)
    coded = take(strings, rows).dictionary_encode()
    blanks = {fold(token.strip()) for token in blank_as}
    is_blank = np.array([fold(each) in blanks for each in coded.dictionary.to_pylist()], bool)
    words[rows[is_blank[stored(coded.indices, np.int32)]]] = False


def all_but(places: Array, length: int) -> Array:
    """Return all places below a length but these, ascending.

    >>> all_but(np.array([0, 2]), 4).tolist()
    [1, 3]
    """
    left = np.ones(length, dtype=bool)
    left[places] = False
    found: Array = np.flatnonzero(left)
    return found
