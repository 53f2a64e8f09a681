"""Numbers told by their shapes: how many digits each has, where its point stands, its sign."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.table.lanes import Array, FixedLane
from even_sieve.sources.arrow_buffers import stored
from even_sieve.sources.shaped import Shaped
from even_sieve.sources.side_by_side import side_by_side

#: So many digits go into whole numbers of 64 bits, whichever they are.
MOST_DIGITS = 18
NO_DIGITS = bytes(each for each in range(256) if each not in b"0123456789")
_TEN = 10
#: Numbers of no more digits than these before and behind their mark go with one another.
_WHOLE, _DECIMALS = 12, 6


def fixed_of(tokens: Shaped, mark: str = ".") -> FixedLane | None:
    """Return numbers, each with at most one decimal mark; None where their digits do not fit.

    What else stands among the digits is passed over; one with `-` or `(` is negative.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> fixed_of(Shaped(strings_of(["$1,200.50", "(3)", "-0.25"])))
    FixedLane(values=array([120050,   -300,    -25]), scale=2)
    """
    if not tokens.shapes:
        return None
    parts = [shape.partition(mark) for shape in tokens.shapes]
    whole, after = ([digits_in(part[place]) for part in parts] for place in (0, 2))
    scale = max(after)
    if max(whole) + scale > MOST_DIGITS:
        return None
    signs = [-1 if "-" in shape or "(" in shape else 1 for shape in tokens.shapes]
    units = [sign * _TEN ** (scale - own) for sign, own in zip(signs, after, strict=True)]
    values = _digits_of(tokens)
    if any(unit != 1 for unit in units):
        values = values * np.array(units, dtype=np.int64)[tokens.codes]
    return FixedLane(*without_zeros(values, scale))


def _digits_of(tokens: Shaped) -> Array:
    """Return the number that the digits of each string make, int64, shape (n,)."""

    def read(rows: slice) -> Array:
        digits = tokens.part(rows).without(NO_DIGITS)
        return stored(pc.cast(digits, pa.int64()), np.int64)

    found = side_by_side(read, len(tokens.strings))
    return found[0] if len(found) == 1 else np.concatenate(found)


def digits_in(text: str) -> int:
    """Return how many digits a shape has."""
    return sum(each in "01" for each in text)


def without_zeros(values: Array, scale: int) -> tuple[Array, int]:
    """Return fixed-point numbers with the smallest scale that they need."""
    while scale and not (values % _TEN).any():
        values, scale = values // _TEN, scale - 1
    return values, scale


@dataclass(frozen=True)
class Form:
    """How the digits of all strings of a shape make a number: its sign, and how many are decimals.

    >>> Form.of("(1,111.1)", Decimal("-1111.1"))
    Form(digits=5, decimals=1, sign=-1)
    """

    digits: int
    decimals: int
    sign: int

    @classmethod
    def of(cls, shape: str, number: Decimal) -> "Form | None":
        """Return the form of a shape that is read as this number; None where it is none so plain.

        That is one with an exponent, or of more digits than 64 bits hold.
        """
        digits = "".join(each for each in shape if each in "01")
        exponent = number.as_tuple().exponent
        if not isinstance(exponent, int) or exponent > 0 or not 0 < len(digits) <= MOST_DIGITS:
            return None
        if abs(number) != Decimal(digits).scaleb(exponent):
            return None
        return cls(len(digits), -exponent, -1 if number.is_signed() else 1)

    @property
    def whole(self) -> int:
        """How many digits stand before the decimals."""
        return max(self.digits - self.decimals, 0)


def fitting_together(forms: Sequence[Form | None]) -> list[bool]:
    """Tell which forms make whole numbers of 64 bits of one scale; None makes none.

    >>> wide, long = Form(12, 2, 1), Form(17, 15, 1)
    >>> fitting_together([wide, None, Form(3, 0, 1)]), fitting_together([wide, long])
    ([True, False, True], [True, False])
    """
    some = [each for each in forms if each is not None]
    most = max((each.whole for each in some), default=0)
    if most + max((each.decimals for each in some), default=0) <= MOST_DIGITS:
        return [each is not None for each in forms]
    return [
        each is not None and each.whole <= _WHOLE and each.decimals <= _DECIMALS for each in forms
    ]


def fixed_by(tokens: Shaped, forms: Sequence[Form | None]) -> FixedLane:
    """Return the numbers that the digits of strings make; each shape that is used has a form."""
    used = np.flatnonzero(np.bincount(tokens.codes)).tolist()
    scale = max((form.decimals for at in used if (form := forms[at]) is not None), default=0)
    units = [
        0 if form is None or form.decimals > scale else form.sign * _TEN ** (scale - form.decimals)
        for form in forms
    ]
    digits = _digits_of(tokens)
    return FixedLane(*without_zeros(digits * np.array(units, dtype=np.int64)[tokens.codes], scale))
