"""The recheck of figures: both side by side, or the first row on which the two ways part."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from even_sieve.core.answer import Answer
from even_sieve.core.cells import Cell, CellError
from even_sieve.core.errors import RecheckError
from even_sieve.core.recheck import BUCKETS as AGAIN
from even_sieve.core.recheck import Again, join_again
from even_sieve.core.table import Table
from even_sieve.core.table.lanes import Array
from even_sieve.core.tally.answers import Tally
from even_sieve.core.tally.buckets import NAMES


@dataclass(frozen=True)
class Recheck:
    """A figure that was worked out twice, in two ways that agree.

    `value` is the tally's, `again` the recheck's; every one of the `rows` stands in the
    same bucket both ways. `exact` is the recheck's figure before it was rounded, if known.

    >>> import even_sieve
    >>> calls = even_sieve.table_from({"zone": ["Outer", "Inner"], "dues": [120, 80]})
    >>> again = calls.recheck(calls.tally("sum of dues"))[0]
    >>> again.value, again.again
    (200, 200)
    """

    name: str
    value: Cell
    again: Cell
    rows: int
    exact: Fraction | None = None

    def __str__(self) -> str:
        return f"{self.name}: {self.words()}"

    def words(self) -> str:
        """Return what came of it: `agrees: 843.26 and 843.26, …`."""
        shown = ["no value" if each is None else str(each) for each in (self.value, self.again)]
        several = f"all {self.rows:,} rows in the same buckets"
        same = {0: "no rows", 1: "its row in the same bucket"}.get(self.rows, several)
        return f"agrees: {shown[0]}, row by row {shown[1]}; {same}"


@dataclass(frozen=True, repr=False)
class Rechecks(Answer):
    """Figures that were worked out twice, in the order of the answer that has them.

    >>> from even_sieve import table_from
    >>> calls = table_from({"dues": [120, 80]})
    >>> [each.again for each in calls.recheck(calls.tally("sum of dues", "rows"))]
    [200, 2]
    """

    items: tuple[Recheck, ...]

    def __len__(self) -> int:
        return len(self.items)

    def __iter__(self) -> Iterator[Recheck]:
        return iter(self.items)

    def __getitem__(self, position: int) -> Recheck:
        return self.items[position]


def numbered(buckets: bytes) -> Array:
    """Return the buckets of a recheck as positions among `BUCKETS`, uint8, shape (rows,)."""
    places = np.array([NAMES.index(name) for name in AGAIN], dtype=np.uint8)
    found: Array = places[np.frombuffer(buckets, dtype=np.uint8)]
    return found


def compare(
    tally: Tally, again: Again, buckets: Array, place: Array | None, table: Table
) -> Recheck:
    """Return the recheck of a figure and its account.

    `buckets` are those of every row as if it stood in the figure's line, `place` (bool) says
    which rows do; None for all. Raises `RecheckError` where the two ways part: at a row, in
    the account, in the figure.
    """
    name, slow = tally.full_name, numbered(again.buckets)
    unmatched = NAMES.index("unmatched")
    if place is not None:
        in_line = np.zeros(len(slow), dtype=bool)
        in_line[np.asarray(again.rows, dtype=np.intp)] = True
        buckets = np.where(place | (buckets < unmatched), buckets, unmatched)
        slow = np.where(in_line | (slow < unmatched), slow, unmatched)
    parted = np.flatnonzero(slow != buckets)
    if len(parted):
        row = int(parted[0])
        fact = f"the row counts as {NAMES[buckets[row]]}, but row by row as {NAMES[slow[row]]}"
        raise RecheckError(name, fact, table.number(row))
    counts = np.bincount(slow, minlength=len(NAMES))
    counts[unmatched] += table.rows_in_all - table.length
    _refuse_account(tally, counts.tolist())
    answer = again.answer
    exact = answer if isinstance(answer, Fraction) else None
    second = _rounded(answer, tally.value) if isinstance(answer, Fraction) else answer
    if not _equal(tally.value, second):
        parting = f"the figure is {tally.value}, but row by row {second}"
        raise RecheckError(name, f"{parting}; all rows are in the same buckets")
    return Recheck(name, tally.value, second, len(slow), exact)


def _refuse_account(tally: Tally, counts: Sequence[int]) -> None:
    """Raise `RecheckError` unless the account has so many rows in each bucket."""
    for bucket, count in zip(NAMES, counts, strict=True):
        told = getattr(tally.account, bucket)
        if told != count:
            fact = f"the account has {told} rows {bucket}, but row by row {count}"
            raise RecheckError(tally.full_name, fact)


def compare_composite(tally: Tally, checked: Sequence[Recheck]) -> Recheck:
    """Return the recheck of a figure worked out from two others, which were rechecked.

    They go into it as the recheck has them: exactly where they are known exactly, else as
    they are shown. Raises `RecheckError` if the two ways part.
    """
    figures = [
        each.again if each.exact is None or part.exact is None else each.exact
        for each, part in zip(checked, tally.parts, strict=True)
    ]
    exact = join_again(tally.request.kind, *figures)
    second = None if exact is None else _rounded(exact, tally.value)
    if not _equal(tally.value, second):
        fact = f"the figure is {tally.value}, but worked out again {second}"
        raise RecheckError(tally.full_name, fact)
    return Recheck(tally.full_name, tally.value, second, checked[0].rows, exact)


def _rounded(exact: Fraction, beside: Cell) -> Cell:
    """Return an exact figure as the other one is written: whole, or the nearest double.

    None stands for what no double can hold, beyond the largest or too near to 0.
    """
    if isinstance(beside, int) and exact.denominator == 1:
        return int(exact)
    try:
        nearest = exact.numerator / exact.denominator
    except OverflowError:
        return None
    return None if beside is None and exact and not nearest else nearest


def _equal(first: Cell, second: Cell) -> bool:
    if isinstance(first, CellError) and isinstance(second, CellError):
        return first.token == second.token
    return first == second and isinstance(first, bool) == isinstance(second, bool)
