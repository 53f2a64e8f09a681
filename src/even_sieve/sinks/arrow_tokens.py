"""Cells as tokens of text files, so many rows at once: Arrow arrays of strings.

What a text file has of a cell hangs on the format: a `Spelling` says what of a number, of a day,
of a text. Each different text is spelt once where there are few.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.cells import Cell, Kind
from even_sieve.core.table import Column
from even_sieve.core.table.lanes import (
    Array,
    DateLane,
    ErrorLane,
    FixedLane,
    FloatLane,
    Lane,
    TextLane,
    YesNoLane,
)
from even_sieve.sources.arrow_buffers import (
    Bytes,
    array_of,
    fitting,
    scalar_of,
    strings_of,
    take,
    take_any,
)
from even_sieve.sources.arrow_strings import Strings

#: So many rows are spelt at once; of so many texts each different one is spelt by itself.
ROWS = 1 << 16
_FEW = 1 << 18
#: With more decimals Arrow writes small numbers with exponents; single ones have them sooner.
_PLAIN_DECIMALS, _PLAIN_ALONE = 6, 4
_SIGN = 63
_WIDE = pa.large_string()
#: The letters of a time to the second, and of one to the minute.
_TO_SECOND, _TO_MINUTE, _SEPARATOR = 19, 16, 10
_MICROS = 1_000_000


def as_it_is(strings: Any) -> Any:
    """Return strings unchanged."""
    return strings


@dataclass(frozen=True)
class Spelling:
    """How a format spells cells.

    `one` is of a cell by itself, with the decimals of its column; `text` is of texts, `error` of
    errors, `number` of numbers, `date` of dates: each takes an Arrow array of strings and returns
    another. `blank` stands for none; `places` keeps the zeros at the end of decimals; `dates` gives
    the strings of what a lane stores, where these are not those of ISO 8601.
    """

    one: Callable[[Cell, int], str]
    text: Callable[[Any], Any] = as_it_is
    error: Callable[[Any], Any] = as_it_is
    date: Callable[[Any], Any] = as_it_is
    number: Callable[[Any], Any] = as_it_is
    blank: str = ""
    places: bool = True
    dates: Callable[[DateLane, Array], Any] | None = None


def tokens_of(column: Column, spelling: Spelling) -> Callable[[slice], Any]:
    """Return what spells some rows of a column: an Arrow array of large strings.

    >>> from even_sieve.core.table import column_from
    >>> from even_sieve.sinks.tokens import token
    >>> dues = column_from("dues", [12.5, None, -0.25, "waived"])
    >>> tokens_of(dues, Spelling(token))(slice(0, 4)).to_pylist()
    ['12.50', '', '-0.25', 'waived']
    """
    spellers = {
        kind: _spelt(lane, column.decimals, spelling)
        for kind, lane in column.lanes.items()
        if kind in column.counts
    }
    blank = strings_of([spelling.blank]).cast(_WIDE)

    def some(rows: slice) -> Any:
        if column.states is None:
            return spellers[column.only_kind](np.arange(rows.start, rows.stop)).cast(_WIDE)
        states = column.states[rows]
        parts, places = [], []
        for kind in np.unique(states).tolist():
            own = np.flatnonzero(states == kind)
            places.append(own)
            if kind == Kind.BLANK:
                parts.append(take_any(blank, np.zeros(len(own), dtype=np.int64)))
            else:
                parts.append(spellers[Kind(kind)](own + rows.start).cast(_WIDE))
        return _woven(parts, places)

    if not spellers:
        return lambda rows: take_any(blank, np.zeros(rows.stop - rows.start, dtype=np.int64))
    return some


def joined(arrays: Sequence[Any], between: str, behind: str) -> bytes:
    """Return strings as lines: the first of each array, and so on, with what stands between.

    >>> joined([strings_of(["a", "b"]), strings_of(["1", "2"])], ",", ";")
    b'a,1;b,2;'
    """
    *before, last = [each.cast(_WIDE) for each in arrays]
    last = glued(last, behind)
    whole = pc.binary_join_element_wise(*before, last, scalar_of(between, _WIDE))
    return bytes(Bytes.of(whole).used.tobytes())


def glued(*parts: Any) -> Any:
    """Return strings put together; a part is an Arrow array, or a text for all.

    >>> glued("'", strings_of(["a"]), "'").to_pylist()
    ["'a'"]
    """
    held = [scalar_of(e, _WIDE) if isinstance(e, str) else e.cast(_WIDE) for e in parts]
    return pc.binary_join_element_wise(*held, scalar_of("", _WIDE))


def spelt_apart(
    strings: Any,
    pattern: str,
    change: Callable[[Any], Any],
    usual: Callable[[Any], Any] = as_it_is,
) -> Any:
    """Return strings, those changed in which a pattern (of RE2) is found, the others as usual.

    >>> spelt_apart(strings_of(["a", "=b"]), "^=", lambda own: glued("'", own)).to_pylist()
    ['a', "'=b"]
    """
    odd = fitting(strings, pattern)
    if not odd.any():
        return usual(strings)
    places = [np.flatnonzero(~odd), np.flatnonzero(odd)]
    made = [make(take(strings, own)) for make, own in zip((usual, change), places, strict=True)]
    return _woven([each.cast(_WIDE) for each in made], places)


def filled_alone(values: Any, changed: Any) -> Any:
    """Return changed strings; nothing where there was nothing."""
    lengths = pc.binary_length(values)
    return pc.if_else(pc.not_equal(lengths, scalar_of(0, lengths.type)), changed, values)


def _woven(parts: Sequence[Any], places: Sequence[Array]) -> Any:
    """Return arrays as one, each item at its place."""
    if len(parts) == 1:
        return parts[0]
    at = np.concatenate(places)
    order = np.empty(len(at), dtype=np.int64)
    order[at] = np.arange(len(at))
    return take_any(pa.concat_arrays(parts), order)


def _spelt(lane: Lane, decimals: int, spelling: Spelling) -> Callable[[Array], Any]:
    """Return what spells the rows of a lane at these positions."""
    if isinstance(lane, TextLane):
        return _texts(lane, spelling)
    if isinstance(lane, ErrorLane):
        return _coded(spelling.error(strings_of(list(map(str, lane.errors)))), lane.codes)
    if isinstance(lane, YesNoLane):
        words = strings_of([spelling.one(each, 0) for each in (False, True)])
        return _coded(words, lane.values)
    if isinstance(lane, DateLane):
        strings = spelling.dates or _moments
        return lambda rows: spelling.date(strings(lane, lane.values[rows]))
    spelt = _numbers(lane, decimals, spelling)
    return lambda rows: spelling.number(spelt(rows))


def _numbers(lane: Lane, decimals: int, spelling: Spelling) -> Callable[[Array], Any]:

    def one_by_one(cells: Sequence[Cell]) -> Any:
        return strings_of([spelling.one(cell, decimals) for cell in cells])

    most = _PLAIN_DECIMALS if spelling.places else _PLAIN_ALONE
    if isinstance(lane, FixedLane) and lane.scale == decimals <= most:
        if decimals and not spelling.places:
            return lambda rows: _without_zeros(lane.values[rows], decimals)
        return lambda rows: _fixed(lane.values[rows], decimals)
    if isinstance(lane, FloatLane) and not lane.longer:
        doubles = lane.values
        return lambda rows: one_by_one((doubles[rows] + 0.0).tolist())  # -0.0 is 0.0
    return lambda rows: one_by_one(list(map(lane.cell, rows.tolist())))


def _coded(words: Any, codes: Array) -> Callable[[Array], Any]:
    return lambda rows: take_any(words, codes[rows].astype(np.int64))


def _texts(lane: TextLane, spelling: Spelling) -> Callable[[Array], Any]:
    texts = lane.spellings
    words = texts.array if isinstance(texts, Strings) else strings_of(texts)
    if len(words) <= min(_FEW, len(lane.codes)):
        return _coded(spelling.text(words), lane.codes)
    plain = _coded(words, lane.codes)
    return lambda rows: spelling.text(plain(rows))


def _fixed(values: Array, decimals: int) -> Any:
    """Return whole numbers, so many of whose digits are decimals, as strings.

    >>> _fixed(np.array([1250, -5]), 2).to_pylist()
    ['12.50', '-0.05']
    """
    values = values.astype(np.int64)
    if not decimals:
        return array_of(values, pa.int64()).cast(_WIDE)
    halves = np.stack((values, values >> _SIGN), axis=1)  # the lower one first
    return array_of(halves, pa.decimal128(38, decimals)).cast(_WIDE)


def _without_zeros(values: Array, decimals: int) -> Any:
    """Return the same without the zeros at the end of decimals.

    >>> _without_zeros(np.array([1250, -500, 7, 0]), 2).to_pylist()
    ['12.5', '-5', '0.07', '0']
    """
    values = values.astype(np.int64)
    needed = np.full(len(values), decimals)
    for left in range(decimals - 1, -1, -1):
        needed[values % 10 ** (decimals - left) == 0] = left
    parts, places = [], []
    for count in np.unique(needed).tolist():
        own = np.flatnonzero(needed == count)
        places.append(own)
        parts.append(_fixed(values[own] // 10 ** (decimals - count), count))
    return _woven(parts, places)


def _moments(lane: DateLane, values: Array) -> Any:
    """Return days, or moments without needless zeros, as strings of ISO 8601.

    >>> moments = np.array([61_000_000, 60_000_000, 500_000])
    >>> _moments(DateLane(moments, True), moments).to_pylist()
    ['1970-01-01T00:01:01', '1970-01-01T00:01', '1970-01-01T00:00:00.5']
    """
    if not lane.has_time:
        return array_of(values.astype(np.int32), pa.date32()).cast(_WIDE)
    seconds, micros = np.divmod(values.astype(np.int64), _MICROS)
    letters = Bytes.of(array_of(seconds, pa.timestamp("s")).cast(_WIDE)).used
    letters = letters.reshape(-1, _TO_SECOND).copy()
    letters[:, _SEPARATOR] = ord("T")
    cut = (seconds % 60 == 0) & (micros == 0)
    kept = np.ones(letters.shape, dtype=bool)
    kept[cut, _TO_MINUTE:] = False
    offsets = np.zeros(len(values) + 1, dtype=np.int64)
    np.cumsum(np.where(cut, _TO_MINUTE, _TO_SECOND), out=offsets[1:])
    found = Bytes(letters[kept], offsets).strings()
    if not micros.any():
        return found
    parts = np.char.rstrip(np.char.add(".", np.char.zfill(micros.astype(np.str_), 6)), "0")
    parts[micros == 0] = ""
    return glued(found, strings_of(parts.tolist()))
