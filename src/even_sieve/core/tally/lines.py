"""Lines: labelled rows of a report, each with criteria of its own, and sums of others.

Lines that share rows, and rows in play that are in no line, are told with their counts.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction

from even_sieve.core.criteria import EVERYTHING, Criteria, all_of, any_of
from even_sieve.core.criteria.nodes import negated
from even_sieve.core.errors import CallError, closest, listed
from even_sieve.core.measures import MeasureRequest
from even_sieve.core.notices import Code, Notice, counted, each_once
from even_sieve.core.table import Table
from even_sieve.core.tally.answers import Tallies
from even_sieve.core.tally.call import Call, Options
from even_sieve.core.tally.composite_figures import ADDING
from even_sieve.core.tally.counting import count_rows
from even_sieve.core.tally.evaluate import tally
from even_sieve.core.tally.selection import skipped_marks


@dataclass(frozen=True)
class Heading:
    """A text between lines."""

    label: str


@dataclass(frozen=True)
class Wanted:
    """A line of rows: its label, and the criteria that hold for them."""

    label: str
    where: Criteria


@dataclass(frozen=True)
class Together:
    """A line that adds others, by their labels; those to take off with a minus before them."""

    label: str
    parts: tuple[str, ...]


@dataclass(frozen=True)
class Counted:
    """A line of rows with its tallies."""

    label: str
    tallies: Tallies


@dataclass(frozen=True)
class Added:
    """A line of others: an exact amount a measure, None with the reason where there is none."""

    label: str
    parts: tuple[str, ...]
    amounts: tuple[Fraction | None, ...]
    reasons: tuple[str | None, ...]


@dataclass(frozen=True)
class LineSet:
    """Lines in the order given: headings, lines of rows, and lines of others."""

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
        raise KeyError(f"no line '{label}'")


def make_lines(
    table: Table,
    requests: Sequence[MeasureRequest],
    wanted: Sequence[Heading | Wanted | Together],
    where: Criteria = EVERYTHING,
    options: Options | None = None,
) -> LineSet:
    """Return the lines. Raises `CallError` for a label that stands twice or is not there."""
    options = options or Options()
    _refuse_labels(wanted)
    found: dict[str, Counted | Added] = {}
    entries: list[Heading | Counted | Added] = []
    notices: list[Notice] = []
    for each in wanted:
        if isinstance(each, Heading):
            entries.append(each)
            continue
        if isinstance(each, Wanted):
            tallies = tally(table, requests, all_of((where, each.where)), options)
            notices += tallies.notices
            line: Counted | Added = Counted(each.label, tallies)
        else:
            line = _added(each, requests, found)
        found[each.label] = line
        entries.append(line)
    rows = [each for each in wanted if isinstance(each, Wanted)]
    notices += _shared_and_left(Call(table, where, options), rows)
    return LineSet(tuple(requests), tuple(entries), each_once(notices))


def _refuse_labels(wanted: Sequence[Heading | Wanted | Together]) -> None:
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


def _shared_and_left(call: Call, rows: Sequence[Wanted]) -> Iterator[Notice]:
    """Tell how many rows in play two lines share, and how many are in no line."""
    if not rows:
        return
    own = [call.prepared(each.where) for each in rows]
    pairs = [(i, k) for i in range(len(rows)) for k in range(i + 1, len(rows))]
    left_out = negated(any_of(own)) if own else EVERYTHING
    asked = [*(all_of((own[i], own[k])) for i, k in pairs), left_out]
    asked = [all_of((call.shared.criteria, each)) for each in asked]
    *shared, left = count_rows(call, asked, skipped_marks(call.options.keep))
    for (i, k), count in zip(pairs, shared, strict=True):
        if count:
            text = (
                f"lines '{rows[i].label}' and '{rows[k].label}' share {counted(count, 'row')}: "
                "added up they count twice"
            )
            yield Notice(Code.LINES_OVERLAP, text, {"rows": count})
    if left:
        verb = "is" if left == 1 else "are"
        text = f"{counted(left, 'row')} in play {verb} in no line"
        yield Notice(Code.IN_NO_LINE, text, {"rows": left})
