"""What docs/semantics.md says of accounts and figures, in plain Python over rows.

A table is a list of rows, a row a dict of cells: Fraction, str, date, bool, None, or `Error`.
Criteria are those of `oracle`. No line is shared with the product.
"""

import statistics
from collections import Counter
from dataclasses import dataclass
from fractions import Fraction

from oracle import Wrong, holds, same


@dataclass(frozen=True)
class Error(Wrong):
    """An error cell."""

    token: str


def account(rows, where, subtotal, hidden, column, kept=()):
    """Return the rows by bucket: what is subtotal is not also hidden, and so on."""
    found = {name: [] for name in ("subtotals", "hidden", "unmatched", "matched")}
    for row in rows:
        if subtotal and holds(subtotal, row) and "subtotals" not in kept:
            found["subtotals"].append(row)
        elif hidden and holds(hidden, row) and "hidden" not in kept:
            found["hidden"].append(row)
        elif where and not holds(where, row):
            found["unmatched"].append(row)
        else:
            found["matched"].append(row)
    cells = [row[column] for row in found["matched"]] if column else found["matched"]
    return found, cells


def buckets(found, cells, kind, column):
    """Return how many rows stand in each bucket of a measure's account."""
    counts = Counter({name: len(found[name]) for name in ("subtotals", "hidden", "unmatched")})
    for cell in cells:
        counts[_bucket(cell, kind) if column else "used"] += 1
    return counts


def _bucket(cell, kind):
    if kind == "blanks":
        return "used" if cell is None else "filled"
    if kind == "errors":
        return "used" if isinstance(cell, Error) else "not an error"
    if cell is None:
        return "blank"
    if isinstance(cell, Error):
        return "error"
    return "used" if kind in ("filled", "distinct") or type(cell) is Fraction else "not_a_number"


def figure(kind, cells):
    """Return the exact figure, None for no value."""
    numbers = [cell for cell in cells if type(cell) is Fraction]
    filled = [cell for cell in cells if cell is not None and not isinstance(cell, Error)]
    count = len(numbers)
    if kind in _COUNTS:
        return _COUNTS[kind](cells, numbers, filled)
    if not count:
        return None
    mean = sum(numbers) / count
    return {
        "average": lambda: mean,
        "min": lambda: min(numbers),
        "max": lambda: max(numbers),
        "range": lambda: max(numbers) - min(numbers),
        "median": lambda: statistics.median(numbers),
        "variance population": lambda: sum((each - mean) ** 2 for each in numbers) / count,
    }[kind]()


_COUNTS = {
    "rows": lambda cells, numbers, filled: len(cells),
    "sum": lambda cells, numbers, filled: sum(numbers, Fraction(0)),
    "numbers": lambda cells, numbers, filled: len(numbers),
    "filled": lambda cells, numbers, filled: len(filled),
    "blanks": lambda cells, numbers, filled: sum(cell is None for cell in cells),
    "errors": lambda cells, numbers, filled: sum(isinstance(cell, Error) for cell in cells),
    "distinct": lambda cells, numbers, filled: len({identity(cell) for cell in filled}),
}


def identity(cell):
    """Return what equal cells have in common."""
    return (type(cell).__name__, same(cell) if isinstance(cell, str) else cell)


def groups(rows, column):
    """Return the rows of each value."""
    found = {}
    for row in rows:
        found.setdefault(identity(row[column]), []).append(row)
    return found
