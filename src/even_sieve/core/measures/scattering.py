"""Adding to totals of many groups: in the time of the rows, however many groups there are."""

import numpy as np

from even_sieve.core.table.lanes import Array

#: With so many groups a row, most of them get nothing: these are left alone.
_MANY = 2


def are_many(groups: int, rows: int) -> bool:
    """Tell whether going through all groups would take longer than through the rows."""
    return groups > _MANY * rows


def count_in(totals: Array, index: Array) -> None:
    """Add 1 to the totals (int64) at each place of `index`, as often as it stands there.

    >>> totals = np.zeros(3, dtype=np.int64)
    >>> count_in(totals, np.array([2, 0, 2]))
    >>> totals.tolist()
    [1, 0, 2]
    """
    if are_many(len(totals), len(index)):
        np.add.at(totals, index, 1)
    else:
        totals += np.bincount(index, minlength=len(totals))
