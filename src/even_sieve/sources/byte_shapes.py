"""Plain decimals, told by the bytes of all strings of a column at once."""

from decimal import Decimal
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.table.lanes import Array, FixedLane, FloatLane
from even_sieve.core.table.number_lanes import LARGEST_SCALE
from even_sieve.core.table.shortest import shortest_decimals
from even_sieve.sources.arrow_buffers import (
    Bytes,
    array_of,
    cast_if_all,
    mask_of,
    scalar_of,
    spread_over,
    stored,
    take,
)
from even_sieve.sources.shaped import Shaped
from even_sieve.sources.shaped_numbers import fixed_of, without_zeros

_LONGEST_DECIMAL = 15
_DECIMAL = r"^[+-]?(?:(?:0|[1-9][0-9]*)(?:\.[0-9]*)?|\.[0-9]+)$"
#: Whole numbers of so many digits are codes.
LONG_CODE = 19
#: What plain numbers are made of, and those with exponents.
NUMERIC, LETTERS = "0123456789.+-", "eE"
POWERS = LETTERS.encode()
#: The last bytes that a plain decimal can have.
_ENDS_DECIMAL = np.isin(np.arange(256), list(b"0123456789."))
_DIGITS_OF_128 = 38
_NEAR = 1e-9
_MOST_PLACES = 300
_ZERO, _ONE, _NINE, _POINT, _PLUS, _MINUS = np.frombuffer(b"019.+-", dtype=np.uint8)
#: So many strings are looked at for whether all may be whole numbers.
_SAMPLE = 64


def long_codes(tokens: Any) -> Array:
    """Tell which tokens are whole numbers of so many digits that they are codes, bool."""
    text = Bytes.of(tokens)
    if not len(tokens) or text.lengths.max() < LONG_CODE:
        return np.zeros(len(tokens), dtype=bool)
    found: Array = mask_of(pc.ascii_is_decimal(tokens)) & (text.lengths >= LONG_CODE)
    return found


def decimals(some: Shaped) -> tuple[Array, FixedLane | FloatLane | None]:
    """Return the places that hold plain decimals, and their lane; none if one is doubtful.

    At most 15 digits with the column's scale: the nearest double times the power of ten
    is then within half a unit of the decimal's digits, so rounding gives these exactly.
    """
    tokens, rows = some.strings, np.arange(len(some.strings))
    doubles = _doubles_of_plain(tokens) if len(rows) else None
    if doubles is None:
        rows = rows[_ENDS_DECIMAL[Bytes.of(tokens).ends()[1]]]
        rows = some.matching(rows, _DECIMAL, NUMERIC)
        if not len(rows):
            return rows, None
        some = some.take(rows)
        lane = fixed_of(some)
        if lane is not None:
            return rows, lane
        tokens = some.strings
        doubles = stored(pc.cast(tokens, pa.float64()), np.float64)
    lane = _short_decimals(tokens, doubles) or fixed_of(some)
    return (rows, lane) if lane is not None else _long_decimals(rows, tokens, doubles)


def whole_numbers(tokens: Any) -> FixedLane | None:
    """Return the lane of tokens that are all whole numbers, plainly written; None for others.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> whole_numbers(strings_of(["12", "-7", "0"])).values.tolist()
    [12, -7, 0]
    >>> whole_numbers(strings_of(["12", "007"])), whole_numbers(strings_of(["12", "+7"]))
    (None, None)
    """
    text = Bytes.of(tokens)
    if not len(tokens) or cast_if_all(spread_over(tokens, _SAMPLE), pa.int64()) is None:
        return None
    starts, lengths = text.offsets[:-1], text.lengths
    if not 0 < lengths.min() <= lengths.max() < LONG_CODE:
        return None
    begins = text.data[starts]
    rows = np.flatnonzero(begins - _ONE > _NINE - _ONE)  # below it wraps round
    if len(rows):
        zero = (begins[rows] == _ZERO) & (lengths[rows] == 1)
        signed = (begins[rows] == _MINUS) & (text.at(starts[rows] + 1) - _ONE <= _NINE - _ONE)
        if not (zero | signed).all():
            return None
    values = cast_if_all(tokens, pa.int64())
    return None if values is None else FixedLane(stored(values, np.int64), 0)


def all_decimals(tokens: Any) -> FixedLane | None:
    """Return the lane of tokens that are all plain decimals of few digits; None for others."""
    whole = whole_numbers(tokens)
    if whole is not None:
        return whole
    doubles = _doubles_of_plain(tokens)
    return None if doubles is None else _short_decimals(tokens, doubles)


def _short_decimals(tokens: Any, doubles: Array) -> FixedLane | None:
    """Return the lane of plain decimals by their nearest doubles; None for too many digits."""
    whole, after = _digits(tokens)
    scale = int(after.max())
    if int(whole.max()) + scale > _LONGEST_DECIMAL:
        return None
    units = np.rint(doubles * 10.0**scale).astype(np.int64)
    return FixedLane(*without_zeros(units, scale))


