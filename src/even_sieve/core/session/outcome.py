"""What comes of a draft: figures, what each cell holds for, and what moved."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from even_sieve.core.cells import Cell, Kind
from even_sieve.core.cells.quoting import quoted
from even_sieve.core.criteria import EVERYTHING, Criteria, prepare, write_criteria
from even_sieve.core.errors import SieveError
from even_sieve.core.measures import parse_measure
from even_sieve.core.query import Query
from even_sieve.core.session.draft import Draft, Fault, Reading
from even_sieve.core.table import Table
from even_sieve.core.tally import Tallies, Tally
from even_sieve.core.tally.counting import count_rows
from even_sieve.core.tally.doubts import refuse_doubts
from even_sieve.core.tally.evaluate import evaluate
from even_sieve.core.tally.plan import Plan


@dataclass(frozen=True)
class Move:
    """A figure before and now; `change` is how far it moved, where both are numbers."""

    name: str
    before: Cell
    now: Cell
    change: Fraction | None = None


@dataclass(frozen=True)
class Outcome:
    """What came of a draft. `tallies` is None where there is a fault, or a value half typed.

    `holds` tells for how many rows in play the criteria of each filled cell hold by themselves,
    by row and place; `left` the same of each filled row of the draft, all its cells together.

    >>> import even_sieve
    >>> calls = even_sieve.table_from({"zone": ["Outer", "Inner"], "dues": [120, 80]})
    >>> outcome = even_sieve.Session(calls.core, ["sum of dues"]).work_out()
    >>> outcome.tallies[0].value, outcome.faults
    (200, ())
    """

    draft: Draft
    criteria: Criteria
    faults: tuple[Fault, ...] = ()
    tallies: Tallies | None = None
    holds: tuple[tuple[tuple[int, int], int], ...] = ()
    left: tuple[tuple[int, int], ...] = ()
    moves: tuple[Move, ...] = ()
    half: tuple[int, int] | None = None

    @property
    def asks(self) -> tuple[str, ...]:
        """The names of the figures; empty where there are none."""
        return tuple(each.name for each in self.tallies or ())

    @property
    def where(self) -> str:
        """The criteria of the draft as text; empty where no cell sets a condition."""
        return write_criteria(self.criteria)

    @property
    def moved(self) -> dict[str, Move]:
        """What moved, by the names of the figures."""
        return {move.name: move for move in self.moves}

    def since(self, before: "Outcome | None") -> "Outcome":
        """Return the outcome with what moved since another one."""
        if before is None or before.tallies is None or self.tallies is None:
            return self
        known = {each.name: each for each in before.tallies}
        pairs = [(known[each.name], each) for each in self.tallies if each.name in known]
        found = [_move(a, b) for a, b in pairs if a.value != b.value]
        return replace(self, moves=tuple(found))


def _move(before: Tally, now: Tally) -> Move:
    first, second = _exact(before), _exact(now)
    change = None if first is None or second is None else second - first
    return Move(now.name, before.value, now.value, change)


def _exact(each: Tally) -> Fraction | None:
    """Return a figure that is a number as the exact number that is shown."""
    value = each.value
    if isinstance(value, bool) or not isinstance(value, int | float):
        return None
    return Fraction(value) if isinstance(value, int) else Fraction(repr(value))


def work_out(
    query: Query,
    table: Table,
    measures: Sequence[str],
    draft: Draft,
    typing: tuple[int, int] | None = None,
) -> Outcome:
    """Return what comes of a draft on a table that is made ready; nothing is kept or changed.

    `query` is what is asked besides; its own criteria hold as well. Faults are never raised.
    `typing` is the row and place of a cell of which more may be typed: where it holds for no
    row by itself, it is taken for half of a value, and no figures are worked out.
    """
    reading = draft.read(table)
    criteria = reading.criteria
    if reading.faults:
        return Outcome(draft, criteria, reading.faults)
    asked = query if criteria == EVERYTHING else query.narrowed_by(criteria)
    try:
        plan = Plan.of(asked, table)
        holds, left = _counts(plan, reading)
        if typing is not None and dict(holds).get(typing) == 0:
            return Outcome(draft, criteria, (), None, holds, left, half=typing)
        (found,) = evaluate([plan], plan.requests(measures))
        refuse_doubts(plan.query, found.notices, found)
    except SieveError as error:
        return Outcome(draft, criteria, (_placed(query, table, reading, error),))
    return Outcome(draft, criteria, (), found, holds, left)


def _counts(
    plan: Plan, reading: Reading
) -> tuple[tuple[tuple[tuple[int, int], int], ...], tuple[tuple[int, int], ...]]:
    rows = {row: _together(reading, row) for row, _ in reading.cells}
    every = [*reading.cells.values(), *rows.values()]
    prepared = [prepare(each, plan.query.settings).criteria for each in every]
    counts = count_rows(plan, prepared, plan.skipped)
    cells = zip(reading.cells, counts, strict=False)
    return tuple(cells), tuple(zip(rows, counts[len(reading.cells) :], strict=True))


def _together(reading: Reading, row: int) -> Criteria:
    return replace(
        reading, cells={place: each for place, each in reading.cells.items() if place[0] == row}
    ).criteria


def _placed(query: Query, table: Table, reading: Reading, error: SieveError) -> Fault:
    """Return the fault of an error, with the cell that raises the same by itself, if one does."""
    for (row, place), criteria in reading.cells.items():
        try:
            Plan.of(query.narrowed_by(criteria), table).shared_notices()
        except SieveError as own:
            if str(own) == str(error):
                return Fault(str(error), row, place)
    return Fault(str(error))


def usual_measures(table: Table) -> list[str]:
    """Return what is shown where nobody named a measure: rows, and sum and average of a column.

    It is the first that holds numbers and no dates; `rows` alone where there is none.
    """
    for column in table.columns:
        if column.leading is Kind.NUMBER:
            name = _written(column.name, table)
            return ["rows", f"sum of {name}", f"average of {name}"]
    return ["rows"]


def _written(name: str, table: Table) -> str:
    """Return the name of a column as it stands in a measure: in quotes where it must."""
    try:
        found = parse_measure(f"sum of {name}", table.names)
    except SieveError:
        return quoted(name)
    return name if found.column == name and found.where is None else quoted(name)
