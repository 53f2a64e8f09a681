"""Columns of many different numbers with exponents, among words or not, read at once."""

from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.cells import Kind
from even_sieve.core.table import Column
from even_sieve.core.table.arrays import spans
from even_sieve.core.table.build import assemble
from even_sieve.core.table.from_arrays import fixed_from_floats
from even_sieve.core.table.lanes import Array, FixedLane, FloatLane, Lane
from even_sieve.sources.arrow_buffers import Bytes, made_of, mask_of, scalar_of, stored, take
from even_sieve.sources.byte_shapes import (
    LETTERS,
    NUMERIC,
    POWERS,
    fits_in_64_bits,
    float_lane,
    long_codes,
    without_end_zeros,
)
from even_sieve.sources.shaped import Shaped

#: A number with or without an exponent.
_MANTISSA = r"^[+-]?(?:(?:0|[1-9]\d*)(?:\.\d*)?|\.\d+)"
_POWER = r"[eE][+-]?\d{1,4}"
EXPONENT = rf"{_MANTISSA}(?:{_POWER})?$"
_HAS_DECIMALS = r"\.\d*[1-9]0*(?:[eE]|$)"
_NOT_ZERO = r"^[^eE]*[1-9]"
_LONGEST, _FEW = 15, 4096
#: Where letters of exponents are so few, their strings alone are looked at.
_E, _TO_SMALL, _FEW_E = ord("e"), 0x20, 0.2
_BLOCK = 1 << 20
#: Doubles below this may have lost digits that were written: they are read one by one.
_SMALL = 1e-290
#: Of numbers up to this, and down to one over it, a digit more or less is none that is lost.
_USUAL = 1e260
_IS_DIGIT = np.isin(np.arange(256), list(b"0123456789"))
_BEGINS_NUMBER = _IS_DIGIT | np.isin(np.arange(256), list(b"+-"))


def any_exponent(strings: Any) -> bool:
    """Tell whether a string is a number with an exponent."""
    text = Bytes.of(strings)
    places = _letters_in(text.used, int(len(strings) * _FEW_E))
    if places is None:
        first, last = text.ends()
        rows = np.flatnonzero(_BEGINS_NUMBER[first] & _IS_DIGIT[last])
    else:
        rows = np.searchsorted(text.offsets - text.offsets[0], places, side="right") - 1
        rows = rows[np.flatnonzero(np.diff(rows, prepend=-1))]
        first, last = text.data[text.offsets[rows]], text.data[text.offsets[rows + 1] - 1]
        rows = rows[_BEGINS_NUMBER[first] & _IS_DIGIT[last]]
    few = rows[:_FEW]
    samples = (few, rows) if len(rows) > len(few) else (few,)
    for each in samples:
        some = take(strings, each)
        some = take(some, np.flatnonzero(made_of(some, NUMERIC + LETTERS)))
        if Shaped(some).fit(rf"{_MANTISSA}{_POWER}$").any():
            return True
    return False


def _letters_in(octets: Array, most: int) -> Array | None:
    """Return where letters of exponents stand among bytes, ascending; None for more than `most`."""
    found, count = [np.empty(0, dtype=np.intp)], 0
    for rows in spans(len(octets), _BLOCK):
        found.append(rows.start + np.flatnonzero((octets[rows] | _TO_SMALL) == _E))
        count += len(found[-1])
        if count > most:
            return None
    return np.concatenate(found)


def powers(some: Shaped) -> tuple[Array, Column | None]:
    """Return the places of numbers with exponents, and their column; None where there is none.

    Those that are very small, or large, are left to be read alone.
    """
    places = np.arange(len(some.strings))
    if not Bytes.of(some.strings).uses(POWERS):
        return places[:0], None
    places = some.matching(places, rf"{_MANTISSA}{_POWER}$", NUMERIC + LETTERS)
    if not len(places):
        return places, None
    sizes = np.abs(stored(pc.cast(take(some.strings, places), pa.float64()), np.float64))
    places = places[((sizes >= 1 / _USUAL) & (sizes <= _USUAL)) | (sizes == 0)]
    tokens = take(some.strings, places)
    return places, with_exponents("", tokens) if len(places) else None


