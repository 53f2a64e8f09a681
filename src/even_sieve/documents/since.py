"""What moved since an earlier answer, and what it was made from then."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

from even_sieve.core.answer import Answer
from even_sieve.core.cells import Cell
from even_sieve.core.notices import counted
from even_sieve.core.tally import Tally
from even_sieve.documents.document import Document, Facts, Grid, Part, Records
from even_sieve.documents.shown import show_change, show_like
from even_sieve.documents.values import plain_amount, plain_json, show_value

#: So many figures that moved are laid out for a person.
_MOST_SHOWN = 200
_FEW = 3
_MOST_KEYS = 12


@dataclass(frozen=True)
class Moved:
    """One figure before and now; None where it was not there, or had no value.

    `like` is the figure as it is now, where it is known: it is shown so.
    """

    place: str
    before: Cell
    now: Cell
    like: Tally | None = field(default=None, compare=False, repr=False)

    @property
    def change(self) -> Cell:
        """How far it moved, where both are numbers."""
        pair = [each for each in (self.before, self.now) if isinstance(each, int | float)]
        if len(pair) < 2 or isinstance(self.before, bool) or isinstance(self.now, bool):
            return None
        first, second = (Fraction(repr(each)) for each in pair)
        return plain_amount(second - first)


@dataclass(frozen=True)
class RowsSince:
    """Rows by their keys: those that are new, those that are gone, and values that are others.

    `told` says why they could not be followed, `without` how many have no key now.
    """

    new: tuple[str, ...]
    gone: tuple[str, ...]
    values: tuple[Moved, ...]
    told: tuple[str, ...] = ()
    without: int = 0


@dataclass(frozen=True, repr=False)
class Since(Answer):
    """What moved since the answer of a file: figures, how many stayed, what else changed.

    `new` and `gone` are the places of figures that only one of both has; `rows` are those of
    the table, where the report follows them.
    """

    name: str
    moved: tuple[Moved, ...]
    same: int
    changed: tuple[str, ...]
    new: tuple[str, ...] = ()
    gone: tuple[str, ...] = ()
    rows: RowsSince | None = None


class SinceDocument(Document):
    """The figures that moved, and what has changed."""

    answer: Since

    def parts(self) -> Sequence[Part]:
        """Return a row a figure, and what has changed of what it was made from."""
        moved = self.answer.moved[:_MOST_SHOWN]
        grid = _grid("figure", moved)
        facts = [f"{counted(self.answer.same, 'figure')} as before"]
        if len(self.answer.moved) > len(moved):
            facts.append(f"{len(self.answer.moved) - len(moved):,} more moved")
        for what, places in (("new", self.answer.new), ("gone", self.answer.gone)):
            if places:
                more = f" and {len(places) - _FEW:,} more" if len(places) > _FEW else ""
                facts.append(f"{what}: {'; '.join(places[:_FEW])}{more}")
        facts += [f"changed: {each}" for each in self.answer.changed]
        rows = self.answer.rows
        if rows is None or rows.told:
            return grid, Facts(tuple(facts))
        for what, keys in (("new", rows.new), ("gone", rows.gone)):
            more = f", … and {len(keys) - _MOST_KEYS:,} more" if len(keys) > _MOST_KEYS else ""
            names = f": {', '.join(keys[:_MOST_KEYS])}{more}" if keys else ""
            facts.append(f"{counted(len(keys), 'row')} {what}{names}")
        facts.append(f"{counted(len(rows.values), 'value')} changed of rows that stayed")
        if rows.without:
            facts.append(f"{counted(rows.without, 'row')} without a key")
        if not rows.values:
            return grid, Facts(tuple(facts))
        return grid, Facts(tuple(facts)), _grid("value of a row", rows.values[:_MOST_SHOWN])

    def plain(self) -> dict[str, Any]:
        """Return the moves and the changes as plain objects."""
        return {
            "name": self.answer.name,
            "moved": [{"figure": each.place, **_plain(each)} for each in self.answer.moved],
            "same": self.answer.same,
            "new": list(self.answer.new),
            "gone": list(self.answer.gone),
            "changed": list(self.answer.changed),
            **self._plain_rows(),
        }

    def _plain_rows(self) -> dict[str, Any]:
        rows = self.answer.rows
        if rows is None or rows.told:
            return {}
        values = [{"value": each.place, **_plain(each)} for each in rows.values]
        return {"rows": {"new": list(rows.new), "gone": list(rows.gone), "values": values}}

    def records(self) -> Records:
        """Return a row a figure that moved."""
        moved = self.answer.moved
        return Records(
            {
                "figure": [each.place for each in moved],
                "was": [each.before for each in moved],
                "is": [each.now for each in moved],
                "moved_by": [each.change for each in moved],
            }
        )


def _grid(what: str, moved: Sequence[Moved]) -> Grid:
    rows = tuple(
        (each.place, _shown(each, each.before), _shown(each, each.now), _signed(each))
        for each in moved
    )
    rows = rows or (("nothing moved", "", "", ""),)
    return Grid((what, "was", "is", "moved by"), rows, (False, True, True, True))


def _plain(moved: Moved) -> dict[str, object]:
    pair = {"was": plain_json(moved.before), "is": plain_json(moved.now)}
    return {**pair, "by": plain_json(moved.change)}


def _shown(moved: Moved, value: Cell) -> str:
    return show_value(value) if moved.like is None else show_like(moved.like, value)


def _signed(moved: Moved) -> str:
    change = moved.change
    if change is None:
        return ""
    shown = show_value(change) if moved.like is None else show_change(moved.like, change)
    return shown if shown.startswith("-") else f"+{shown}"
