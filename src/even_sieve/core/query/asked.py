"""The keywords of a question as people give them: understood, or refused in one line."""

from collections.abc import Iterable, Mapping
from datetime import date, datetime
from decimal import Decimal
from typing import Any, TypeVar

import numpy as np

from even_sieve.core.criteria import ParameterValue
from even_sieve.core.errors import CallError
from even_sieve.core.query.given import given_rows
from even_sieve.core.understood import called, refused, texts_of

_LookUp = TypeVar("_LookUp")
_WORDS = "words such as hidden, filtered, subtotals, blanks, errors"


def words_of_keep(keep: Any) -> list[str]:
    """Return the words of what is kept: a text with several, or several texts."""
    texts = texts_of("keep", keep, _WORDS)
    return [word for text in texts for word in text.replace(",", " ").split()]


def parameters_of(parameters: Any) -> dict[str, ParameterValue]:
    """Return parameters. Raises `TypeError` for what is no mapping of names to values."""
    if parameters is None:
        return {}
    if not isinstance(parameters, Mapping):
        raise refused("parameters", "a mapping of names to values", parameters)
    for name, value in parameters.items():
        if not isinstance(name, str):
            raise refused("the name of a parameter", "a text", name)
        if hasattr(value, "iloc") or isinstance(value, Mapping | np.ndarray):
            accepted = "a number, a date, a text, criteria, or a list of these"
            raise refused(f"parameter '{name}'", accepted, value)
    return dict(parameters)


def day_of(given: Any) -> date:
    """Return the as-of date: a date, an ISO date as text, or today for None."""
    if given is None:
        return date.today()
    plain = given.astype("datetime64[D]").item() if isinstance(given, np.datetime64) else given
    if isinstance(plain, datetime) and plain == plain:  # NaT is not
        plain = plain.date()
    if isinstance(plain, date) and not isinstance(plain, datetime):
        return plain
    try:
        return date.fromisoformat(given)
    except (TypeError, ValueError):
        raise CallError(f"as_of '{given}' is no date\nWrite for example: 2031-03-31") from None


def look_ups_of(look_ups: Any, kind: type[_LookUp]) -> tuple[_LookUp, ...]:
    """Return look-ups that were given as one, or as several."""
    if look_ups is None:
        return ()
    if isinstance(look_ups, kind):
        return (look_ups,)
    found = tuple(look_ups) if isinstance(look_ups, Iterable) else (look_ups,)
    for each in found:
        if not isinstance(each, kind):
            raise refused("a look-up", "what LookUp.of(table, on) gives", each)
    return found


def derived_of(derive: Any) -> tuple[str, ...]:
    """Return derived columns: a text, several, or a mapping of names to what is worked out."""
    if isinstance(derive, Mapping):
        return tuple(f"{_name(name)} = {text}" for name, text in derive.items())
    return texts_of("derive", derive, "texts such as 'per ton = dues / tonnage'")


def _name(name: object) -> str:
    if not isinstance(name, str):
        raise refused("the name of a derived column", "a text", name)
    return name


def chosen_of(what: str, rows: Any) -> Any:
    """Return the rows to be marked: criteria as they are, numbers and masks as given rows."""
    if isinstance(rows, int | np.integer) and not isinstance(rows, bool):
        rows = [int(rows)]
    if isinstance(rows, bool | float | Decimal | np.bool_):
        raise refused(what, "criteria, a mask or row numbers", rows)
    found = given_rows(rows)
    if found is None and hasattr(rows, "dtype"):
        fact = f"{what} must be criteria, a mask or row numbers, not {called(rows)}"
        raise TypeError(f"{fact} of {rows.dtype}")
    return rows if found is None else found
