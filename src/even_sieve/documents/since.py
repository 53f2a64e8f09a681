"""What moved since an earlier answer, and what it was made from then."""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from even_sieve.core.answer import Answer
from even_sieve.core.cells import Cell
from even_sieve.core.notices import counted
from even_sieve.documents.document import Document, Facts, Grid, Part, Records
from even_sieve.documents.values import plain_amount, plain_json, show_value

#: So many figures that moved are laid out for a person.
_MOST_SHOWN = 200
_FEW = 3


@dataclass(frozen=True)
class Moved:
    """One figure before and now; None where it was not there, or had no value."""

    place: str
    before: Cell
    now: Cell

    @property
    def change(self) -> Cell:
        """How far it moved, where both are numbers."""
        pair = [each for each in (self.before, self.now) if isinstance(each, int | float)]
        if len(pair) < 2 or isinstance(self.before, bool) or isinstance(self.now, bool):
            return None
        first, second = (Fraction(repr(each)) for each in pair)
        return plain_amount(second - first)


@dataclass(frozen=True, repr=False)
class Since(Answer):
    """What moved since the answer of a file: figures, how many stayed, what else changed.

    `new` and `gone` are the places of figures that only one of both has.
    """

    name: str
    moved: tuple[Moved, ...]
    same: int
    changed: tuple[str, ...]
    new: tuple[str, ...] = ()
    gone: tuple[str, ...] = ()


class SinceDocument(Document):
    """The figures that moved, and what has changed."""

    answer: Since

    def parts(self) -> Sequence[Part]:
        """Return a row a figure, and what has changed of what it was made from."""
        moved = self.answer.moved[:_MOST_SHOWN]
        rows = tuple(
            (each.place, show_value(each.before), show_value(each.now), _signed(each.change))
            for each in moved
        )
        rows = rows or (("nothing moved", "", "", ""),)
        grid = Grid(("figure", "was", "is", "moved by"), rows, (False, True, True, True))
        facts = [f"{counted(self.answer.same, 'figure')} as before"]
        if len(self.answer.moved) > len(moved):
            facts.append(f"{len(self.answer.moved) - len(moved):,} more moved")
        for what, places in (("new", self.answer.new), ("gone", self.answer.gone)):
            if places:
                more = f" and {len(places) - _FEW:,} more" if len(places) > _FEW else ""
                facts.append(f"{what}: {'; '.join(places[:_FEW])}{more}")
        facts += [f"changed: {each}" for each in self.answer.changed]
        return grid, Facts(tuple(facts))

    def plain(self) -> dict[str, Any]:
        """Return the moves and the changes as plain objects."""
        return {
            "name": self.answer.name,
            "moved": [
                {
                    "figure": each.place,
                    "was": plain_json(each.before),
                    "is": plain_json(each.now),
                    "by": plain_json(each.change),
                }
                for each in self.answer.moved
            ],
            "same": self.answer.same,
            "new": list(self.answer.new),
            "gone": list(self.answer.gone),
            "changed": list(self.answer.changed),
        }

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


def _signed(change: Cell) -> str:
    shown = "" if change is None else show_value(change)
    return shown if not shown or shown.startswith("-") else f"+{shown}"
