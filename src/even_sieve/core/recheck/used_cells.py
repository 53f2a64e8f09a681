"""The used cells of rows: what a figure is worked out from."""

from collections.abc import Callable, Iterable, Sequence
from fractions import Fraction
from functools import partial
from itertools import repeat

from even_sieve.core.cells import CellError
from even_sieve.core.measures.request import Keep, MeasureRequest
from even_sieve.core.recheck.figures import KEYED, LEADING, NUMERIC, ORDERED, Used
from even_sieve.core.recheck.plain_cells import Key, PlainColumn, SpreadColumn

_ONE = Fraction(1)


def takes_zero(kind: str, types: tuple[type, ...]) -> bool:
    """Tell whether a kept blank counts as zero: among numbers, in all but a count of them."""
    return kind in (NUMERIC | ORDERED) - {"numbers"} and types == (Fraction,)


def wanted(kind: str, column: PlainColumn) -> tuple[type, ...]:
    """Return the types of the values that a kind of figure uses of a column."""
    if kind in NUMERIC:
        return (Fraction,)
    if kind in ORDERED:
        return (next((each for each in LEADING if each in column.holds), Fraction),)
    return LEADING


def used_cells(
    request: MeasureRequest,
    measured: SpreadColumn | None,
    weights: SpreadColumn | None,
    rows: Sequence[int],
) -> list[Used]:
    """Return the used cells of these rows."""
    if measured is None:
        return _used(rows, repeat(None), repeat(None), repeat(()), repeat(_ONE))
    column, codes = measured.apart, list(map(measured.codes.__getitem__, rows))
    cells, values = column.cells, column.values
    zero = request.kind in (NUMERIC | ORDERED) and Fraction in wanted(request.kind, column)
    if zero and Keep.BLANKS in request.keep:
        cells = [0 if cell is None else cell for cell in cells]
        values = [Fraction(0) if value is None else value for value in values]
    keys: Iterable[Key] = repeat(())
    if request.kind in KEYED:
        of_code = column.keys if values is column.values else list(map(column.key, values))
        keys = map(of_code.__getitem__, codes)
    weighed: Iterable[Fraction] = repeat(_ONE)
    if weights is not None:
        beside = map(weights.apart.values.__getitem__, map(weights.codes.__getitem__, rows))
        weighed = (each if isinstance(each, Fraction) else Fraction(0) for each in beside)
    return _used(rows, map(cells.__getitem__, codes), map(values.__getitem__, codes), keys, weighed)


def _used(rows: Sequence[int], *rest: Iterable[object]) -> list[Used]:
    """Return the used cells of rows: what each of their fields is, row by row."""
    make: Callable[[tuple[object, ...]], Used] = partial(tuple.__new__, Used)
    return list(map(make, zip(rows, *rest, strict=False)))


def kept_error(
    request: MeasureRequest,
    used: list[Used],
    measured: SpreadColumn | None,
    weights: SpreadColumn | None,
) -> CellError | None:
    """Return the first kept error; it takes the place of every figure but a count."""
    if measured is None or request.kind in ("filled", "numbers"):
        return None
    beside_it = set() if weights is None else weights.apart.holds
    if CellError not in measured.apart.holds | beside_it:
        return None
    for each in used:
        if isinstance(each.value, CellError):
            return each.value
        beside = None if weights is None else weights.apart.values[weights.codes[each.row]]
        if isinstance(beside, CellError):
            return beside
    return None
