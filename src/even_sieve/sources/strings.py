"""Columns from Arrow arrays of strings, as text sources have them.

A column of few different tokens is read token by token. In a column of many, plain
decimals and ISO dates are read all at once, and what is left token by token.
"""

from dataclasses import dataclass, replace
from decimal import Decimal
from functools import partial
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.cells import Cell, Kind, fold, looks_like_number
from even_sieve.core.cells.dates import DAY
from even_sieve.core.notices import Code, Notice, counted
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
from even_sieve.sources.arrow import Strings, first_bytes, mask_of, stored, take
from even_sieve.sources.options import SourceOptions
from even_sieve.sources.tokens import TokenReader
from even_sieve.sources.written import read_ordered_date, read_written_number, where_all_agree

_SAMPLE = 4096
_MANY = 0.25
_LONGEST_DECIMAL = 15
_DECIMAL = r"^[+-]?(0|[1-9][0-9]*)(\.[0-9]*)?$"
_YES_NO = r"(?i)^(true|false)$"
_DAY = r"^[0-9]{4}-[0-9]{2}-[0-9]{2}$"
_TIME = r"^[0-9]{4}-[0-9]{2}-[0-9]{2}[T ][0-9]{2}:[0-9]{2}(:[0-9]{2}(\.[0-9]{1,6})?)?$"

_BYTES = np.arange(256)
#: Which first bytes a number or a date can have; which only a text or a yes/no has.
_MAY_COUNT = np.isin(_BYTES, list(b"0123456789+-."))
_WORD = ~_MAY_COUNT & ~np.isin(_BYTES, list(b"\0#"))
_MAY_BE_YES_NO = np.isin(_BYTES, list(b"tTfF"))


def column_from_strings(name: str, strings: Any, options: SourceOptions) -> Column:
    """Return a column from an Arrow array, or chunked array, of strings."""
    if isinstance(strings, pa.ChunkedArray):
        strings = strings.combine_chunks()
    if isinstance(strings, pa.ChunkedArray):  # more text than one array can hold
        strings = pa.concat_arrays([chunk.cast(pa.large_string()) for chunk in strings.chunks])
    trimmed = _count_trimmed(strings)
    column = None
    if _in_bulk(strings, options):
        column = _many_tokens(name, strings, options.blank_as)
    if column is None or _is_written(column):
        column = _token_by_token(name, strings, options)
    return replace(_with_date_notice(column), trimmed=trimmed)


def _count_trimmed(strings: Any) -> int:
    """Return how many strings have white space at an end."""
    if not pc.any(pc.match_substring(strings, " ")).as_py():
        return 0
    lengths = (pc.binary_length(each) for each in (strings, pc.utf8_trim_whitespace(strings)))
    return int(pc.sum(pc.not_equal(*lengths)).as_py() or 0)


def _in_bulk(strings: Any, options: SourceOptions) -> bool:
    """Tell whether a column is worth reading in bulk, and can be."""
    plain = options.decimal == "." and options.date_order is None
    return plain and _has_many(strings) and not any(map(_not_text, options.blank_as))


def _is_written(column: Column) -> bool:
    """Tell whether all texts of a column look like numbers as people write them."""
    lane = column.lanes.get(Kind.TEXT)
    if not isinstance(lane, TextLane) or Kind.DATE in column.counts:
        return False
    return all(map(looks_like_number, lane.spellings[:_SAMPLE]))


def _not_text(token: str) -> bool:
    """Tell whether a token that stands for a blank would be read as a number or the like."""
    return not isinstance(TokenReader().read(token), str)


def _has_many(strings: Any) -> bool:
    """Guess from a sample spread over the column whether most tokens differ."""
    if len(strings) < _SAMPLE:
        return False
    step = len(strings) // _SAMPLE
    sample = take(strings, np.arange(_SAMPLE) * step)
    return len(sample.unique()) > _MANY * _SAMPLE


