"""Columns from Arrow arrays of strings, as text sources have them.

A column of few different strings is read one different string at a time; a column of
many is read in bulk.
"""

import re
from bisect import bisect_left
from collections.abc import Callable, Iterable
from dataclasses import replace
from decimal import Decimal
from functools import cache, partial
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.cells import Cell, Kind, read_number
from even_sieve.core.cells.written import (
    Conventions,
    read_ordered_date,
    read_written_number,
    where_all_agree,
)
from even_sieve.core.notices import Code, Notice
from even_sieve.core.table import Column, column_from_codes
from even_sieve.core.table.arrays import pick
from even_sieve.core.table.lanes import (
    Array,
    DateLane,
    FixedLane,
    TextLane,
    changed,
    narrowest,
)
from even_sieve.sources.arrow_buffers import Bytes, mask_of, spread_over, stored
from even_sieve.sources.bulk_strings import trim
from even_sieve.sources.by_shape import read_by_shape
from even_sieve.sources.byte_dates import all_days
from even_sieve.sources.byte_shapes import all_decimals, whole_numbers
from even_sieve.sources.currencies import mixed_currencies
from even_sieve.sources.growing_cells import read_in_bulk
from even_sieve.sources.like_dates import with_date_notice
from even_sieve.sources.set_aside import without_blanks
from even_sieve.sources.shown_by_source import shown_in_texts
from even_sieve.sources.side_by_side import side_by_side
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.tokens import TokenReader
from even_sieve.sources.told_columns import cells_of_tokens, column_told
from even_sieve.sources.written_shapes import read_in_shape, written_notice

_SAMPLE, _SHOWN = 4096, 128
_MANY = 0.25
#: Texts of fewer rows are read sooner one by one.
_TEXTS = 1000
_FEW = 256
_MOST = 2**63 - 1


def column_from_strings(name: str, strings: Any, options: SourceOptions) -> Column:
    """Return a column from an Arrow array, or chunked array, of strings."""
    if isinstance(strings, pa.ChunkedArray):
        strings = strings.combine_chunks()
    if isinstance(strings, pa.ChunkedArray):  # more text than one array can hold
        strings = pa.concat_arrays([chunk.cast(pa.large_string()) for chunk in strings.chunks])
    many = has_many(strings)
    if many or len(strings) <= _SAMPLE:
        told = column_told(name, strings, options, many or len(strings) >= _TEXTS)
        if told is not None:
            return told
    if many:
        plain = _plain(name, strings, options)
        if plain is not None:
            return plain
        trimmed, count = trim(strings)
        column = _read_together(name, trimmed, options)
        if column is not None:
            return replace(with_date_notice(column), trimmed=count)
    if len(strings) <= _FEW:
        return column_of_tokens(name, *_numbered(strings.to_pylist()), options)
    if not many and len(strings) <= _SAMPLE and reads_in_bulk(options) and not options.blank_as:
        lane = all_decimals(strings) if Bytes.of(strings).lengths.all() else None
        if lane is not None:
            return Column(name, len(strings), {Kind.NUMBER: lane})
    coded = strings.dictionary_encode()
    codes = stored(coded.indices, np.int32)
    if len(coded.dictionary) > _SAMPLE and not many:
        column = _of_many_tokens(name, coded.dictionary, codes, options)
        if column is not None:
            return column
    return column_of_tokens(name, coded.dictionary.to_pylist(), codes, options)


def _plain(name: str, strings: Any, options: SourceOptions) -> Column | None:
    """Return the column of whole numbers, or of ISO days, which no mark and no order changes.

    None for others.
    """
    if any(map(_not_text, options.blank_as)):
        return None
    lane: FixedLane | DateLane
    if (values := _cast(whole_numbers, strings)) is not None:
        lane = FixedLane(values, 0)
    elif (values := _cast(all_days, strings)) is not None:
        lane = DateLane(values, False)
    else:
        return None
    mark = options.decimal_mark
    conventions = Conventions(mark, options.date_order, mark != ".")
    kind = Kind.NUMBER if isinstance(lane, FixedLane) else Kind.DATE
    return Column(name, len(strings), {kind: lane}, conventions=conventions)


def _cast(cast: Callable[[Any], FixedLane | DateLane | None], strings: Any) -> Array | None:
    """Return the values of what all strings are cast to, stretch by stretch; None if one is not."""
    parts = side_by_side(lambda rows: cast(strings[rows]), len(strings))
    values = [each.values for each in parts if each is not None]
    if len(values) < len(parts):
        return None
    return values[0] if len(values) == 1 else np.concatenate(values)


def _numbered(texts: list[str]) -> tuple[list[str], Array]:
    """Return the different texts, and the position of each text's own among them."""
    places: dict[str, int] = {}
    codes = [places.setdefault(text, len(places)) for text in texts]
    return list(places), np.array(codes, dtype=np.int32)


def _read_together(name: str, trimmed: Any, options: SourceOptions) -> Column | None:
    """Return the column of strings without outer space, read in bulk; None where that cannot be."""
    trimmed = without_blanks(trimmed, options.blank_as)
    options = replace(options, blank_as=())
    column = read_in_shape(name, trimmed, options)
    if column is not None:
        return column
    if not reads_in_bulk(options):
        return read_by_shape(name, trimmed, options, lambda: None)

    @cache
    def bulk() -> Column:
        return read_in_bulk(name, trimmed)

    if _mostly_written(trimmed):  # in bulk they would be put in order as texts
        column = read_by_shape(name, trimmed, options, bulk)
        if column is not None:
            return column
    if not is_written(bulk()):
        return bulk()
    return read_by_shape(name, trimmed, options, bulk)


