"""The figures of a list of cells, worked out the plain way with fractions."""

from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from decimal import ROUND_HALF_EVEN, Context, Decimal
from fractions import Fraction
from typing import NamedTuple

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.measures.request import MeasureRequest
from even_sieve.core.recheck.plain_cells import Key, Plain, When, nearest

#: Something that is not worked out twice, but cannot be a figure either.
Answer = Cell | Fraction
#: The bits of a whole number of which none is lost, and those that are kept of a longer one.
_WHOLE, _BITS = 1 << 14, 512


class Used(NamedTuple):
    """One used cell: its row, as it is shown, as a plain value, its key, the weight beside it.

    The key is that of its column, or nothing where the figure is of a kind without order.
    """

    row: int
    cell: Cell
    value: Plain
    key: Key
    weight: Fraction = Fraction(1)


def _key(used: Used) -> Key:
    return used.key


def _numbers(used: Sequence[Used]) -> list[Fraction]:
    return [each.value for each in used if isinstance(each.value, Fraction)]


def _in_order(used: Sequence[Used]) -> list[Used]:
    """Return the cells from the least to the largest, equal ones in the order of their rows."""
    by_one_value = sorted(used, key=lambda each: each.key[1])  # it leaves equal ones as they stand
    return sorted(by_one_value, key=_key)  # all in order but for numbers that share a double


def _total(numbers: Iterable[Fraction]) -> Fraction:
    """Return the sum of numbers."""
    return _total_of((number.numerator, number.denominator) for number in numbers)


def _total_of(parts: Iterable[tuple[int, int]]) -> Fraction:
    """Return the sum of tops over bottoms: whole numbers over each, then these few fractions."""
    found: Counter[int] = Counter()
    for top, bottom in parts:
        found[bottom] += top
    return sum((Fraction(top, bottom) for bottom, top in found.items()), Fraction(0))


def _sum(used: Sequence[Used], _: MeasureRequest) -> Answer:
    return _total(_numbers(used))


def _product(used: Sequence[Used], _: MeasureRequest) -> Answer:
    numbers = _numbers(used)
    if not used or not all(numbers):
        return Fraction(0) if used else None
    bits, found = _BITS, _between(numbers, _BITS)
    while nearest(found[0]) != nearest(found[1]):
        bits *= 2
        found = _between(numbers, bits)
    return -found[0] if sum(number < 0 for number in numbers) % 2 else found[0]


def _between(numbers: Sequence[Fraction], bits: int) -> tuple[Fraction, Fraction]:
    """Return between which numbers the product of some lies, without its sign."""
    above = _multiplied((abs(number.numerator) for number in numbers), bits)
    below = _multiplied((number.denominator for number in numbers), bits)
    twos = 2 ** abs(above.twos - below.twos)
    up, down = (twos, 1) if above.twos > below.twos else (1, twos)
    most = Fraction(above.most * up, below.least * down)
    return Fraction(above.least * up, below.most * down), most


class Bounds(NamedTuple):
    """Between which whole numbers, each times a power of two, a product lies; alike if it is it."""

    least: int
    most: int
    twos: int


def _multiplied(numbers: Iterable[int], bits: int) -> Bounds:
    """Return the product of whole numbers beyond 0, of a long one so many bits."""
    least = most = 1
    twos = 0
    for number in numbers:
        least, most = least * number, most * number
        needless = most.bit_length() - bits
        if needless > max(bits, _WHOLE):
            least, most, twos = least >> needless, (most >> needless) + 1, twos + needless
    return Bounds(least, most, twos)


def _average(used: Sequence[Used], _: MeasureRequest) -> Answer:
    return _total(_numbers(used)) / len(used) if used else None


def _weighted(used: Sequence[Used], _: MeasureRequest) -> Answer:
    weights = _total(each.weight for each in used)
    pairs = zip(_numbers(used), (each.weight for each in used), strict=True)
    products = ((n.numerator * w.numerator, n.denominator * w.denominator) for n, w in pairs)
    return _total_of(products) / weights if weights else None


def _variance(used: Sequence[Used], request: MeasureRequest) -> Fraction | None:
    over = len(used) - (request.way != "population")
    if over < 1:
        return None
    numbers = _numbers(used)
    mean = _total(numbers) / len(numbers)
    top, bottom = mean.numerator, mean.denominator
    pairs = ((number.numerator, number.denominator) for number in numbers)
    squares = ((above * bottom - top * below) ** 2 for above, below in pairs)
    return _total_of(zip(squares, (number.denominator**2 for number in numbers), strict=True)) / (
        over * bottom**2
    )