def _token_by_token(name: str, strings: Any, options: SourceOptions) -> Column:
    coded = strings.dictionary_encode()
    reader = TokenReader(options.blank_as, options.decimal)
    cells = [reader.read(token) for token in coded.dictionary.to_pylist()]
    cells, notices = _as_written(name, cells, options)
    codes = stored(coded.indices, np.int32).astype(narrowest(len(cells)))
    return column_from_codes(name, cells, codes, (*reader.notices(name), *notices))


def _as_written(
    name: str, cells: list[Cell], options: SourceOptions
) -> tuple[list[Cell], tuple[Notice, ...]]:
    """Return the cells with dates in the order given, and numbers as people write them."""
    if options.date_order is not None:
        order = options.date_order
        cells = [
            (read_ordered_date(cell, order) or cell) if isinstance(cell, str) else cell
            for cell in cells
        ]
    read = partial(read_written_number, decimal=options.decimal)
    written = where_all_agree(cells, read, (int, float, Decimal))
    if written is None:
        return cells, ()
    position = next(i for i, cell in enumerate(cells) if isinstance(cell, str))
    text = (
        f"column '{name}': numbers written such as '{cells[position]}' were read as numbers, "
        f"this one as {written[position]}"
    )
    return written, (Notice(Code.WRITTEN_NUMBERS, text),)


@dataclass
class _Gathered:
    """Lanes of a column as they are found, and which rows are still to be read."""

    length: int
    lanes: dict[Kind, Lane]
    states: Array

    def put(self, kind: Kind, lane: Lane, rows: Array) -> None:
        """Add a lane made for some rows alone."""
        values = np.zeros(self.length, dtype=lane.values.dtype)
        values[rows] = lane.values
        self.lanes[kind] = _with_stored(lane, values)
        self.states[rows] = kind


def _many_tokens(name: str, strings: Any, blank_as: tuple[str, ...]) -> Column | None:
    """Return the column read in bulk; None if what is left over must be read with the rest."""
    strings = pc.utf8_trim_whitespace(strings)
    first = first_bytes(strings)
    found = _Gathered(len(strings), {}, np.full(len(strings), Kind.BLANK, dtype=np.uint8))
    left = first != 0
    for kind, read in ((Kind.NUMBER, _decimals), (Kind.DATE, _dates)):
        rows = np.flatnonzero(left & _MAY_COUNT[first])
        rows, lane = read(strings, rows)
        if lane is not None:
            found.put(kind, lane, rows)
            left[rows] = False
    words = _words(strings, np.flatnonzero(left & _WORD[first]), blank_as)
    left[words] = False
    rest, reader = np.flatnonzero(left), TokenReader(blank_as)
    if len(rest):
        texts = _put_rest(found, take(strings, rest), rest, reader)
        if texts is None:
            return None
        words = np.union1d(words, texts)
    if len(words):
        found.put(Kind.TEXT, _text_lane(take(strings, words)), words)
    return assemble(name, found.length, found.lanes, found.states, reader.notices(name))


def _put_rest(found: _Gathered, tokens: Any, rows: Array, reader: TokenReader) -> Array | None:
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


def _words(strings: Any, rows: Array, blank_as: tuple[str, ...]) -> Array:
    """Return those of the rows that can only be text, being neither yes/no nor blank."""
    may_be = rows[_MAY_BE_YES_NO[first_bytes(strings)[rows]]]
    words = np.setdiff1d(rows, _matching(strings, may_be, _YES_NO), assume_unique=True)
    if not blank_as:
        return words
    coded = take(strings, words).dictionary_encode()
    blanks = {fold(token.strip()) for token in blank_as}
    is_blank = np.array([fold(each) in blanks for each in coded.dictionary.to_pylist()], bool)
    kept: Array = words[~is_blank[stored(coded.indices, np.int32)]]
    return kept