def with_exponents(name: str, tokens: Any) -> Column | None:
    """Return numbers with exponents; None where some have too many digits for fixed-point ones."""
    values = stored(pc.cast(tokens, pa.float64()), np.float64)
    if not np.isfinite(values).all() or _any_small(tokens, values):
        return None  # a number beyond any double is an error cell
    if _most_digits(tokens) > _LONGEST:
        return _long_with_exponents(name, tokens, values)
    fixed = fixed_from_floats(values)
    if fixed is None and (np.abs(values) < 2.0**63).all() and _near_whole(values):
        return None  # long whole numbers: the general way keeps all of their digits
    lane: Lane = FloatLane(values) if fixed is None else FixedLane(*fixed)
    return Column(name, len(tokens), {Kind.NUMBER: lane}, None)


def _most_digits(tokens: Any) -> int:
    """Return how many digits the longest mantissa has."""
    most: int = pc.max(pc.binary_length(tokens)).as_py()
    if most <= _LONGEST:
        return most
    long = tokens.filter(pc.greater(pc.binary_length(tokens), scalar_of(_LONGEST)))
    mantissas, points = _mantissas(long)
    signed = np.isin(Bytes.of(long).ends()[0], list(b"+-"))
    return int((mantissas - (points >= 0) - signed).max())


def _mantissas(tokens: Any) -> tuple[Array, Array]:
    """Return how many bytes stand before the exponent of each, and where its point is, or -1."""
    lengths = Bytes.of(tokens).lengths
    points = stored(pc.find_substring(tokens, "."), lengths.dtype)
    if Bytes.of(tokens).uses(POWERS):
        for letter in "eE":
            found = stored(pc.find_substring(tokens, letter), lengths.dtype)
            lengths = np.where(found >= 0, found, lengths)
    return lengths, points


def _any_small(tokens: Any, values: Array) -> bool:
    """Tell whether a number is so small that its double has lost digits."""
    small = np.abs(values) < _SMALL
    return bool(small.any()) and bool(
        pc.any(pc.match_substring_regex(take(tokens, np.flatnonzero(small)), _NOT_ZERO)).as_py()
    )


def _long_with_exponents(name: str, tokens: Any, values: Array) -> Column | None:
    """Return the column of doubles, where the digits after the points alone say that it is one."""
    if long_codes(tokens).any():
        return None
    all_tokens = tokens
    points = _with_decimals(tokens)
    if not len(points):
        return None
    for some in (points[:_FEW], points):  # a few may tell already that they do not fit
        fits = fits_in_64_bits(values, max(_largest_scale(take(tokens, some)), 0))
        if fits is False:
            break
    if fits is not False:
        return None
    lane = float_lane(all_tokens, values)
    if lane is None:
        return None
    states = np.full(len(values), Kind.NUMBER, dtype=np.uint8)
    return assemble(name, len(values), {Kind.NUMBER: lane}, states)


def _with_decimals(tokens: Any) -> Array:
    """Return the places of the tokens that have a digit other than 0 after the point."""
    if Bytes.of(tokens).uses(POWERS):
        return np.flatnonzero(mask_of(pc.match_substring_regex(tokens, _HAS_DECIMALS)))
    lengths, points = _mantissas(without_end_zeros(tokens))
    return np.flatnonzero((points >= 0) & (points < lengths - 1))


def _largest_scale(tokens: Any) -> int:
    """Return how many decimals the number with the most of them has, exponents counted."""
    powers = Bytes.of(tokens).uses(POWERS)
    short = pc.replace_substring_regex(tokens, r"[eE].*$", "") if powers else tokens
    lengths, points = _mantissas(without_end_zeros(short))
    after = lengths - points - 1
    if not powers:
        return int(after.max())
    exponents = pc.replace_substring_regex(tokens, r"^[^eE]*[eE]?\+?", "")
    exponents = pc.if_else(pc.equal(exponents, scalar_of("")), scalar_of("0"), exponents)
    return int((after - stored(pc.cast(exponents, pa.int64()), np.int64)).max())


def _near_whole(values: Array) -> bool:
    """Tell whether a value may need more than 15 digits as a fixed-point one and still fit."""
    return bool((np.abs(values) >= 10.0**_LONGEST).any())
