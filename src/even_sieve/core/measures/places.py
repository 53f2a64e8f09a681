"""Measures of single cells: the only one, the first, the last."""

from even_sieve.core.cells import CellError
from even_sieve.core.measures.holders import MOST_ROWS
from even_sieve.core.measures.measure import Figure, Gathered, Measure, Need
from even_sieve.core.measures.states import Places
from even_sieve.core.notices import counted

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
        return next(iter(places.rows(group)), -1)


class Last(First):
    """The last cell in the order of the rows that holds anything."""

    kind = "last"

    def _row(self, places: Places, group: int) -> int:
        return int(places.last[group])


class Only(First):
    """The one cell that holds anything; an error if there is none, or if there are several."""

    kind = "only"

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the cell with its row, or an error with the rows that there are."""
        kept, used = self._kept_error(gathered, group), gathered.used(group)
        if kept is not None:
            return kept
        rows = gathered.state("places", Places).rows(group)
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
