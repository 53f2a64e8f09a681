"""What criteria hang on besides the table: parameters, the as-of date, the fiscal year."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime
from decimal import Decimal
from typing import Any, TypeAlias

from even_sieve.core.cells import fold
from even_sieve.core.cells.dates import DAY, days_of, micros_of
from even_sieve.core.criteria.conditions import Meets
from even_sieve.core.criteria.nodes import (
    And,
    Condition,
    Criteria,
    Not,
    Or,
    all_of,
    any_of,
    negated,
    refuse_deep,
)
from even_sieve.core.criteria.operands import (
    Calendar,
    NamedPeriod,
    Number,
    Operand,
    Parameter,
    Period,
    Text,
    YesNo,
    read_plain,
    resolve_period,
)
from even_sieve.core.errors import ParameterError, closest, listed
from even_sieve.core.notices import Code, Notice

PlainValue: TypeAlias = int | float | Decimal | str | bool | date | Operand | None
ParameterValue: TypeAlias = PlainValue | Criteria | Sequence[PlainValue]


@dataclass(frozen=True)
class Settings:
    """Parameters by name, the as-of date, and the first month of the fiscal year (1 to 12)."""

    parameters: Mapping[str, ParameterValue] = field(default_factory=dict)
    as_of: date = field(default_factory=date.today)
    fiscal_start: int = 1

    def __post_init__(self) -> None:
        if not 1 <= self.fiscal_start <= 12:
            raise ParameterError(
                "fiscal start", f"{self.fiscal_start} is no month", "Accepted are 1 to 12"
            )


@dataclass(frozen=True)
class Prepared:
    """Criteria with every parameter and named period put in, and what to know about it.

    `hangs_on_date` tells whether a period relative to the as-of date was put in.
    """

    criteria: Criteria
    notices: tuple[Notice, ...] = ()
    hangs_on_date: bool = False


def operand_of(value: PlainValue) -> Operand | None:
    """Return the operand that a Python value stands for; None for a blank one.

    A text is a text to the letter: nothing inside it is read.
    """
    if isinstance(value, bool):
        return YesNo(value, "yes" if value else "no")
    if isinstance(value, int | float | Decimal):
        exact = Decimal(repr(value)) if isinstance(value, float) else Decimal(value)
        if not exact.is_finite():
            raise ParameterError("value", f"{value} is no number to compare with")
        return Number(exact, str(value))
    if isinstance(value, datetime):
        micros = micros_of(value.replace(tzinfo=None) - (value.utcoffset() or value - value))
        return Period(micros, micros + 1, value.isoformat())
    if isinstance(value, date):
        start = days_of(value) * DAY
        return Period(start, start + DAY, value.isoformat())
    if value is None or isinstance(value, str):
        return Text(value.strip()) if value and value.strip() else None
    return value


def parameter_from_text(text: str) -> PlainValue:
    """Return a parameter's value from a command line or a file: number, date, period, text.

    Only what it is as a whole is read; wildcards, bars and quotes inside it are letters.

    >>> parameter_from_text("500").value, parameter_from_text("B*").text
    (Decimal('500'), 'B*')
    """
    return read_plain(text.strip()) if text.strip() else None


def prepare(criteria: Criteria, settings: Settings) -> Prepared:
    """Return the criteria with the settings put in.

    A condition whose parameter is blank is taken away, with a notice. Raises
    `ParameterError` for a parameter that is not set or does not fit its place.
    """
    refuse_deep(criteria)
    work = _Preparation(settings)
    left = work.criteria(criteria)
    if left is None:
        left = And(())
        text = "no condition is left: every row matches"
        work.notices.append(Notice(Code.NO_CONDITION, text))
    return Prepared(left, tuple(work.notices), work.hangs_on_date)


class _Preparation:
    def __init__(self, settings: Settings) -> None:
        self.settings = settings
        self.calendar = Calendar(settings.as_of, settings.fiscal_start)
        self.values = {fold(name.strip()): v for name, v in settings.parameters.items()}
        self.notices: list[Notice] = []
        self.inside: list[str] = []
        self.hangs_on_date = False

    def criteria(self, criteria: Criteria) -> Criteria | None:
        if isinstance(criteria, Condition):
            return self.condition(criteria)
        if isinstance(criteria, And | Or):
            if not criteria.parts:
                return criteria
            parts = [part for part in map(self.criteria, criteria.parts) if part is not None]
            if not parts:
                return None
            return all_of(parts) if isinstance(criteria, And) else any_of(parts)
        part = self.criteria(criteria.part)
        return None if part is None else negated(part)

    def met(self, test: Meets) -> Criteria | None:
        """Return the criteria that a parameter holds, with the settings put in."""
        name = fold(test.name)
        value = self.value(test.name)
        if not isinstance(value, Condition | And | Or | Not):
            hint = f"Compare with it: dues >= {{{test.name}}}"
            raise ParameterError(test.name, "it holds a value, and no criteria", hint)
        if name in self.inside:
            raise ParameterError(test.name, "its criteria ask for themselves")
        self.inside.append(name)
        found = self.criteria(value)
        self.inside.pop()
        return found

    def condition(self, condition: Condition) -> Criteria | None:
        if isinstance(condition.test, Meets):
            found = self.met(condition.test)
            return negated(found) if found is not None and condition.negated else found
        test = condition.test.settled(self)
        if test is None:
            return None
        return Condition(condition.column, test, condition.negated, condition.position)

    def period(self, named: NamedPeriod) -> Period:
        self.hangs_on_date |= not named.name.startswith("FY")
        return resolve_period(named, self.calendar)

    def put(self, parameter: Parameter) -> tuple[Operand, ...]:
        """Return the parameter's values as operands; none, with a notice, if it is blank."""
        value = self.value(parameter.name)
        if isinstance(value, Condition | And | Or | Not):
            hint = f"Let it stand by itself: {{{parameter.name}}} and zone = Outer"
            raise ParameterError(parameter.name, "it holds criteria, and no value", hint)
        several = isinstance(value, Sequence) and not isinstance(value, str)
        every: Iterable[Any] = value if several else [value]  # type: ignore[assignment]
        read = [
            operand_of(parameter_from_text(each) if isinstance(each, str) else each)
            for each in every
        ]
        found = tuple(self.resolved(each) for each in read if each is not None)
        if found and len(found) < len(read):
            text = f"parameter '{parameter.name}': a blank among its values was passed over"
            self.notices.append(Notice(Code.BLANK_AMONG_VALUES, text))
        if not found:
            self.notices.append(
                Notice(
                    Code.BLANK_PARAMETER,
                    f"parameter '{parameter.name}' is blank: its condition was taken away",
                )
            )
        return found

    def value(self, name: str) -> ParameterValue:
        """Return what a parameter is set to. Raises `ParameterError` if it is not."""
        key = fold(name)
        if key not in self.values:
            near = closest(name, self.settings.parameters)
            hint = f"Did you mean {listed(near)}?" if near else ""
            raise ParameterError(name, "it has no value", hint or f"Set it: {name}=VALUE")
        return self.values[key]

    def resolved(self, operand: Operand) -> Operand:
        return self.period(operand) if isinstance(operand, NamedPeriod) else operand
