"""Figures as people and programs read them: what the documents of all answers share."""

from collections.abc import Iterable, Iterator
from fractions import Fraction
from typing import Any

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.notices import Notice, texts_of
from even_sieve.core.table.origins import listed_rows
from even_sieve.core.tally import OF_NO_LINE, Tallies, Tally
from even_sieve.documents.values import plain_amount, plain_json, plain_row, show_value

BLANK_KEY = "(blank)"
TOTAL, SUBTOTAL = "total", "subtotal"
_EXACT = 10**15


def show_key(key: Cell) -> str:
    """Return one value of a line's key for a person."""
    return BLANK_KEY if key is None else show_value(key)


def show_amount(amount: Fraction, decimals: int) -> str:
    """Return an exact amount for a person, with the decimals of its column unless it is 0."""
    value = plain_amount(amount)
    if value and decimals and abs(value) < _EXACT:
        value = float(value)
    return show_value(value, decimals)


def found_at(tally: Tally, most: int = 3) -> str:
    """Return the rows that gave a figure: `row 12`, `rows 3, 9`, `rows 1, 2, 3 and 97 more`."""
    rows = tally.found_at
    if not rows:
        return ""
    shown = listed_rows(rows[:most])
    more = f" and {len(rows) - most} more" if len(rows) > most else ""
    return f"{'row' if len(rows) == 1 else 'rows'} {shown}{more}"


def accounts(result: Tallies) -> tuple[tuple[str, str], ...]:
    """Return each different account in words, with the names of the measures that have it."""
    names: dict[str, list[str]] = {}
    for tally in result:
        names.setdefault(tally.account.words(), []).append(tally.name)
    one = len(names) == 1
    return tuple(("" if one else ", ".join(own), words) for words, own in names.items())


def reasons(result: Tallies) -> Iterator[str]:
    """Yield why measures have no value, or no good one."""
    for tally in result:
        if tally.reason and tally.reason not in OF_NO_LINE:
            where = f" ({found_at(tally)})" if tally.found_at else ""
            yield f"{tally.name}: {tally.reason}{where}"


def remarks(result: Tallies) -> list[str]:
    """Return reasons and notices as texts, each once."""
    found = [*reasons(result), *texts_of(result.notices)]
    for tally in result:
        found.extend(notice.text for notice in tally.notices)
    if result.as_of is not None:
        found.append(f"dates are as of {result.as_of}")
    return list(dict.fromkeys(found))


def plain_tally(tally: Tally) -> dict[str, Any]:
    """Return a tally as plain objects."""
    # An error that was kept is no value that a program could go on with: the reason names it.
    value = None if isinstance(tally.value, CellError) else plain_json(tally.value)
    return {
        "name": tally.name,
        "value": value,
        "account": tally.account.as_dict(),
        "found_at": list(map(plain_row, tally.found_at)),
        "reason": tally.reason,
        "notices": plain_notices(tally.notices),
        **({"parts": list(map(plain_tally, tally.parts))} if tally.parts else {}),
    }


def plain_notices(notices: Iterable[Notice]) -> list[dict[str, object]]:
    """Return notices as plain objects."""
    return [notice.as_dict() for notice in notices]


def plain_as_of(result: Tallies) -> dict[str, str]:
    """Return the as-of date under its name, where the figures hang on it."""
    return {} if result.as_of is None else {"as_of": result.as_of}
