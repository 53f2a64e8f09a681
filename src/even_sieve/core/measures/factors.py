"""Products of many numbers, rounded once, the same in any order.

A product is kept as a whole number of limited length times powers of 2 and 5. While it
fits it is exact; beyond, it is cut off, and the number of cuts bounds the error. Since the
part without factors 2 and 5 only grows, a product that lies on or half-way between two
doubles is never cut, so the nearest double can always be told.
"""

from dataclasses import dataclass
from fractions import Fraction

from even_sieve.core.measures.rounding import to_double
from even_sieve.core.table.lanes import Array

_BITS = 1024
_LARGEST = 1030


@dataclass
class Product:
    """A product so far: `core` times powers of 2 and 5; `cuts` is how often it was cut off."""

    core: int = 1
    twos: int = 0
    fives: int = 0
    cuts: int = 0

    def times(self, other: "Product") -> None:
        """Multiply by another product."""
        self.core *= other.core
        self.twos += other.twos
        self.fives += other.fives
        self.cuts += other.cuts
        self._shorten()

    def _shorten(self) -> None:
        if not self.core:
            self.twos = self.fives = self.cuts = 0
            return
        excess = abs(self.core).bit_length() - _BITS
        if excess > 0:
            sign = -1 if self.core < 0 else 1
            self.core = sign * (abs(self.core) >> excess)
            self.twos += excess
            self.cuts += 1

    @property
    def exact(self) -> Fraction | None:
        """The product as a fraction; None if it was cut off, or is far beyond a double."""
        if self.cuts or abs(self.twos) + abs(self.fives) > 16 * _BITS:
            return None
        return self._fraction(self.core)

    def _fraction(self, core: int) -> Fraction:
        return core * Fraction(2) ** self.twos * Fraction(5) ** self.fives

    def nearest(self) -> float | None:
        """Return the nearest double; None beyond the largest one."""
        if not self.core:
            return 0.0
        sign = -1 if self.core < 0 else 1
        size = abs(self.core).bit_length() + self.twos + 2.321928094887362 * self.fives
        if size > _LARGEST:
            return None
        if size < -1090:
            return 0.0 * sign
        # Each cut lost less than 2 ** -1023 of what there was; together less than this.
        low = self._fraction(abs(self.core))
        high = low * (1 + Fraction(2 * self.cuts, 2 ** (_BITS - 1)))
        first, second = to_double(low), to_double(high)
        if first != second:
            raise ArithmeticError("the nearest double of a product could not be told")
        return None if first is None else sign * first


def product_of(whole: Array, places: Array) -> Product:
    """Return the product of `whole / 10 ** places`, int64 and int16, shape (n,) each."""
    parts = list(map(_factor, whole.tolist(), places.tolist()))
    while len(parts) > 1:
        for left, right in zip(parts[::2], parts[1::2], strict=False):
            left.times(right)
        parts = parts[::2]
    return parts[0] if parts else Product()


def _factor(whole: int, places: int) -> Product:
    """Return `whole / 10 ** places` without its factors 2 and 5."""
    if not whole:
        return Product(0)
    found = Product(whole, -places, -places)
    trailing = (found.core & -found.core).bit_length() - 1
    found.core >>= trailing
    found.twos += trailing
    while found.core % 5 == 0:
        found.core //= 5
        found.fives += 1
    return found
