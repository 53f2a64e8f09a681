"""The parameters of a report: set, checked, and shown."""

import re
from collections.abc import Mapping
from typing import Any

from even_sieve.core.cells.dates import DAY
from even_sieve.core.criteria import parameter_from_text
from even_sieve.core.criteria.operands import NamedPeriod, Number, Period, Text, YesNo
from even_sieve.core.errors import ParameterError, closest, listed
from even_sieve.core.table import Table
from even_sieve.documents.values import plain_text
from even_sieve.reports.model import ReportParameter

#: What a value of each kind is read as.
_KINDS: dict[str, tuple[type, ...]] = {
    "number": (Number,),
    "date": (Period,),
    "period": (Period, NamedPeriod),
    "text": (Text,),
    "yes or no": (YesNo,),
}
_EXAMPLES = {
    "number": "500 or 12.5",
    "date": "2031-03-31",
    "period": "2031, 2031-Q1, 2031-03 or previous month",
    "yes or no": "yes or no",
}
_A_YEAR = re.compile("[0-9]{4}")


def put_parameters(
    known: Mapping[str, ReportParameter], settings: Mapping[str, Any], table: Table
) -> dict[str, Any]:
    """Return the value of each parameter: as it is set, else its default.

    Raises `ParameterError` for one that the report does not have, or a value that is not of
    its kind or not among those accepted.
    """
    for name in settings:
        if name not in known:
            near = closest(name, known)
            hint = f"Did you mean {listed(near)}?" if near else f"Known are: {', '.join(known)}"
            raise ParameterError(name, "the report has no such parameter", hint)
    found: dict[str, Any] = {}
    for name, parameter in known.items():
        value = settings.get(name, parameter.default)
        every = value if isinstance(value, list) else [value]
        accepted = _accepted(parameter, table)
        read = [_read(name, parameter, each, accepted) for each in every]
        found[name] = read if isinstance(value, list) else read[0]
    return found


def _accepted(parameter: ReportParameter, table: Table) -> list[Any]:
    allowed: list[Any] = list(parameter.allowed)
    if parameter.allowed_from is not None:
        cells = table.column(parameter.allowed_from).cells()
        allowed += list(dict.fromkeys(cell for cell in cells if cell is not None))
    return allowed


def _read(name: str, parameter: ReportParameter, value: Any, allowed: list[Any]) -> Any:
    """Return one value as it goes into criteria; None for a blank one."""
    if value is None or (isinstance(value, str) and not value.strip()):
        return None
    texts = [plain_text(each).casefold() for each in allowed]
    if texts and plain_text(value).casefold() not in texts:
        shown = ", ".join(map(plain_text, allowed[:12]))
        more = ", …" if len(allowed) > 12 else ""
        fact = f"'{plain_text(value)}' is not accepted"
        raise ParameterError(name, fact, f"Accepted are: {shown}{more}")
    if parameter.kind == "text":
        return Text(plain_text(value))
    read = parameter_from_text(plain_text(value))
    if parameter.kind is not None and not _is(parameter.kind, read):
        fact = f"'{plain_text(value)}' is no {parameter.kind}"
        raise ParameterError(name, fact, f"Write for example {_EXAMPLES[parameter.kind]}")
    return read


def _is(kind: str, read: Any) -> bool:
    if kind == "period" and isinstance(read, Number):
        return _A_YEAR.fullmatch(read.text) is not None  # where dates are asked it is taken so
    longer = isinstance(read, Period) and read.end - read.start > DAY
    return isinstance(read, _KINDS[kind]) and not (kind == "date" and longer)


def show_parameter(value: Any) -> str:
    """Return a parameter's value for a person."""
    if isinstance(value, list):
        return " | ".join(map(show_parameter, value))
    return "(blank)" if value is None else str(getattr(value, "text", value))
