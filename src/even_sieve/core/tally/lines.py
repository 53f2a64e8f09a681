"""Lines: labelled rows of a report, each with criteria of its own, and sums of others.

Lines that share rows, and rows in play that are in no line, are told with their counts.
"""

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import combinations

import numpy as np

from even_sieve.core.answer import Answer
from even_sieve.core.criteria import Criteria
from even_sieve.core.errors import CallError, NoSuchFigure, closest, listed
from even_sieve.core.measures import MeasureRequest
from even_sieve.core.notices import Code, Notice, counted, each_once
from even_sieve.core.query import Query
from even_sieve.core.table import Table
from even_sieve.core.table.lanes import Array
from even_sieve.core.tally.answers import Tallies, Tally
from even_sieve.core.tally.composite_figures import ADDING
from even_sieve.core.tally.doubts import refuse_doubts
from even_sieve.core.tally.evaluate import evaluate
from even_sieve.core.tally.looking import look
from even_sieve.core.tally.plan import Plan
from even_sieve.core.tally.selection import Selection


@dataclass(frozen=True)
class Heading:
    """A text between lines.

    >>> import even_sieve
    >>> even_sieve.Heading("Zones").label
    'Zones'
    """

    label: str


@dataclass(frozen=True)
class LineRows:
    """A line of rows: its label, and the criteria that hold for them, as text or nodes.

    >>> import even_sieve
    >>> even_sieve.LineRows("outer", "zone = Outer").label
    'outer'
    """

    label: str
    where: str | Criteria


@dataclass(frozen=True)
class Together:
    """A line that adds others, by their labels; those to take off with a minus before them.

    >>> import even_sieve
    >>> even_sieve.Together("net", ("dues", "-waived")).label
    'net'
    """

    label: str
    parts: tuple[str, ...]


@dataclass(frozen=True)
class Counted:
    """A line of rows with its tallies.

    >>> import even_sieve
    >>> calls = even_sieve.table_from({"zone": ["Outer", "Inner"], "dues": [120, 80]})
    >>> entry = even_sieve.LineRows("outer", "zone = Outer")
    >>> line = calls.lines("sum of dues", entries=[entry]).entries[0]
    >>> line.label, line[0].value
    ('outer', 120)
    """

    label: str
    tallies: Tallies

    def __getitem__(self, name: int | str) -> Tally:
        """Return a tally by its position or its name. Raises `NoSuchFigure` naming the closest."""
        return self.tallies[name]


@dataclass(frozen=True)
class Added:
    """A line of others: an exact amount a measure, None with the reason where there is none.

    >>> import even_sieve
    >>> calls = even_sieve.table_from({"zone": ["Outer", "Inner"], "dues": [120, 80]})
    >>> entries = [
    ...     even_sieve.Heading("Zones"),
    ...     even_sieve.LineRows("outer", "zone = Outer"),
    ...     even_sieve.LineRows("inner", "zone = Inner"),
    ...     even_sieve.Together("all", ("outer", "inner")),
    ... ]
    >>> calls.lines("sum of dues", entries=entries).entries[-1].amounts
    (Fraction(200, 1),)
    """

    label: str
    parts: tuple[str, ...]
    amounts: tuple[Fraction | None, ...]
    reasons: tuple[str | None, ...]


@dataclass(frozen=True, repr=False)
class LineSet(Answer):
    """Lines in the order given: headings, lines of rows, and lines of others.

    >>> from even_sieve import table_from
    >>> calls = table_from({"zone": ["Outer", "Inner"], "dues": [120, 80]})
    >>> entries = {"outer": "zone = Outer", "inner": "zone = Inner"}
    >>> found = calls.lines("sum of dues", entries=entries)
    >>> found["outer"].tallies[0].value, len(found)
    (120, 2)
    """

    measures: tuple[MeasureRequest, ...]
    entries: tuple[Heading | Counted | Added, ...]
    notices: tuple[Notice, ...] = ()

    def __len__(self) -> int:
        return len(self.entries)

    def __iter__(self) -> Iterator[Heading | Counted | Added]:
        return iter(self.entries)

    def __getitem__(self, label: str) -> Counted | Added:
        """Return a line by its label. Raises `KeyError`."""
        for entry in self.entries:
            if entry.label == label and not isinstance(entry, Heading):
                return entry
        near = closest(str(label), [e.label for e in self.entries if not isinstance(e, Heading)])
        raise NoSuchFigure(
            f"no line '{label}'" + (f"; did you mean {listed(near)}?" if near else "")
        )


