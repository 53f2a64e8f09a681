"""What docs/semantics.md says, in plain Python over rows: shares no line with the product.

A table is a list of rows, a row a dict of cells: Fraction, str, date, bool, None, or `Error`.
Criteria are tuples: ("and", …), ("or", …), ("not", x), ("test", column, kind, …).
"""

import statistics
import unicodedata
from collections import Counter
from dataclasses import dataclass
from datetime import date
from fractions import Fraction


@dataclass(frozen=True)
class Error:
    """An error cell."""

    token: str


def same(text):
    """Return what equal texts have in common."""
    folded = unicodedata.normalize("NFC", text).casefold()
    return unicodedata.normalize("NFC", folded)


def holds(criteria, row):
    """Tell whether criteria hold for a row."""
    kind, *rest = criteria
    if kind == "and":
        return all(holds(each, row) for each in rest)
    if kind == "or":
        return any(holds(each, row) for each in rest)
    if kind == "not":
        return not holds(rest[0], row)
    column, test, *args = rest
    return _TESTS[test](row[column], row, *args)


def _equal(cell, value):
    if isinstance(cell, str) and isinstance(value, str):
        return same(cell) == same(value)
    return type(cell) is type(value) and cell == value


def _ordered(cell, _row, order, value):
    if type(cell) is not type(value) or cell is None or isinstance(cell, bool | Error):
        return False
    a, b = (same(cell), same(value)) if isinstance(cell, str) else (cell, value)
    return {"<": a < b, "<=": a <= b, ">": a > b, ">=": a >= b}[order]


def _like(cell, _row, pieces):
    """Match a pattern: letters, "*" and "?" as ("star",) and ("one",)."""
    if not isinstance(cell, str):
        return False
    places = {0}
    text = unicodedata.normalize("NFC", cell)
    for piece in pieces:
        if piece == ("star",):
            places = {at for start in places for at in range(start, len(text) + 1)}
        elif piece == ("one",):
            places = {at + 1 for at in places if at < len(text)}
        else:
            places = {
                end
                for at in places
                for end in range(at, len(text) + 1)
                if same(text[at:end]) == same(piece)
            }
    return len(text) in places


def _is(cell, _row, kind):
    kinds = {"number": Fraction, "text": str, "date": date, "yes/no": bool, "error": Error}
    if kind == "blank":
        return cell is None
    return cell is not None if kind == "filled" else type(cell) is kinds[kind]


def _within(cell, _row, low, high):
    return (low is None or _ordered(cell, None, ">=", low)) and (
        high is None or _ordered(cell, None, "<=", high)
    )


def _other(cell, row, order, name):
    other = row[name]
    if order == "=":
        comparable = cell is not None and not isinstance(cell, Error)
        return comparable and _equal(cell, other)
    return _ordered(cell, None, order, other)


_TESTS = {
    "any": lambda cell, row, values: any(_equal(cell, value) for value in values),
    "order": _ordered,
    "like": _like,
    "is": _is,
    "in": _within,
    "other": _other,
}


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