def _of_many_tokens(name: str, tokens: Any, codes: Array, options: SourceOptions) -> Column | None:
    """Return a column from many different strings, each read once, and the codes of the rows."""
    trimmed, count = trim(tokens)
    column = _read_together(name, trimmed, options)
    if column is None:
        return None
    lanes = {kind: changed(lane, lambda e: pick(e, codes)) for kind, lane in column.lanes.items()}
    states = column.states
    made = replace(
        column,
        length=len(codes),
        lanes=lanes,
        states=None if states is None else pick(states, codes),
    )
    spaced = mask_of(pc.not_equal(tokens, trimmed)) if count else None
    return replace(
        with_date_notice(made),
        trimmed=0 if spaced is None else int(np.count_nonzero(spaced[codes])),
    )


def reads_in_bulk(options: SourceOptions) -> bool:
    """Tell whether the options leave tokens to be read by their bytes."""
    plain = options.decimal_mark == "." and options.date_order is None
    return plain and not any(map(_not_text, options.blank_as))


def _mostly_written(strings: Any) -> bool:
    """Guess from some of them whether most strings are numbers as people write them."""
    some = spread_over(strings, _SHOWN).to_pylist()
    odd = [each for each in some if read_number(each) is None]
    return sum(read_written_number(each) is not None for each in odd) > len(some) // 2


def is_written(column: Column) -> bool:
    """Tell whether all texts of a column look like numbers as people write them."""
    lane = column.lanes.get(Kind.TEXT)
    if not isinstance(lane, TextLane) or Kind.DATE in column.counts:
        return False
    waiting = lane.of_rows
    if waiting is not None and not _are_written(waiting.spellings[:_SHOWN]):
        return False
    starts = (bisect_left(lane.folded, letter) for letter in _BEFORE_WORDS)
    places = (*starts, max(len(lane.spellings) - _SAMPLE, 0), 0)
    return _are_written(e for start in places for e in lane.spellings[start : start + _SAMPLE])


def _are_written(texts: Iterable[str]) -> bool:
    return all(read_written_number(each) is not None for each in texts)


#: Letters that come before words in the order of texts: words stand among signs of currencies.
_BEFORE_WORDS = ("a", "\u00a6", "\u20d0")


def _not_text(token: str) -> bool:
    """Tell whether a token that stands for a blank would be read as a number or the like."""
    return not isinstance(TokenReader().read(token), str)


def has_many(strings: Any) -> bool:
    """Guess from a sample spread over the column whether most tokens differ."""
    if len(strings) < _SAMPLE:
        return False
    sample = spread_over(strings, _SAMPLE)
    return len(sample.unique()) > _MANY * len(sample)


def column_of_tokens(name: str, tokens: list[str], codes: Array, options: SourceOptions) -> Column:
    """Return a column from the different strings and, for each row, the position of its own."""
    plain = _of_plain_numbers(name, tokens, codes, options)
    if plain is not None:
        return plain
    reader = TokenReader(options.blank_as, options.decimal_mark)
    cells, notices = _as_written(name, cells_of_tokens(tokens, reader), options)
    codes = codes.astype(narrowest(len(cells)), copy=False)
    spaced = np.array([token != token.strip() for token in tokens], dtype=bool)
    trimmed = int(np.count_nonzero(spaced[codes])) if spaced.any() else 0
    numbers = [t for t, c in zip(tokens, cells, strict=True) if isinstance(c, Decimal)]
    notices = (*mixed_currencies(name, numbers), *notices)
    column = column_from_codes(name, cells, codes, (*reader.notices(name), *notices))
    as_written = (
        any(each.code is Code.WRITTEN_NUMBERS for each in notices) or options.decimal_mark != "."
    )
    conventions = Conventions(options.decimal_mark, options.date_order, as_written)
    shown = shown_in_texts(numbers)
    return replace(with_date_notice(column), trimmed=trimmed, conventions=conventions, shown=shown)


#: A number of at most 15 digits, written plainly.
_PLAIN = re.compile(r"(?=.{1,15}\Z)-?(?:0|[1-9][0-9]*)(?:\.[0-9]+)?", re.ASCII)


def _of_plain_numbers(
    name: str, tokens: list[str], codes: Array, options: SourceOptions
) -> Column | None:
    """Return the column where all tokens are plain numbers: told at once; None for others."""
    if options.decimal_mark != "." or options.blank_as or not tokens:
        return None
    if not all(map(_PLAIN.fullmatch, tokens)):
        return None
    parts = [token.partition(".") for token in tokens]
    scale = max(len(part.rstrip("0")) for _, _, part in parts)
    stored = [int(whole + part[:scale].ljust(scale, "0")) for whole, _, part in parts]
    if max(map(abs, stored)) > _MOST:
        return None
    lane = FixedLane(pick(np.array(stored, dtype=np.int64), codes), scale)
    conventions = Conventions(options.decimal_mark, options.date_order, False)
    return Column(name, len(codes), {Kind.NUMBER: lane}, None, (), 0, conventions)


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
    read = partial(read_written_number, decimal=options.decimal_mark)
    written = where_all_agree(cells, read, (int, float, Decimal))
    if written is None:
        return cells, ()
    position = next(i for i, cell in enumerate(cells) if isinstance(cell, str))
    return written, (written_notice(name, cells[position], written[position]),)
