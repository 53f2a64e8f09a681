"""Columns of many different strings, read all at once.

Plain decimals, ISO dates and words are found by their bytes and made into lanes whole;
what is left over is read token by token.
"""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.cells import Kind, fold
from even_sieve.core.cells.dates import DAY
from even_sieve.core.notices import Notice
from even_sieve.core.table import Column, column_from_codes
from even_sieve.core.table.build import assemble
from even_sieve.core.table.lanes import (
    Array,
    DateLane,
    ErrorLane,
    FixedLane,
    Lane,
    TextLane,
    narrowest,
    ranks,
    text_lane,
)
from even_sieve.sources.arrow import Bytes, Strings, mask_of, stored, take
from even_sieve.sources.tokens import TokenReader

LONGEST_DECIMAL = 15
_DECIMAL = r"^[+-]?(0|[1-9][0-9]*)(\.[0-9]*)?$"
_YES_NO = r"(?i)^(true|false)$"
_DATE = r"^[0-9]{4}-[0-9]{2}-[0-9]{2}([T ][0-9]{2}:[0-9]{2}(:[0-9]{2}(\.[0-9]{1,6})?)?)?$"
_DATE_SHAPE = "0000-00-00T00:00:00"
_DATE_LENGTHS = (10, 16, 19)

_BYTES = np.arange(256)
_ZERO, _NINE, _POINT, _PLUS, _MINUS = b"09.+-"
#: Which first bytes a number or a date can have; which only a text or a yes/no has.
_MAY_COUNT = np.isin(_BYTES, list(b"0123456789+-."))
_WORD = ~_MAY_COUNT & ~np.isin(_BYTES, list(b"\0#"))
_MAY_BE_YES_NO = np.isin(_BYTES, list(b"tTfF"))
#: Which bytes at an end of a string may be white space, in ASCII or in UTF-8.
_SPACE, _NOT_ASCII = 0x20, 0x80
_MAY_BE_SPACE = (_BYTES <= _SPACE) | (_BYTES >= _NOT_ASCII)


@dataclass
class Piece:
    """Some rows of a column: lanes of all kinds but text, states, and the texts themselves.

    `words` is an Arrow array of the texts alone, in the order of their rows; None without any.
    """

    length: int
    lanes: dict[Kind, Lane]
    states: Array
    words: Any = None

    def put(self, kind: Kind, lane: Lane, rows: Array) -> None:
        """Add a lane made for some rows alone."""
        if len(rows) < self.length:
            values = np.zeros(self.length, dtype=lane.values.dtype)
            values[rows] = lane.values
            lane = _with_stored(lane, values)
        self.lanes[kind] = lane
        self.states[rows] = kind


def trim(strings: Any) -> tuple[Any, int]:
    """Return the strings without outer white space, and how many had some."""
    text = Bytes.of(strings)
    used = text.used
    if not len(used) or (used.min() > _SPACE and used.max() < _NOT_ASCII):
        return strings, 0
    first, last = text.ends()
    may = (_MAY_BE_SPACE[first] | _MAY_BE_SPACE[last]) & (first != 0)
    if not may.any():
        return strings, 0
    trimmed = pc.utf8_trim_whitespace(strings)
    return trimmed, int(np.count_nonzero(Bytes.of(strings).lengths != Bytes.of(trimmed).lengths))


def read_in_bulk(name: str, strings: Any, blank_as: tuple[str, ...]) -> Column | None:
    """Return the column of trimmed strings; None if what is left over must be read with the rest.

    The strings are an Arrow array without nulls and without outer white space.
    """
    reader = TokenReader(blank_as)
    piece = read_piece(strings, blank_as, reader)
    if piece is None:
        return None
    return column_of_piece(name, piece, reader.notices(name))


def column_of_piece(name: str, piece: Piece, notices: tuple[Notice, ...]) -> Column:
    """Return the column that a piece holds, its texts made into a lane."""
    lanes = dict(piece.lanes)
    if piece.words is not None:
        lane = text_lane_of(piece.words)
        if len(lane.codes) < piece.length:
            codes = np.zeros(piece.length, dtype=lane.codes.dtype)
            codes[piece.states == Kind.TEXT] = lane.codes
            lane = replace(lane, codes=codes)
        lanes[Kind.TEXT] = lane
    return assemble(name, piece.length, lanes, piece.states, notices)