def _text_lane(strings: Any) -> TextLane:
    """Return the lane of an array of texts; where all are ASCII, Arrow folds and sorts them."""
    coded = strings.dictionary_encode()
    codes = stored(coded.indices, np.int32)
    if not pc.all(pc.string_is_ascii(coded.dictionary)).as_py():
        return text_lane(coded.dictionary.to_pylist(), codes)
    folded = pc.ascii_lower(coded.dictionary)
    order = pc.array_sort_indices(folded)
    sort = stored(order, np.uint64)
    return TextLane(
        ranks(sort)[codes], Strings(coded.dictionary.take(order)), Strings(folded.take(order))
    )


def _with_stored(lane: Lane, values: Array) -> Lane:
    """Return the lane with other stored values."""
    if isinstance(lane, TextLane | ErrorLane):
        return replace(lane, codes=values)
    return replace(lane, values=values)


def _matching(strings: Any, rows: Array, pattern: str) -> Array:
    """Return those of the rows whose string matches the pattern."""
    if not len(rows):
        return rows
    some = strings if len(rows) == len(strings) else take(strings, rows)
    found: Array = rows[mask_of(pc.match_substring_regex(some, pattern))]
    return found


def _decimals(strings: Any, rows: Array) -> tuple[Array, FixedLane | None]:
    """Return the rows that hold plain decimals, and their lane; none if one is too long.

    At most 15 digits with the column's scale: the nearest double times the power of ten
    is then within half a unit of the decimal's digits, so rounding gives these exactly.
    """
    rows = _matching(strings, rows, _DECIMAL)
    if not len(rows):
        return rows, None
    tokens = take(strings, rows)
    point = stored(pc.find_substring(tokens, "."), _length_type(tokens))
    lengths = stored(pc.binary_length(tokens), _length_type(tokens))
    decimals = np.where(point >= 0, lengths - point - 1, 0)
    scale = int(decimals.max())
    whole = np.where(point >= 0, point, lengths)
    if int(whole.max()) + scale > _LONGEST_DECIMAL:
        return rows[:0], None
    doubles = stored(pc.cast(tokens, pa.float64()), np.float64)
    whole_units = np.rint(doubles * 10.0**scale).astype(np.int64)
    while scale and not (whole_units % 10).any():
        whole_units //= 10
        scale -= 1
    return rows, FixedLane(whole_units, scale)


def _length_type(strings: Any) -> Any:
    """Return the type in which Arrow counts within these strings."""
    return np.int64 if pa.types.is_large_string(strings.type) else np.int32


def _dates(strings: Any, rows: Array) -> tuple[Array, DateLane | None]:
    """Return the rows that hold ISO dates without offsets, and their lane; none if one is bad."""
    days = _matching(strings, rows, _DAY)
    times = _matching(strings, np.setdiff1d(rows, days, assume_unique=True), _TIME)
    if not len(days) + len(times):
        return days, None
    rows = np.union1d(days, times)
    try:
        stamps = pc.cast(take(strings, rows), pa.timestamp("us"))
    except pa.ArrowInvalid:  # a day that no calendar has: read token by token
        return rows[:0], None
    micros = stored(stamps, np.int64)
    if (micros % DAY).any():
        return rows, DateLane(micros, True)
    return rows, DateLane((micros // DAY).astype(np.int32), False)


def _with_date_notice(column: Column) -> Column:
    """Return the column with a notice if texts look like dates that could be read two ways."""
    like, lane = column.date_like, column.lanes.get(Kind.TEXT)
    if like is None or not isinstance(lane, TextLane):
        return column
    found = like[lane.codes]
    if column.states is not None:
        found &= column.states == Kind.TEXT
    count = int(found.sum())
    example = lane.spellings[int(np.flatnonzero(like)[0])]
    text = (
        f"column '{column.name}': {counted(count, 'cell')} such as '{example}' look like dates "
        "but are not written as YYYY-MM-DD; they were left as text"
    )
    return replace(column, notices=(*column.notices, Notice(Code.TEXT_LIKE_DATES, text)))
