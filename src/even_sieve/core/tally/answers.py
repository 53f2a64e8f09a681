"""Tallies: figures with the accounts that back them."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from functools import cached_property
from typing import Any, overload

from even_sieve.core.answer import Answer
from even_sieve.core.axes import Group
from even_sieve.core.cells import Cell, CellError
from even_sieve.core.criteria import Criteria, write_criteria
from even_sieve.core.errors import NoSuchFigure, closest, listed
from even_sieve.core.measures import MeasureRequest
from even_sieve.core.notices import Notice
from even_sieve.core.query import Query
from even_sieve.core.tally.account import Account
from even_sieve.core.tally.keyed_lines import Line, identified, keys_of
from even_sieve.core.understood import refused, text_of

#: Among so many keys the closest one is sought.
_MOST_KEYS = 2_000


@dataclass(frozen=True)
class Tally:
    """The answer to one measure.

    `value` is None where there is none, and `reason` then says why; it is a `CellError`
    where an error was kept. `found_at` lists the source's numbers of the rows that gave
    it. `exact` is the figure before rounding, where it was worked out exactly; `decimals`
    is how many the measured column is written with, for showing figures alike. `place` are
    the groups of its line of a breakdown, `query` what was asked besides the measure. `parts`
    are the tallies that it was worked out from, if it is not one of rows; the account is then
    that of the first. `shown_as` is how the source shows the numbers of the measured column.

    >>> from even_sieve import table_from
    >>> found = table_from({"dues": [120.5, None, 80]}).tally("sum of dues")[0]
    >>> found.value, found.account.used, float(found), found.exact
    (200.5, 2, 200.5, Fraction(401, 2))
    """

    request: MeasureRequest
    value: Cell
    account: Account
    found_at: tuple[int, ...] = ()
    reason: str | None = None
    notices: tuple[Notice, ...] = ()
    exact: Fraction | None = None
    decimals: int = 0
    place: tuple[Group, ...] = ()
    query: Query = field(default_factory=Query, repr=False)
    parts: tuple["Tally", ...] = ()
    shown_as: str = ""

    @property
    def name(self) -> str:
        """What the figure is called."""
        return self.request.name

    @property
    def full_name(self) -> str:
        """The name with the line that the figure stands in: `sum of dues, Outer`."""
        first = self
        while first.parts:
            first = first.parts[0]
        keys = ["(blank)" if group.key is None else f"{group.key}" for group in first.place]
        return ", ".join([self.name, *keys])

    def __float__(self) -> float:
        """Return the figure as a double. Raises `TypeError` where it is no number."""
        return float(self._number())

    def __int__(self) -> int:
        """Return the figure cut to a whole number. Raises `TypeError` where it is no number."""
        return int(self._number())

    def _number(self) -> int | float:
        if isinstance(self.value, bool) or not isinstance(self.value, int | float):
            shown = "has no value" if self.value is None else f"is {self.value!r}"
            why = f": {self.reason}" if self.reason else ""
            raise TypeError(f"{self.full_name} {shown}{why}")
        return self.value

    @property
    def has_answer(self) -> bool:
        """Whether there is a figure: not where an error was kept."""
        return not isinstance(self.value, CellError)

    @property
    def shown(self) -> str:
        """The value in words, with the reason where there is none."""
        return f"no value ({self.reason})" if self.value is None else f"{self.value}"

    def __str__(self) -> str:
        return f"{self.name} = {self.shown} [{self.account.words()}]"


@dataclass(frozen=True, repr=False)
class Tallies(Answer):
    """The answers to several measures of one table, in the order asked.

    `result[0]` and `result["sum of dues"]` are tallies. `where` is the criteria they share
    (`shared`) as text; `as_of` the date that it hangs on, if any; `query` what was asked besides.

    >>> from even_sieve import table_from
    >>> found = table_from({"dues": [120.5, 80]}).tally("rows", "sum of dues")
    >>> len(found), found["sum of dues"].value
    (2, 200.5)
    """

    items: tuple[Tally, ...]
    notices: tuple[Notice, ...] = ()
    shared: Criteria | None = None
    as_of: str | None = None
    query: Query = field(default_factory=Query)

    @cached_property
    def where(self) -> str:
        """The criteria that the measures share, as text; empty without any."""
        return "" if self.shared is None else write_criteria(self.shared)

    def __len__(self) -> int:
        return len(self.items)

    def __iter__(self) -> Iterator[Tally]:
        return iter(self.items)

    @overload
    def __getitem__(self, key: int | str) -> Tally: ...

    @overload
    def __getitem__(self, key: slice) -> tuple[Tally, ...]: ...

    def __getitem__(self, key: int | str | slice) -> Tally | tuple[Tally, ...]:
        """Return a tally by its position or its name. Raises `NoSuchFigure` naming the closest."""
        if isinstance(key, slice):
            return self.items[key]
        if isinstance(key, int):
            if not -len(self.items) <= key < len(self.items):
                raise IndexError(f"there is no tally {key}: there are {len(self.items)}, from 0 on")
            return self.items[key]
        text_of("what finds a tally", key, "its name or its position")
        for item in self.items:
            if item.name == key:
                return item
        near = closest(key, [item.name for item in self.items])
        raise NoSuchFigure(
            f"no tally '{key}'" + (f"; did you mean {listed(near)}?" if near else "")
        )

    def select(self, *names: str) -> "Tallies":
        """Return some of the tallies by their names, in this order. Raises `NoSuchFigure`."""
        from even_sieve.core.tally.reshaping import selected

        return selected(self, names)

    def rename(self, names: Mapping[str, str]) -> "Tallies":
        """Return the tallies under other names: `rename({"sum of dues": "dues"})`."""
        from even_sieve.core.tally.reshaping import renamed

        return renamed(self, names)


@dataclass(frozen=True, repr=False)
class Breakdown(Answer):
    """Tallies by the values of one or several axes, and the total.

    `lines` come in the order of the values, or as sorted; `rest` is what a list of labels
    does not take, or what a choice of the first lines leaves. With several axes `subtotals`
    hold the lines of the outer ones. With `across`, keys have its value last, and subtotals
    hold the totals of rows and columns too.

    >>> from even_sieve import table_from
    >>> calls = table_from({"zone": ["Outer", "Inner", "Outer"], "dues": [0.1, 5, 0.2]})
    >>> found = calls.tally("sum of dues", by="zone")
    >>> found["Outer"][0].value, found.total[0].value
    (0.3, 5.3)
    """

    by: tuple[str, ...]
    lines: Sequence[Line]
    total: Tallies
    notices: tuple[Notice, ...] = ()
    across: str | None = None
    subtotals: Sequence[Line] = ()
    rest: Line | None = None

    def __len__(self) -> int:
        return len(self.lines)

    def __iter__(self) -> Iterator[Line]:
        return iter(self.lines)

    @property
    def axes(self) -> tuple[str, ...]:
        """The names of all axes, that of `across` last."""
        return self.by if self.across is None else (*self.by, self.across)

    @property
    def with_rest(self) -> Sequence[Line]:
        """The lines, and the rest after them where there is one."""
        return self.lines if self.rest is None else (*self.lines, self.rest)

    @property
    def tallies(self) -> list[Tally]:
        """Every figure: of the lines, the rest, the subtotals and the total."""
        lines = (*self.with_rest, *self.subtotals)
        return [*(tally for line in lines for tally in line.tallies), *self.total]

    @cached_property
    def _places(self) -> dict[tuple[Any, ...], tuple[Sequence[Line], int]]:
        """Where the line of each key stands."""
        rest = () if self.rest is None else (self.rest,)
        return {
            identified(key): (lines, place)
            for lines in (self.subtotals, self.lines, rest)
            for place, key in enumerate(keys_of(lines))
        }

    def __getitem__(self, key: Cell | tuple[Any, ...]) -> Tallies:
        """Return the tallies of the line with that key, or that one value. Raises `KeyError`."""
        if isinstance(key, slice | list | dict | set):
            raise refused("what finds a line", "its key (by position: found.lines[0])", key)
        found = self.get(key if isinstance(key, tuple) else (key,))
        if found is None:
            keys = [str(part) for own in keys_of(self.lines)[:_MOST_KEYS] for part in own]
            near = closest(str(key), keys)
            by_place = "; by position: found.lines[0]" if isinstance(key, int) else ""
            hint = f"; did you mean {listed(near)}?" if near else by_place
            raise NoSuchFigure(f"no line '{key}'{hint}")
        return found

    def get(self, key: tuple[Any, ...]) -> Tallies | None:
        """Return the tallies of a line or a subtotal, or None where no row is in play."""
        found = self._places.get(identified(key))
        return None if found is None else found[0][found[1]].tallies

    def head(self, lines: int = 5) -> "Breakdown":
        """Return the first lines alone; a notice says that the total is that of all.

        For the first lines with the others as one, ask with `top`.

        >>> from even_sieve import table_from
        >>> calls = table_from({"zone": ["Outer", "Inner", "North"], "dues": [3, 2, 1]})
        >>> found = calls.tally("sum of dues", by="zone").sort("sum of dues desc").head(2)
        >>> [(line.key[0], line.tallies[0].value) for line in found], found.total[0].value
        ([('Outer', 3), ('Inner', 2)], 6)
        """
        from even_sieve.core.tally.reshaping import first_lines

        return first_lines(self, lines)

    def select(self, *names: str) -> "Breakdown":
        """Return the breakdown with some of its measures, in this order. Raises `NoSuchFigure`."""
        from even_sieve.core.tally.reshaping import selected_measures

        return selected_measures(self, names)

    def rename(self, names: Mapping[str, str]) -> "Breakdown":
        """Return the breakdown with measures under other names: `{"sum of dues": "dues"}`."""
        from even_sieve.core.tally.reshaping import renamed_measures

        return renamed_measures(self, names)

    def sort(self, by: str) -> "Breakdown":
        """Return the lines in the order of a measure, or of `label`, with `asc` or `desc`."""
        from even_sieve.core.tally.reshaping import resorted

        return resorted(self, by)

    def groups(self) -> Iterator[tuple[Any, Sequence[Line]]]:
        """Yield each value of the first axis with the lines under it.

        >>> from even_sieve import table_from
        >>> calls = table_from({"zone": ["Outer", "Inner", "Outer"], "paid": ["no", "no", "yes"]})
        >>> found = calls.tally("rows", by=["zone", "paid"])
        >>> [(zone, len(lines)) for zone, lines in found.groups()]
        [('Inner', 1), ('Outer', 2)]
        """
        from even_sieve.core.tally.reshaping import groups_of

        return groups_of(self)