def read_piece(strings: Any, blank_as: tuple[str, ...], reader: TokenReader) -> Piece | None:
    """Return what trimmed strings hold; None if what is left over must be read with the rest.

    The reader takes what is read token by token, and remembers what it met.
    """
    first, _ = Bytes.of(strings).ends()
    found = Piece(len(strings), {}, np.full(len(strings), Kind.BLANK, dtype=np.uint8))
    left = first != 0
    for kind, read in ((Kind.DATE, _dates), (Kind.NUMBER, _decimals)):
        rows, lane = read(strings, np.flatnonzero(left & _MAY_COUNT[first]))
        if lane is not None:
            found.put(kind, lane, rows)
            left[rows] = False
            if kind is Kind.DATE and (Bytes.of(strings).lengths[rows] > _DATE_LENGTHS[0]).any():
                reader.offsets.add(None)  # for the reader to tell, should others have offsets
    words = left & _WORD[first]
    _drop_yes_no_and_blank(strings, first, words, blank_as)
    rest = np.flatnonzero(left & ~words)
    if len(rest):
        texts = _put_rest(found, take(strings, rest), rest, reader)
        if texts is None:
            return None
        words[texts] = True
    rows = np.flatnonzero(words)
    if len(rows):
        found.words = take(strings, rows)
        found.states[rows] = Kind.TEXT
    return found


def _put_rest(found: Piece, tokens: Any, rows: Array, reader: TokenReader) -> Array | None:
    """Read tokens one by one and put all but text into their lanes; return the rows of text.

    None if a lane that is there already would have to be joined with another.
    """
    coded = tokens.dictionary_encode()
    cells = [reader.read(token) for token in coded.dictionary.to_pylist()]
    codes = stored(coded.indices, np.int32)
    is_text = np.array([isinstance(cell, str) for cell in cells])
    others = [None if isinstance(cell, str) else cell for cell in cells]
    column = column_from_codes("rest", others, codes)
    if set(column.lanes) & set(found.lanes):
        return None
    for kind, lane in column.lanes.items():
        here = slice(None) if column.states is None else column.states == kind
        found.put(kind, _with_stored(lane, lane.values[here]), rows[here])
    texts: Array = rows[is_text[codes]]
    return texts


def _drop_yes_no_and_blank(
    strings: Any, first: Array, words: Array, blank_as: tuple[str, ...]
) -> None:
    """Take out of the mask of words those that are yes/no or stand for a blank."""
    may_be = np.flatnonzero(words & _MAY_BE_YES_NO[first])
    words[_matching(strings, may_be, _YES_NO)] = False
    if not blank_as:
        return
    rows = np.flatnonzero(words)
    coded = take(strings, rows).dictionary_encode()
    blanks = {fold(token.strip()) for token in blank_as}
    is_blank = np.array([fold(each) in blanks for each in coded.dictionary.to_pylist()], bool)
    words[rows[is_blank[stored(coded.indices, np.int32)]]] = False


def text_lane_of(strings: Any) -> TextLane:
    """Return the lane of an array of texts; where all are ASCII, Arrow folds and sorts them."""
    if not pc.all(pc.string_is_ascii(strings)).as_py():
        coded = strings.dictionary_encode()
        return text_lane(coded.dictionary.to_pylist(), stored(coded.indices, np.int32))
    folded = _lowered(strings)
    if pc.all(pc.less(folded[:-1], folded[1:])).as_py() is not False:  # numbered in order
        codes = np.arange(len(strings), dtype=narrowest(len(strings)))
        return TextLane(codes, Strings(strings), Strings(folded))
    coded = strings.dictionary_encode()
    folded = _lowered(coded.dictionary)
    order = pc.array_sort_indices(folded)
    sort = stored(order, np.uint64)
    codes = ranks(sort)[stored(coded.indices, np.int32)]
    return TextLane(codes, Strings(coded.dictionary.take(order)), Strings(folded.take(order)))


def _lowered(strings: Any) -> Any:
    """Return ASCII strings in lower case: the same array if they are."""
    lowered = pc.ascii_lower(strings)
    return strings if strings.equals(lowered) else lowered


def _with_stored(lane: Lane, values: Array) -> Lane:
    """Return the lane with other stored values."""
    if isinstance(lane, TextLane | ErrorLane):
        return replace(lane, codes=values)
    return replace(lane, values=values)


def _matching(strings: Any, rows: Array, pattern: str) -> Array:
    """Return those of the rows whose string matches the pattern."""
    if not len(rows):
        return rows
    found: Array = rows[mask_of(pc.match_substring_regex(take(strings, rows), pattern))]
    return found


