"""Tallies: figures with the accounts that back them."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import cached_property
from typing import Any

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.errors import CallError, closest, listed
from even_sieve.core.measures import MeasureRequest
from even_sieve.core.notices import Notice, each_once
from even_sieve.core.recheck import work_out_again
from even_sieve.core.tally.account import Account
from even_sieve.core.tally.agreement import Recheck, compare, compare_joined
from even_sieve.core.tally.buckets import Origin, row_buckets, rows_in
from even_sieve.core.tally.explain import Explanation, explain, explain_combined


@dataclass(frozen=True)
class Tally:
    """The answer to one measure.

    `value` is None where there is none, and `reason` then says why; it is a `CellError`
    where an error was kept. `found_at` lists the source's numbers of the rows that gave
    it. `exact` is the figure before rounding, where it was worked out exactly; `decimals`
    is how many the measured column is written with, for showing figures alike. `parts` are
    the tallies that it was worked out from, if it is not one of rows; the account is then
    that of the first.
    """

    request: MeasureRequest
    value: Cell
    account: Account
    found_at: tuple[int, ...] = ()
    reason: str | None = None
    notices: tuple[Notice, ...] = ()
    exact: Fraction | None = None
    decimals: int = 0
    origin: "Origin | None" = field(default=None, repr=False, compare=False)
    parts: tuple["Tally", ...] = ()

    def rows(self, bucket: str = "used") -> tuple[int, ...]:
        """Return the source's numbers of the rows in a bucket of the account.

        Raises `CallError` for a word that is no bucket, or for a figure worked out from
        others, which have the rows.
        """
        if self.parts:
            names = listed([part.name for part in self.parts])
            raise CallError(f"'{self.name}' is worked out from other figures\nAsk {names}")
        return rows_in(self._origin(), bucket)

    def explain(self) -> "Explanation":
        """Return what the figure is, of which rows, and where every other row went."""
        if self.parts:
            parts = tuple(part.explain() for part in self.parts)
            shown = [f"{part.name} = {_shown(part)}" for part in self.parts]
            return explain_combined(self.request, self.account, shown, parts)
        return explain(self.name, self.account, self.exact, self._origin())

    def recheck(self) -> "Recheck":
        """Work the figure out again, row by row, by slow and separate code, and compare.

        Raises `RecheckError` naming the first row that stands in another bucket, or both
        figures if they differ. Of a figure worked out from others these are worked out again,
        and it from them; `CallError` for a running total, whose lines can be rechecked.
        """
        if self.parts:
            return self._recheck_parts()
        origin = self._origin()
        again = work_out_again(origin.question())
        buckets, table = row_buckets(origin), origin.call.table
        return compare(self._placed, self.value, self.account, again, buckets, table)

    @property
    def _placed(self) -> str:
        """The name with the line that the figure stands in."""
        first = self
        while first.parts:
            first = first.parts[0]
        places = () if first.origin is None else first.origin.places
        keys = ["(blank)" if place.key is None else f"{place.key}" for place in places]
        return ", ".join([self.name, *keys])

    def _recheck_parts(self) -> "Recheck":
        if len(self.parts) < 2:
            raise CallError(f"'{self.name}' adds up lines\nRecheck '{self.parts[0].name}' in each")
        known = [part.exact is not None for part in self.parts]
        checked = [part.recheck() for part in self.parts]
        return compare_joined(self._placed, self.request.kind, self.value, known, checked)

    def _origin(self) -> "Origin":
        if self.origin is None:
            raise CallError(f"'{self.name}' does not know its table any more")
        return self.origin

    @property
    def name(self) -> str:
        """What the figure is called."""
        return self.request.name

    @property
    def has_answer(self) -> bool:
        """Whether there is a figure: not where an error was kept."""
        return not isinstance(self.value, CellError)

    def __str__(self) -> str:
        return f"{self.name} = {_shown(self)} [{self.account.words()}]"


def _shown(tally: Tally) -> str:
    return f"no value ({tally.reason})" if tally.value is None else f"{tally.value}"


@dataclass(frozen=True)
class Tallies:
    """The answers to several measures of one table, in the order asked.

    `where` is the criteria they share, as text; `as_of` the date that it hangs on, if any.
    """

    items: tuple[Tally, ...]
    notices: tuple[Notice, ...] = ()
    where: str = ""
    as_of: str | None = None

    def __len__(self) -> int:
        return len(self.items)

    def __iter__(self) -> Iterator[Tally]:
        return iter(self.items)

    def with_notices(self, more: tuple[Notice, ...]) -> "Tallies":
        """Return the same tallies with more to know about all of them, first."""
        return Tallies(self.items, each_once((*more, *self.notices)), self.where, self.as_of)

    def __getitem__(self, key: int | str) -> Tally:
        """Return a tally by its position or its name. Raises `KeyError` naming the closest."""
        if isinstance(key, int):
            return self.items[key]
        for item in self.items:
            if item.name == key:
                return item
        near = closest(key, [item.name for item in self.items])
        raise KeyError(f"no tally '{key}'" + (f"; did you mean {listed(near)}?" if near else ""))


class _All:
    """Stands for all values of an axis in the key of a subtotal."""

    __slots__ = ()

    def __repr__(self) -> str:
        return "ALL"


ALL_VALUES = _All()


@dataclass(frozen=True)
class Line:
    """One line of a breakdown: the values that its rows share, and its tallies.

    In the key of a subtotal `ALL_VALUES` stands where rows of all values are in it.
    """

    key: tuple[Any, ...]
    tallies: Tallies


@dataclass(frozen=True)
class Breakdown:
    """Tallies by the values of one or several axes, and the total.

    `lines` come in the order of the values, or as sorted; `rest` is what a list of labels
    does not take, or what a choice of the first lines leaves. With several axes `subtotals`
    hold the lines of the outer ones. With `across`, keys have its value last, and subtotals
    hold the totals of rows and columns too.
    """

    by: tuple[str, ...]
    lines: Sequence[Line]
    total: Tallies
    notices: tuple[Notice, ...] = ()
    across: str | None = None
    subtotals: tuple[Line, ...] = ()
    rest: Line | None = None

    def __len__(self) -> int:
        return len(self.lines)

    def __iter__(self) -> Iterator[Line]:
        return iter(self.lines)

    def with_notices(self, more: tuple[Notice, ...]) -> "Breakdown":
        """Return the same breakdown with more to know about it, first."""
        return replace(self, notices=each_once((*more, *self.notices)))

    @property
    def with_rest(self) -> Sequence[Line]:
        """The lines, and the rest after them where there is one."""
        return self.lines if self.rest is None else (*self.lines, self.rest)

    @cached_property
    def _by_key(self) -> dict[tuple[Any, ...], Tallies]:
        every = (*self.subtotals, *self.with_rest)
        return {line.key: line.tallies for line in every}

    def __getitem__(self, key: Cell | tuple[Any, ...]) -> Tallies:
        """Return the tallies of the line with that key, or that one value. Raises `KeyError`."""
        found = self._by_key.get(key if isinstance(key, tuple) else (key,))
        if found is None:
            raise KeyError(f"no line '{key}'")
        return found

    def get(self, key: tuple[Any, ...]) -> Tallies | None:
        """Return the tallies of a line or a subtotal, or None where no row is in play."""
        return self._by_key.get(key)
