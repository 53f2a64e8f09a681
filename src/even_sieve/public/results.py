"""Results that know how to be shown: in a terminal, in a notebook, as JSON, as a data frame."""

from dataclasses import fields
from pathlib import Path
from typing import TYPE_CHECKING

from even_sieve.core import tally as core
from even_sieve.sinks.files import write_file
from even_sieve.sinks.results import breakdown_table, bridge_table, tallies_table
from even_sieve.views import formats

if TYPE_CHECKING:
    import pandas as pd


class Tallies(core.Tallies):
    """The answers to several measures, in the order asked.

    `result[0]` and `result["sum of dues"]` are tallies, each with `value`, `account`,
    `found_at`, `reason` and `notices`.
    """

    @classmethod
    def of(cls, found: core.Tallies) -> "Tallies":
        """Return the same tallies, able to be shown."""
        return cls(found.items, found.notices, found.where, found.as_of)

    def __str__(self) -> str:
        return formats.view("table", "show_tallies")(self)

    __repr__ = __str__

    def _repr_html_(self) -> str:
        from even_sieve.views import html

        return html.show_tallies(self)

    def to_json(self) -> str:
        """Return one JSON object, as `tally --format json` prints it."""
        return formats.view("json", "show_tallies")(self)

    def write(self, path: str | Path) -> None:
        """Write a row a measure, with its account, to .csv, .jsonl, .parquet, .ods or .xlsx."""
        write_file(tallies_table(self), path)

    def to_frame(self) -> "pd.DataFrame":
        """Return a pandas data frame: a row a measure, with its value and account."""
        from even_sieve.views import frame

        return frame.show_tallies(self)


class Funnel(core.Funnel):
    """What each condition holds for by itself, and what is left after each in turn."""

    @classmethod
    def of(cls, found: core.Funnel) -> "Funnel":
        """Return the same funnel, able to be shown."""
        return cls(**{each.name: getattr(found, each.name) for each in fields(found)})

    def __str__(self) -> str:
        return formats.view("table", "show_funnel")(self)

    __repr__ = __str__

    def _repr_html_(self) -> str:
        from even_sieve.views import html

        return html.show_funnel(self)

    def to_json(self) -> str:
        """Return one JSON object."""
        return formats.view("json", "show_funnel")(self)


class Bridge(core.Bridge):
    """The walk from the bare column total to a figure, one step a reason.

    Each step has a `reason`, a `label`, `rows`, `amount` (a fraction), and what is left
    after it: `rows_left`, `amount_left`.
    """

    @classmethod
    def of(cls, found: core.Bridge) -> "Bridge":
        """Return the same bridge, able to be shown."""
        return cls(found.tally, found.steps, found.notices, found.where)

    def __str__(self) -> str:
        return formats.view("table", "show_bridge")(self)

    __repr__ = __str__

    def _repr_html_(self) -> str:
        from even_sieve.views import html

        return html.show_bridge(self)

    def to_json(self) -> str:
        """Return one JSON object, as `bridge --format json` prints it."""
        return formats.view("json", "show_bridge")(self)

    def write(self, path: str | Path) -> None:
        """Write a row a step to any file of tables; the figure is marked as a subtotal."""
        write_file(bridge_table(self), path)

    def write_chart(self, path: str | Path) -> None:
        """Write the bridge as a chart, .png or .svg."""
        from even_sieve.sinks.charts import write_chart
        from even_sieve.views.chart import draw_bridge

        write_chart(draw_bridge(self), path)


class Breakdown(core.Breakdown):
    """Tallies by the groups of one or several axes: `lines`, `subtotals`, `rest`, `total`.

    `result["Outer"]` and `result["Outer", "2031-Q1"]` are the tallies of a line.
    """

    @classmethod
    def of(cls, found: core.Breakdown) -> "Breakdown":
        """Return the same breakdown, able to be shown."""
        return cls(**{each.name: getattr(found, each.name) for each in fields(found)})

    def __str__(self) -> str:
        return formats.view("table", "show_breakdown")(self)

    __repr__ = __str__

    def _repr_html_(self) -> str:
        from even_sieve.views import html

        return html.show_breakdown(self)

    def to_json(self) -> str:
        """Return one JSON object, as `tally --by … --format json` prints it."""
        return formats.view("json", "show_breakdown")(self)

    def write(self, path: str | Path) -> None:
        """Write a row a line, and the total marked as a subtotal, to any file of tables."""
        write_file(breakdown_table(self), path)

    def write_chart(self, path: str | Path, measure: str | None = None) -> None:
        """Write one measure as a chart, .png or .svg: bars, or a line over periods.

        The measure is the first unless named. Raises `CallError` for more than one axis.
        """
        from even_sieve.sinks.charts import write_chart
        from even_sieve.views.chart import draw_breakdown

        write_chart(draw_breakdown(self, measure), path)

    def to_frame(self) -> "pd.DataFrame":
        """Return a pandas data frame: a row a line, a column a measure, without the total."""
        from even_sieve.views import frame

        return frame.show_breakdown(self)