def _decimals(strings: Any, rows: Array) -> tuple[Array, FixedLane | None]:
    """Return the rows that hold plain decimals, and their lane; none if one is too long.

    At most 15 digits with the column's scale: the nearest double times the power of ten
    is then within half a unit of the decimal's digits, so rounding gives these exactly.
    """
    tokens = take(strings, rows)
    doubles = _doubles_of_plain(tokens) if len(rows) else None
    if doubles is None:
        rows = _matching(strings, rows, _DECIMAL)
        if not len(rows):
            return rows, None
        tokens = take(strings, rows)
        doubles = stored(pc.cast(tokens, pa.float64()), np.float64)
    whole, decimals = _digits(tokens)
    scale = int(decimals.max())
    if int(whole.max()) + scale > LONGEST_DECIMAL:
        return rows[:0], None
    units = np.rint(doubles * 10.0**scale).astype(np.int64)
    while scale and not (units % 10).any():
        units //= 10
        scale -= 1
    return rows, FixedLane(units, scale)


def _doubles_of_plain(tokens: Any) -> Array | None:
    """Return the numbers if every token is a plain decimal; None if one is not.

    Looks at the bytes: digits and points, a sign at the beginning alone, no zero before
    another digit. Arrow refuses what has two points.
    """
    text = Bytes.of(tokens)
    used = text.used
    if used.min() < _PLUS or used.max() > _NINE or (used == ord(",")).any():
        return None
    if (used == ord("/")).any():
        return None
    starts = text.offsets[:-1]
    begins = text.data[starts]
    signed = begins < _POINT
    if np.count_nonzero(used < _POINT) != np.count_nonzero(signed):
        return None
    starts = starts + signed
    if signed.any():
        begins = text.at(starts)
    if (begins < _ZERO).any():
        return None
    zeros = np.flatnonzero(begins == _ZERO)
    after, stops = starts[zeros] + 1, text.offsets[1:][zeros]
    if ((after < stops) & (text.at(after) != _POINT)).any():
        return None
    try:
        return stored(pc.cast(tokens, pa.float64()), np.float64)
    except pa.ArrowInvalid:
        return None


def _digits(tokens: Any) -> tuple[Array, Array]:
    """Return how many bytes stand before the point of each token, and how many after it."""
    text = Bytes.of(tokens)
    lengths = text.lengths
    if not (text.used == _POINT).any():
        return lengths, np.zeros(1, dtype=lengths.dtype)
    point = stored(pc.find_substring(tokens, "."), lengths.dtype)
    return np.where(point >= 0, point, lengths), np.where(point >= 0, lengths - point - 1, 0)


def _dates(strings: Any, rows: Array) -> tuple[Array, DateLane | None]:
    """Return the rows that hold ISO dates without offsets, and their lane; none if one is bad."""
    text = Bytes.of(strings)
    rows = rows[text.lengths[rows] >= _DATE_LENGTHS[0]]
    rows = rows[text.data[text.offsets[rows] + 4] == _MINUS]
    if not len(rows):
        return rows, None
    tokens = take(strings, rows)
    if not _all_shaped_like_dates(tokens):
        rows = _matching(strings, rows, _DATE)
        tokens = take(strings, rows)
    if not len(rows):
        return rows, None
    try:
        stamps = pc.cast(tokens, pa.timestamp("us"))
    except pa.ArrowInvalid:  # a day that no calendar has: read token by token
        return rows[:0], None
    micros = stored(stamps, np.int64)
    if (micros % DAY).any():
        return rows, DateLane(micros, True)
    return rows, DateLane((micros // DAY).astype(np.int32), False)


def _all_shaped_like_dates(tokens: Any) -> bool:
    """Tell whether all tokens have one length and the shape of an ISO date of that length."""
    text = Bytes.of(tokens)
    length = int(text.offsets[1] - text.offsets[0])
    if length not in _DATE_LENGTHS or (text.lengths != length).any():
        return False
    letters = text.used.reshape(len(tokens), length)
    for place, sign in enumerate(_DATE_SHAPE[:length]):
        column = letters[:, place]
        if sign == "0":
            fits = (column >= _ZERO) & (column <= _NINE)
        else:
            fits = column == ord(sign)
            if sign == "T":
                fits |= column == ord(" ")
        if not fits.all():
            return False
    return True
