"""The recheck of a tally: both figures side by side, or the first row on which they part."""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.errors import RecheckError
from even_sieve.core.recheck import Again, join_again
from even_sieve.core.table import Table
from even_sieve.core.table.lanes import Array
from even_sieve.core.tally.account import BUCKETS, Account


@dataclass(frozen=True)
class Recheck:
    """A figure that was worked out twice, in two ways that agree.

    `value` is the tally's, `again` the recheck's; every one of the `rows` stands in the
    same bucket both ways. `exact` is the recheck's figure before it was rounded, if known.
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
        same = f"all {self.rows:,} rows in the same buckets" if self.rows else "no rows"
        return f"agrees: {shown[0]}, row by row {shown[1]}; {same}"


def compare(
    name: str, value: Cell, account: Account, again: Again, buckets: Array, table: Table
) -> Recheck:
    """Return the recheck of a figure and its account.

    Raises `RecheckError` where the two ways part: at a row, in the account, in the figure.
    """
    names = list(BUCKETS)
    slow = np.array([names.index(each) for each in again.buckets], dtype=np.uint8)
    parted = np.flatnonzero(slow != buckets)
    if len(parted):
        row = int(parted[0])
        fact = f"the row counts as {names[buckets[row]]}, but row by row as {names[slow[row]]}"
        raise RecheckError(name, fact, table.number(row))
    counts = dict(zip(names, np.bincount(slow, minlength=len(names)).tolist(), strict=True))
    for bucket, count in counts.items():
        told = getattr(account, bucket)
        if told != count:
            raise RecheckError(
                name, f"the account has {told} rows {bucket}, but row by row {count}"
            )
    answer = again.answer
    exact = answer if isinstance(answer, Fraction) else None
    second = _rounded(answer, value) if isinstance(answer, Fraction) else answer
    if not _equal(value, second):
        fact = f"the figure is {value}, but row by row {second}; all rows are in the same buckets"
        raise RecheckError(name, fact)
    return Recheck(name, value, second, len(slow), exact)


def compare_joined(
    name: str, kind: str, value: Cell, known: Sequence[bool], checked: Sequence[Recheck]
) -> Recheck:
    """Return the recheck of a figure worked out from two others, which were rechecked.

    They go into it as the recheck has them: exactly where they are `known` exactly, else as
    they are shown. Raises `RecheckError` if the two ways part.
    """
    figures = [
        c.again if c.exact is None or not k else c.exact
        for c, k in zip(checked, known, strict=True)
    ]
    exact = join_again(kind, *figures)
    second = None if exact is None else _rounded(exact, value)
    if not _equal(value, second):
        fact = f"the figure is {value}, but worked out again {second}"
        raise RecheckError(name, fact)
    return Recheck(name, value, second, checked[0].rows, exact)


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
