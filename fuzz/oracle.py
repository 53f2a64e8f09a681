"""A slow evaluator in plain Python that shares no code with Even Sieve.

It works on plain rows (mappings of column to cell) and on criteria as nested tuples:

    ("=", column, [value, …])          ("!=", …)
    ("<" | "<=" | ">" | ">=", column, value)
    ("in", column, low, high)          None is an open end
    ("like", column, "B*")             wildcards
    ("is", column, "blank" | "filled" | "error" | "number" | "text" | "date" | "yes/no")
    ("@", comparison, column, other)   another column of the same row
    ("and", a, b, …)  ("or", a, b, …)  ("not", a)

`spell` writes such criteria as text. Errors are instances of `Wrong`.
"""

import re
import unicodedata
from datetime import date, datetime, timedelta
from decimal import Decimal
from fractions import Fraction


class Wrong:
    """An error cell."""


def kind(cell):
    if cell is None:
        return "blank"
    if isinstance(cell, Wrong):
        return "error"
    if isinstance(cell, bool):
        return "yes/no"
    if isinstance(cell, int | float | Decimal | Fraction):
        return "number"
    return "date" if isinstance(cell, date) else "text"


def same(text):
    folded = unicodedata.normalize("NFC", text).casefold()
    return unicodedata.normalize("NFC", folded)


def span(value):
    """The first moment of a date and the first one after it."""
    if isinstance(value, datetime):
        return value, value + timedelta(microseconds=1)
    first = datetime(value.year, value.month, value.day)
    return first, first + timedelta(days=1)


def moment(value):
    return span(value)[0]


def exact(value):
    return Fraction(repr(value)) if isinstance(value, float) else Fraction(value)


def ordered(comparison, cell, value):
    """Whether a cell stands in an order to a value of its own kind."""
    if kind(cell) != kind(value) or kind(cell) in ("blank", "error"):
        return False
    if kind(cell) == "date":
        first, after = span(value)
        at = moment(cell)
        return {"<": at < first, "<=": at < after, ">": at >= after, ">=": at >= first,
                "=": first <= at < after}[comparison]  # fmt: skip
    if kind(cell) == "text":
        a, b = same(cell), same(value)
    else:
        a, b = exact(cell), exact(value)
    return {"<": a < b, "<=": a <= b, ">": a > b, ">=": a >= b, "=": a == b}[comparison]


def like(cell, pattern):
    if kind(cell) != "text":
        return False
    letters = [same(char) for char in unicodedata.normalize("NFC", cell)]

    def fits(parts, at):
        if not parts:
            return at == len(letters)
        first, *rest = parts
        if first == "*":
            return any(fits(rest, place) for place in range(at, len(letters) + 1))
        if first == "?":
            return at < len(letters) and fits(rest, at + 1)
        ends = range(at, len(letters) + 1)
        return any("".join(letters[at:end]) == same(first) and fits(rest, end) for end in ends)

    return fits([part for part in re.split(r"([*?])", pattern) if part], 0)


def holds(criteria, row):
    """Whether criteria hold for a row."""
    word, *rest = criteria
    if word == "and":
        return all(holds(part, row) for part in rest)
    if word == "or":
        return any(holds(part, row) for part in rest)
    if word == "not":
        return not holds(rest[0], row)
    if word == "@":
        comparison, column, other = rest
        return ordered(comparison, row[column], row[other])
    cell = row[rest[0]]
    if word == "is":
        wanted = rest[1]
        return kind(cell) != "blank" if wanted == "filled" else kind(cell) == wanted
    if word == "=":
        return any(ordered("=", cell, value) for value in rest[1])
    if word == "!=":
        return not holds(("=", *rest), row)
    if word == "like":
        return like(cell, rest[1])
    if word == "in":
        low, high = rest[1:]
        above = low is None or ordered(">=", cell, low)
        return above and (high is None or ordered("<=", cell, high))
    return ordered(word, cell, rest[1])


def spell_value(value):
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, str):
        return '"' + value.replace('"', '""') + '"'
    return value.isoformat() if isinstance(value, date) else f"{Decimal(repr(value)):f}"


def spell(criteria):
    """The criteria as text, every part in brackets."""
    word, *rest = criteria
    if word in ("and", "or"):
        return f" {word} ".join(f"({spell(part)})" for part in rest)
    if word == "not":
        return f"not ({spell(rest[0])})"
    if word == "@":
        comparison, column, other = rest
        return f"{column} {comparison} @{other}"
    column = rest[0]
    if word == "is":
        return f"{column} is {rest[1]}"
    if word in ("=", "!="):
        return f"{column} {word} {' | '.join(map(spell_value, rest[1]))}"
    if word == "like":
        return f"{column} = {re.sub(r'([^*?])', _escaped, rest[1])}"
    if word == "in":
        low, high = ("" if end is None else spell_value(end) for end in rest[1:])
        return f"{column} in {low}..{high}"
    return f"{column} {word} {spell_value(rest[1])}"


def _escaped(found):
    return found[1] if found[1].isalnum() else "\\" + found[1]
