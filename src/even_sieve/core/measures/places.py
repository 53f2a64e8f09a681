"""Measures of single cells: the only one, the first, the last."""

import numpy as np

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.measures.cell_filter import Bucket
from even_sieve.core.measures.first_rows import MOST_ROWS
from even_sieve.core.measures.many import where
from even_sieve.core.measures.measure import Figure, Gathered, Measure, Need
from even_sieve.core.measures.states import Places
from even_sieve.core.notices import counted
from even_sieve.core.table.lanes import Array

#: What stands in the place of the one value where there is none, or several.
NONE_FOUND, SEVERAL_FOUND = "no value", "several values"


class First(Measure):
    """The first cell in the order of the rows that holds anything."""

    kind = "first"

    def needs(self) -> tuple[Need, ...]:
        """Gather the first and the last rows."""
        return (Need("places", lambda groups, _: Places(groups)),)

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the cell with its row."""
        kept = self._kept_error(gathered, group)
        if kept is not None:
            return kept
        row = self._row(gathered.state("places", Places), group)
        if row < 0:
            return Figure(None, "no cell that holds anything was used")
        return Figure(self._column().cell(row), None, (row,))

    def _row(self, places: Places, group: int) -> int:
        return next(iter(places.first.of(group)), -1)

    def _at_once(self, gathered: Gathered, groups: Array) -> list[Cell]:
        rows = self._rows(gathered.state("places", Places), groups)
        return where(rows >= 0, lambda own: [*self._column().cells(rows[own].tolist())])

    def _rows_at_once(self, gathered: Gathered, groups: Array) -> list[tuple[int, ...] | None]:
        """Return the row of the cell of many groups."""
        rows = self._rows(gathered.state("places", Places), groups).tolist()
        return [None if row < 0 else (row,) for row in rows]

    def _rows(self, places: Places, groups: Array) -> Array:
        """Return the row of many groups, -1 where there is none."""
        return places.first.firsts(groups)


class Last(First):
    """The last cell in the order of the rows that holds anything."""

    kind = "last"

    def _row(self, places: Places, group: int) -> int:
        return int(places.last[group])

    def _rows(self, places: Places, groups: Array) -> Array:
        found: Array = places.last[groups]
        return found


class Only(First):
    """The one cell that holds anything; an error if there is none, or if there are several."""

    kind = "only"

    def _at_once(self, gathered: Gathered, groups: Array) -> list[Cell]:
        used = gathered.counts.buckets[groups, Bucket.USED]
        found = super()._at_once(gathered, groups)
        for place in np.flatnonzero(used != 1).tolist():
            found[place] = self.finish(gathered, int(groups[place])).value
        return found

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the cell with its row, or an error with the rows that there are."""
        kept, used = self._kept_error(gathered, group), gathered.used(group)
        if kept is not None:
            return kept
        rows = gathered.state("places", Places).first.of(group)
        if used == 1:
            return Figure(self._column().cell(rows[0]), None, rows)
        if not used:
            matched = int(gathered.counts.buckets[group].sum())
            reason = "no row matched"
            if matched:
                holds = "holds" if matched == 1 else "hold"
                reason = f"{counted(matched, 'row')} matched, and none {holds} a value"
            return Figure(CellError(NONE_FOUND, reason), reason)
        column = self._column()
        same = {str(column.cell(row)) for row in rows}
        alike = f", all {next(iter(same))}" if len(same) == 1 and used <= MOST_ROWS else ""
        reason = f"{counted(used, 'value')} where one was expected{alike}"
        return Figure(CellError(SEVERAL_FOUND, reason), reason, rows)
