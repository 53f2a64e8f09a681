"""Columns of many different strings, read all at once.

Plain decimals, ISO dates and words are found by their bytes and made into lanes whole;
what is left over is read token by token.
"""

from operator import itemgetter
from typing import Any

import numpy as np
import pyarrow.compute as pc

from even_sieve.core.cells import Kind
from even_sieve.core.cells.dates import DAY
from even_sieve.core.table import column_from_codes
from even_sieve.core.table.lanes import (
    Array,
    DateLane,
    changed,
)
from even_sieve.sources.arrow_buffers import (
    Bytes,
    stored,
    take,
)
from even_sieve.sources.bulk_words import (
    are_codes,
    certain_words,
    drop_what_is_no_text,
    no_errors,
)
from even_sieve.sources.byte_dates import (
    DATE_LENGTHS,
    OFFSET_DATE,
    all_dates,
    dates,
    dates_with_offsets,
    lane_of_moments,
    moments,
)
from even_sieve.sources.byte_shapes import (
    all_decimals,
    decimals,
)
from even_sieve.sources.column_piece import Piece
from even_sieve.sources.exponents import powers
from even_sieve.sources.shaped import Shaped
from even_sieve.sources.side_by_side import by_stretches
from even_sieve.sources.tokens import TokenReader
from even_sieve.sources.told_cells import UNSURE, Told

_BYTES = np.arange(256)
#: Which first bytes a number or a date can have; which only a word has.
_MAY_COUNT = np.isin(_BYTES, list(b"0123456789+-."))
_WORD = ~_MAY_COUNT & ~np.isin(_BYTES, list(b"\0#"))
_SHARP = ord("#")
#: Which bytes may begin or end white space, in ASCII or in UTF-8.
_SPACE, _NOT_ASCII = 0x20, 0x80
_SPACES = [letter.encode() for letter in map(chr, range(0x3001)) if letter.isspace()]
_BEGINS_SPACE, _ENDS_SPACE = (np.isin(_BYTES, [each[at] for each in _SPACES]) for at in (0, -1))


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


def read_piece(strings: Any, blank_as: tuple[str, ...], reader: TokenReader) -> Piece:
    """Return what trimmed strings hold.

    The reader takes what is read token by token, and remembers what it met.
    """
    told = None if blank_as else Told.of(strings)
    piece = None if told is None else _piece_of(told, reader)
    return _by_passes(strings, blank_as, reader) if piece is None else piece


def _piece_of(told: Told, reader: TokenReader) -> Piece | None:
    """Return what was told of trimmed strings; None where these are better read together."""
    if told.unsure == len(told.strings):
        return None
    own, rest = TokenReader(), None
    if told.unsure:
        rest = _by_passes(take(told.strings, np.flatnonzero(told.states == UNSURE)), (), own)
    piece = told.piece(own)
    if piece is not None and rest is not None:
        piece = told.with_rest(piece, rest)
    if piece is not None:
        reader.merge(own)
    return piece


def _by_passes(strings: Any, blank_as: tuple[str, ...], reader: TokenReader) -> Piece:
    """Return the same, told by several passes over all strings."""
    text = Bytes.of(strings)
    first, _ = text.ends()
    found = Piece(len(strings), {}, np.full(len(strings), Kind.BLANK, dtype=np.uint8))
    left = text.lengths > 0
    if _put_of_one_kind(found, strings, first, np.flatnonzero(left), reader):
        return found
    rows = np.flatnonzero(_MAY_COUNT[first])
    some = Shaped(take(strings, rows))
    certain = certain_words(some.strings)
    words_at = rows[certain]
    rows, some = _rest(rows, some, certain)
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
    words[words_at] = True
    words[rows[are_codes(some)]] = True
    words[no_errors(strings, np.flatnonzero(left & (first == _SHARP)))] = True
    drop_what_is_no_text(strings, first, words, blank_as)
    rest = np.flatnonzero(left & ~words)
    if len(rest):
        words[_put_rest(found, take(strings, rest), rest, reader)] = True
    rows = np.flatnonzero(words)
    if len(rows):
        found.words = take(strings, rows)
        found.states[rows] = Kind.TEXT
    return found


def _put_of_one_kind(
    found: Piece, strings: Any, first: Array, rows: Array, reader: TokenReader
) -> bool:
    """Put in these rows, all that are not blank, if they are of one kind and plainly written."""
    if not len(rows) or not _MAY_COUNT[first[rows]].all():
        return False
    some = take(strings, rows)
    times = all_dates(some)
    lane = all_decimals(some) if times is None else times
    if lane is None:
        return False
    found.put(Kind.NUMBER if times is None else Kind.DATE, lane, rows)
    if times is not None and Bytes.of(some).lengths[0] > DATE_LENGTHS[0]:
        reader.offsets.add(None)
    return True


def begin_as_numbers(strings: Any) -> bool:
    """Tell whether all strings begin as numbers and dates do, but for empty ones."""
    first, _ = Bytes.of(strings).ends()
    return bool((_MAY_COUNT[first] | (first == 0)).all())


def _rest(rows: Array, some: Shaped, places: Array) -> tuple[Array, Shaped]:
    """Return the rows, and their strings, but for those at these places."""
    if not len(places):
        return rows, some
    kept = all_but(places, len(rows))
    return rows[kept], some.take(kept)


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
    lane = lane_of_moments(micros)
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


def all_but(places: Array, length: int) -> Array:
    """Return all places below a length but these, ascending.

    >>> all_but(np.array([0, 2]), 4).tolist()
    [1, 3]
    """
    left = np.ones(length, dtype=bool)
    left[places] = False
    found: Array = np.flatnonzero(left)
    return found