def _deviation(used: Sequence[Used], request: MeasureRequest) -> Answer:
    variance = _variance(used, request)
    if variance is None:
        return None
    wide = Context(prec=1200, rounding=ROUND_HALF_EVEN, Emax=10**6, Emin=-(10**6))
    root = wide.sqrt(wide.divide(Decimal(variance.numerator), Decimal(variance.denominator)))
    return Fraction(root)


def _at(place: Callable[[int, int], int]) -> Callable[[Sequence[Used], MeasureRequest], Answer]:
    def figure(used: Sequence[Used], request: MeasureRequest) -> Answer:
        place_of = place(len(used), int(request.number or 1))
        if used and place_of in (0, len(used) - 1):  # of equal ones the first comes
            return (max if place_of else min)(used, key=_key).cell
        return _shown(_in_order(used), place_of) if 0 <= place_of < len(used) else None

    return figure


def _first(ordered: Sequence[Used], place: int) -> Used:
    """Return what stands at a place in the order; of equal ones the first row's."""
    chosen = ordered[place].key
    while place and ordered[place - 1].key == chosen:
        place -= 1
    return ordered[place]


def _shown(ordered: Sequence[Used], place: int) -> Answer:
    """Return the cell at a place in the order, as the first row spells it."""
    return _first(ordered, place).cell


def _range(used: Sequence[Used], _: MeasureRequest) -> Answer:
    if not used:
        return None
    ordered = _in_order(used)
    least, largest = _numbers((ordered[0], _first(ordered, len(used) - 1)))
    return largest - least


def _median(used: Sequence[Used], _: MeasureRequest) -> Answer:
    if not used:
        return None
    ordered = _in_order(used)
    low, high = _first(ordered, (len(used) - 1) // 2), _first(ordered, len(used) // 2)
    if low.key == high.key or not isinstance(low.value, Fraction):
        return _shown(ordered, (len(used) - 1) // 2)
    return _total(_numbers((low, high))) / 2


def _percentile(used: Sequence[Used], request: MeasureRequest) -> Answer:
    part = Fraction(request.number or 0) * (25 if request.kind == "quartile" else 1) / 100
    ordered, count = _in_order(used), len(used)
    place = (count + 1) * part if request.way == "exclusive" else (count - 1) * part + 1
    if not count or not 1 <= place <= count:
        return None
    whole = place.numerator // place.denominator
    low, high = _first(ordered, whole - 1), _first(ordered, min(whole, count - 1))
    if place == whole or low.key == high.key:
        return _shown(ordered, whole - 1)
    first, second = _numbers((low, high))
    return first + (place - whole) * (second - first)


def _mode(used: Sequence[Used], _: MeasureRequest) -> Answer:
    counts = Counter(each.key for each in used)
    top = max(counts.values(), default=0)
    if top < 2:
        return None
    return min((each for each in used if counts[each.key] == top), key=_key).cell


def _only(used: Sequence[Used], _: MeasureRequest) -> Answer:
    if len(used) == 1:
        return used[0].cell
    return CellError("several values" if used else "no value")


#: How each kind is worked out from the used cells, in the order of the rows.
FIGURES: dict[str, Callable[[Sequence[Used], MeasureRequest], Answer]] = {
    "rows": lambda used, _: len(used),
    "numbers": lambda used, _: len(used),
    "filled": lambda used, _: len(used),
    "distinct": lambda used, _: len({each.key for each in used}),
    "distinct or blank": lambda used, _: len({each.key for each in used}),
    "sum": _sum,
    "product": _product,
    "average": _average,
    "weighted average": _weighted,
    "variance": _variance,
    "deviation": _deviation,
    "min": _at(lambda count, _: 0),
    "max": _at(lambda count, _: count - 1),
    "smallest": _at(lambda count, place: place - 1),
    "largest": _at(lambda count, place: count - place),
    "range": _range,
    "median": _median,
    "percentile": _percentile,
    "quartile": _percentile,
    "mode": _mode,
    "only": _only,
    "first": lambda used, _: used[0].cell if used else None,
    "last": lambda used, _: used[-1].cell if used else None,
}

#: The kinds that use numbers alone, and those that use the kind that leads the column.
NUMERIC = frozenset({
    "numbers", "sum", "product", "average", "weighted average", "variance", "deviation",
    "range", "percentile", "quartile", "share",
})  # fmt: skip
ORDERED = frozenset({"min", "max", "smallest", "largest", "median", "mode"})
#: The kinds for which it matters which cells are equal, and which come first.
KEYED = ORDERED | {"range", "percentile", "quartile", "distinct", "distinct or blank"}
LEADING = (Fraction, When, str, bool)
