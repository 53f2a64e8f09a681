"""The neutral layout of an answer: what every format renders.

A document has `parts` for people, one `plain` object for programs, and `records`: the exact
values as rows under names, for files of tables and data frames.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, TypeAlias

from even_sieve.core.cells import Cell
from even_sieve.core.errors import CallError
from even_sieve.core.tally import Tally
from even_sieve.documents.handout import Handout

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure


@dataclass(frozen=True)
class Grid:
    """A header and rows of texts; `numeric` tells which columns stand to the right.

    The last `totals` rows repeat the ones above them, and so do the `strong` ones among them.
    `sources` are the tallies behind the texts, where there are any; `matching` the rows that
    match, where others stand among them. `crops` says that columns may be left out for want
    of width, `of_rows` that these are rows of a table, with their numbers first.
    """

    header: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    numeric: tuple[bool, ...]
    totals: int = 0
    strong: frozenset[int] = frozenset()
    sources: Sequence[tuple[Tally | None, ...]] = ()
    matching: frozenset[int] | None = None
    title: str = ""
    crops: bool = False
    of_rows: bool = False

    def is_strong(self, position: int) -> bool:
        """Tell whether a row repeats others."""
        return position >= len(self.rows) - self.totals or position in self.strong


@dataclass(frozen=True)
class Accounts:
    """Accounts in words, each with the names of the figures that have it (none: of all).

    `whose` says more of what they are of: `of the total`.
    """

    items: tuple[tuple[str, str], ...]
    whose: str = ""


@dataclass(frozen=True)
class Caption:
    """What a grid shows, in a line under it."""

    text: str


@dataclass(frozen=True)
class Notes:
    """What is to be known of the figures."""

    texts: tuple[str, ...]


@dataclass(frozen=True)
class Facts:
    """Plain statements, each with a `label` before it if there is one."""

    texts: tuple[str, ...]
    label: str = ""


@dataclass(frozen=True)
class Findings:
    """A summary, and what to look at first."""

    summary: str
    texts: tuple[str, ...]


@dataclass(frozen=True)
class Backing:
    """A figure, and lines that explain it, indented where they are inside of others."""

    heading: str
    lines: tuple[str, ...]


Part: TypeAlias = Grid | Accounts | Caption | Notes | Facts | Findings | Backing


@dataclass(frozen=True)
class Records:
    """Exact values in columns under names, the first `keys` of which say what a row is of.

    `marks` says of each row what it is besides: `subtotal`, `total`, `hidden`, or nothing;
    `spelt` that text has these words in a column of their own; `repeating` are the columns that
    repeat others.
    """

    columns: Mapping[str, Sequence[Cell]]
    marks: Sequence[str | None] = ()
    keys: int = 0
    spelt: bool = False
    repeating: frozenset[str] = frozenset()


class Document:
    """How one answer is laid out. There is a class for each kind of answer."""

    def __init__(self, answer: Any) -> None:
        self.answer = answer

    def parts(self) -> Sequence[Part]:
        """Return what a person sees, from top to bottom."""
        raise NotImplementedError

    def plain(self) -> Any:
        """Return what a program reads: plain objects that JSON can hold."""
        raise NotImplementedError

    def records(self) -> Records:
        """Return the exact values, a row for each thing that the answer has."""
        raise NotImplementedError

    def sheet(self) -> Records:
        """Return the exact values as a sheet of a report has them."""
        return self.records()

    def handout(self) -> Handout:
        """Return what a sheet of a workbook has of it for its reader."""
        records = self.sheet()
        return Handout(records.columns, {}, records.marks, notes=self.notes())

    def notes(self) -> tuple[str, ...]:
        """Return what is to be known of the figures."""
        notes = (part.texts for part in self.parts() if isinstance(part, Notes))
        return tuple(text for texts in notes for text in texts)

    def lists(self) -> Mapping[str, Sequence[object]]:
        """Return the columns that a data frame has as Python lists instead of words."""
        return {}

    def plot(self, measure: str | None = None, axes: "Axes | None" = None) -> "Axes":
        """Draw the answer on these axes, or on new ones. Raises `CallError` where it cannot be."""
        raise CallError(f"there is no chart of {type(self.answer).__name__.lower()}")

    def chart(self, measure: str | None = None) -> "Figure":
        """Return the answer as a picture. Raises `CallError` where there is none."""
        figure: Figure = self.plot(measure).figure  # type: ignore[assignment]
        return figure


@dataclass(frozen=True)
class Section:
    """One part of a report: a document under a heading.

    `kind` and `title` are as the report says, `where` the section's criteria as text.
    `drilldown` is what each cell of the grid opens to on a page, `chart` its picture as SVG, and
    `charted` whether it is to have one.
    """

    heading: str
    kind: str
    title: str
    where: str
    document: Document
    drilldown: Sequence[Sequence[Sequence[str] | None]] = ()
    chart: str = ""
    charted: bool = False


@dataclass(frozen=True)
class ReportDocument:
    """A report: its sections, and what it was made from as names and texts.

    `receipt` is what its JSON says of how it came about.
    """

    title: str
    where: str
    sections: tuple[Section, ...]
    made_from: tuple[tuple[str, str], ...] = field(default=())
    receipt: Mapping[str, object] | None = None


def free_name(name: str, taken: Mapping[str, object]) -> str:
    """Return a name that no column has, with a stroke after it if need be."""
    while name.casefold() in map(str.casefold, taken):
        name += "'"
    return name