def _long_decimals(
    rows: Array, tokens: Any, doubles: Array
) -> tuple[Array, FixedLane | FloatLane | None]:
    """Return the rows of plain decimals of many digits, without codes, and their lane.

    A lane of doubles where the digits do not go into whole numbers of 64 bits.
    """
    keep = ~long_codes(tokens)
    rows, tokens, doubles = rows[keep], take(tokens, np.flatnonzero(keep)), doubles[keep]
    if not len(rows) or not np.isfinite(doubles).all():
        return rows[:0], None
    short = without_end_zeros(tokens)
    scale = int(_digits(short)[1].max())
    fits = fits_in_64_bits(doubles, scale)
    if fits is None:
        return rows[:0], None
    if not fits:
        lane = float_lane(tokens, doubles, short)
        return (rows, lane) if lane is not None else (rows[:0], None)
    wide = pc.cast(short, pa.decimal128(_DIGITS_OF_128, scale))
    halves = np.frombuffer(wide.buffers()[1], dtype="<i8", count=2 * len(wide))
    return rows, FixedLane(halves[::2].astype(np.int64), scale)


def float_lane(tokens: Any, doubles: Array, short: Any = None) -> FloatLane | None:
    """Return numbers of any length, to the decimal that is written, beside their doubles.

    The tokens are plain numbers, with or without exponents; `short` are they without zeros at
    their ends, where that was told. None where one is best read alone.
    """
    powers, exponents = np.empty(0, dtype=np.intp), np.empty(0, dtype=np.int32)
    if short is None:
        digits = tokens
        if Bytes.of(tokens).uses(POWERS):
            powers = np.flatnonzero(_holds(tokens, "e") | _holds(tokens, "E"))
            digits, exponents = _without_exponents(tokens, powers)
        short = without_end_zeros(digits)
    point = stored(pc.find_substring(short, "."), np.int32)
    places = np.where(point >= 0, stored(pc.binary_length(short), np.int32) - point - 1, 0)
    places[powers] -= exponents
    plain = pc.ascii_ltrim(pc.replace_substring(short, ".", ""), "+-0")
    lengths = stored(pc.binary_length(plain), np.int32)
    if lengths.max() > _DIGITS_OF_128 or (np.abs(places) > _MOST_PLACES).any():
        return None
    plain = pc.if_else(pc.equal(plain, scalar_of("")), scalar_of("0"), plain)
    wide = pc.cast(plain, pa.decimal128(_DIGITS_OF_128, 0))
    halves = np.frombuffer(wide.buffers()[1], dtype="<i8", count=2 * len(wide))
    whole = halves[::2].astype(np.int64)
    long = np.flatnonzero((halves[1::2] != 0) | (whole < 0))
    whole = np.where(mask_of(pc.starts_with(tokens, "-")), -whole, whole)
    places = places.astype(np.int16)
    lost = ""
    if len(long):
        whole[long], places[long] = shortest_decimals(doubles[long])
        written = (Decimal(each) for each in take(tokens, long).to_pylist())
        near = doubles[long].tolist()
        pairs = zip(written, near, strict=True)
        lost = next((str(each) for each, double in pairs if each != Decimal(repr(double))), "")
    return FloatLane(doubles, (whole, places), lost)


def _holds(tokens: Any, letter: str) -> Array:
    found: Array = stored(pc.find_substring(tokens, letter), np.int32) >= 0
    return found


def _without_exponents(tokens: Any, rows: Array) -> tuple[Any, Array]:
    """Return numbers without exponents, and those of these rows, which have some, int32."""
    some = take(tokens, rows)
    heads = pc.replace_substring_regex(some, r"[eE].*$", "")
    exponents = pc.cast(pc.replace_substring_regex(some, r"^[^eE]*[eE]\+?", ""), pa.int32())
    if len(rows) == len(tokens):
        return heads, stored(exponents, np.int32)
    which = np.zeros(len(tokens), dtype=bool)
    which[rows] = True
    mask = array_of(which, pa.bool_())
    return pc.replace_with_mask(tokens, mask, heads), stored(exponents, np.int32)


def without_end_zeros(tokens: Any) -> Any:
    """Return decimals without zeros at the end of what stands after the point."""
    pointed = pc.greater_equal(pc.find_substring(tokens, "."), scalar_of(0))
    return pc.if_else(pointed, pc.ascii_rtrim(tokens, "0"), tokens)


def fits_in_64_bits(doubles: Array, scale: int) -> bool | None:
    """Tell whether numbers, to their nearest doubles, are fixed-point ones; None at the edge."""
    if scale > LARGEST_SCALE:
        return False
    largest = float(np.abs(doubles).max()) * 10.0**scale / 2.0**63
    return None if abs(largest - 1) < _NEAR else largest < 1


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
    doubles = cast_if_all(tokens, pa.float64())
    return None if doubles is None else stored(doubles, np.float64)


def _digits(tokens: Any) -> tuple[Array, Array]:
    """Return how many bytes stand before the point of each token, and how many after it."""
    text = Bytes.of(tokens)
    lengths = text.lengths
    if not (text.used == _POINT).any():
        return lengths, np.zeros(1, dtype=lengths.dtype)
    point = stored(pc.find_substring(tokens, "."), lengths.dtype)
    return np.where(point >= 0, point, lengths), np.where(point >= 0, lengths - point - 1, 0)