def make_lines(
    query: Query,
    table: Table,
    measures: Iterable[str | MeasureRequest],
    entries: Sequence[Heading | LineRows | Together],
) -> LineSet:
    """Return the lines, all from one pass. Raises `CallError` for labels that cannot be.

    That is one that stands twice, or one that a sum names and no line before it has.
    """
    _refuse_labels(entries)
    plan = Plan.of(query, table)
    requests = plan.requests(measures)
    rows = [each for each in entries if isinstance(each, LineRows)]
    plans = [plan.narrowed(each.where) for each in rows]
    tallies = evaluate(plans, requests) if plans else []
    found: dict[str, Counted | Added] = {
        each.label: Counted(each.label, own) for each, own in zip(rows, tallies, strict=True)
    }
    for each in entries:
        if isinstance(each, Together):
            found[each.label] = _added(each, requests, found)
    made = [each if isinstance(each, Heading) else found[each.label] for each in entries]
    notices = [notice for own in tallies for notice in own.notices]
    notices += _shared_and_left(plan, rows, plans)
    refuse_doubts(query, notices, (each for own in tallies for each in own))
    return LineSet(tuple(requests), tuple(made), each_once(notices))


def _refuse_labels(wanted: Sequence[Heading | LineRows | Together]) -> None:
    """Raise `CallError` for a label that stands twice, or a part that no line before has."""
    seen: list[str] = []
    for each in wanted:
        if isinstance(each, Heading):
            continue
        if each.label in seen:
            raise CallError(f"two lines are called '{each.label}'")
        for part in each.parts if isinstance(each, Together) else ():
            name = part.removeprefix("-").strip()
            if name not in seen:
                near = closest(name, seen)
                hint = f"Did you mean {listed(near)}?" if near else "Parts stand before their sum"
                raise CallError(f"line '{each.label}': no line '{name}' before it\n{hint}")
        seen.append(each.label)


def _added(
    wanted: Together, requests: Sequence[MeasureRequest], found: dict[str, Counted | Added]
) -> Added:
    amounts: list[Fraction | None] = []
    reasons: list[str | None] = []
    for position, request in enumerate(requests):
        parts = [_amount(found[part.removeprefix("-").strip()], position) for part in wanted.parts]
        signs = [-1 if part.startswith("-") else 1 for part in wanted.parts]
        if request.kind not in ADDING:
            amounts.append(None)
            reasons.append(f"lines of '{request.words}' do not add up")
        elif any(part is None for part in parts):
            amounts.append(None)
            reasons.append("a part has no value")
        else:
            known = [part for part in parts if part is not None]
            amounts.append(sum((s * p for s, p in zip(signs, known, strict=True)), Fraction(0)))
            reasons.append(None)
    return Added(wanted.label, wanted.parts, tuple(amounts), tuple(reasons))


def _amount(line: Counted | Added, position: int) -> Fraction | None:
    if isinstance(line, Added):
        return line.amounts[position]
    each = line.tallies[position]
    if each.exact is not None:
        return each.exact
    return Fraction(each.value) if isinstance(each.value, int) else None


def _shared_and_left(
    plan: Plan, rows: Sequence[LineRows], plans: Sequence[Plan]
) -> Iterator[Notice]:
    """Tell how many rows in play two lines share, and how many are in no line."""
    if not rows:
        return
    shared, left = _overlaps(plan, plans)
    for (i, k), count in sorted(shared.items()):
        text = (
            f"lines '{rows[i].label}' and '{rows[k].label}' share {counted(count, 'row')}: "
            "added up they count twice"
        )
        yield Notice(Code.LINES_OVERLAP, text, {"rows": count})
    if left:
        verb = "is" if left == 1 else "are"
        text = f"{counted(left, 'row')} in play {verb} in no line"
        yield Notice(Code.IN_NO_LINE, text, {"rows": left})


def _overlaps(plan: Plan, plans: Sequence[Plan]) -> tuple[Counter[tuple[int, int]], int]:
    """Return how many rows each two lines share, and how many rows in play are in none.

    The table is gone through once: only rows that are in several lines are looked at again.
    """
    every = Selection(plan.binder.probe(plan.shared.criteria), plan.skipped)
    lines = [Selection(plan.binder.probe(p.shared.criteria), plan.skipped) for p in plans]
    seen = look(plan, [every, *lines], _overlaps_seen)
    shared: Counter[tuple[int, int]] = Counter()
    for own, _ in seen:
        shared.update(own)
    return shared, sum(left for _, left in seen)


def _overlaps_seen(masks: Sequence[Array], _first: int) -> tuple[Counter[tuple[int, int]], int]:
    """Return on a stretch of rows how many each two lines share, and how many are in none.

    The first mask is of all rows, those after it are of the lines.
    """
    every, *lines = masks
    times = np.zeros(len(every), dtype=np.int32)
    for mask in lines:
        times += mask
    shared: Counter[tuple[int, int]] = Counter()
    twice = np.flatnonzero(times > 1)
    if len(twice):
        members = np.array([mask[twice] for mask in lines])
        kinds, counts = np.unique(members, axis=1, return_counts=True)
        for kind, count in zip(kinds.T, counts.tolist(), strict=True):
            for pair in combinations(np.flatnonzero(kind).tolist(), 2):
                shared[pair] += count
    return shared, int(np.count_nonzero((times == 0) & every))
