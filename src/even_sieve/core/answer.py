"""What every answer has in common: it prints itself, writes itself and becomes a data frame.

Answers are plain frozen records: they hold no table and nothing of what worked them out, so
they compare, pickle and travel. How they look is no matter of the core: the package names a
`Presenter`, which is loaded when the first answer is shown.
"""

from collections.abc import Callable
from typing import TYPE_CHECKING, Any, ClassVar, Protocol

if TYPE_CHECKING:
    from pathlib import Path

    import pandas as pd
    from matplotlib.axes import Axes


#: So many lines of an answer are shown where nobody asked for all: in a notebook, at a prompt.
MOST_LINES = 60


class Presenter(Protocol):
    """What shows answers."""

    def show(self, answer: "Answer", form: str, most: int | None = None) -> str:
        """Return the answer in a format by its name: `table`, `json`, `html`, …

        Of many lines or rows so many at the most, and how many there are.
        """

    def frame(self, answer: "Answer", *, totals: bool) -> "pd.DataFrame":
        """Return the answer as a pandas data frame."""

    def write(self, answer: "Answer", path: "str | Path") -> None:
        """Write the answer to a file; the ending of its name chooses how."""

    def plot(self, answer: "Answer", measure: str | None, axes: "Axes | None") -> "Axes":
        """Draw the answer on these axes of Matplotlib, or on new ones, and return these."""

    def write_chart(self, answer: "Answer", path: "str | Path", measure: str | None) -> None:
        """Write the answer as a picture."""


class Answer:
    """The base of all answers."""

    __slots__ = ()
    presenter: ClassVar[Callable[[], Any]]

    def __str__(self) -> str:
        return self._shown("table")

    def __repr__(self) -> str:
        return self._shown("table", MOST_LINES)

    def _repr_html_(self) -> str:
        return self._shown("html", MOST_LINES)

    def _shown(self, form: str, most: int | None = None) -> str:
        shown: str = type(self).presenter().show(self, form, most)
        return shown

    def to_json(self) -> str:
        """Return one JSON object, as the command line prints it with `--format json`.

        >>> from even_sieve import table_from
        >>> '"value": 2' in table_from({"dues": [120, 80]}).tally("rows").to_json()
        True
        """
        return self._shown("json")

    def to_frame(self, *, totals: bool = True) -> "pd.DataFrame":
        """Return a pandas data frame: a row for each measure, line, step, row or column.

        What the rows are of is the index; with `across`, its values stand side by side. Rows that
        repeat others have a word in the column `mark`: without `totals` they are left out.
        Numbers, dates and texts have types of their own.

        >>> from even_sieve import table_from
        >>> found = table_from({"dues": [120, 80]}).tally("sum of dues").to_frame()
        >>> int(found.loc["sum of dues", "value"])
        200
        """
        frame: pd.DataFrame = type(self).presenter().frame(self, totals=totals)
        return frame

    def write(self, path: "str | Path") -> None:
        """Write a table of the answer to .csv, .jsonl, .parquet, .arrow, .ods or .xlsx.

        Rows that repeat others (totals, the figure of a bridge) are marked. Raises `CallError`
        for another ending, `SourceError` for a file that cannot be written.
        """
        type(self).presenter().write(self, path)

    def plot(self, measure: str | None = None, axes: "Axes | None" = None) -> "Axes":
        """Draw a bridge, or one measure of a breakdown, on Matplotlib's axes; return these.

        New axes are made unless some are given; `plot().figure` is the picture. The measure is
        the first unless named. Raises `CallError` for an answer without a chart.

        >>> from even_sieve import table_from
        >>> calls = table_from({"zone": ["Outer", "Inner"], "dues": [120, 80]})
        >>> calls.tally("sum of dues", by="zone").plot().get_title(loc="left")
        'sum of dues, by zone'
        """
        drawn: Axes = type(self).presenter().plot(self, measure, axes)
        return drawn

    def write_chart(self, path: "str | Path", measure: str | None = None) -> None:
        """Write a chart, .png or .svg: of a bridge its steps, of a breakdown one measure.

        The measure is the first unless named. Raises `CallError` for an answer without a chart.
        """
        type(self).presenter().write_chart(self, path, measure)
