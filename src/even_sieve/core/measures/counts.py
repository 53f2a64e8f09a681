"""Measures that count rows, cells and values."""

from even_sieve.core.measures.cell_filter import Bucket, CellFilter
from even_sieve.core.measures.frequent import Different, start_different
from even_sieve.core.measures.measure import Figure, Gathered, Measure, Need
from even_sieve.core.measures.request import Keep


class Rows(Measure):
    """The matched rows."""

    kind = "rows"

    def cell_filter(self) -> None:
        """No cells are looked at."""

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the count."""
        return Figure(gathered.bucket(group, Bucket.USED))


class Filled(Measure):
    """The cells that hold anything."""

    kind = "filled"

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the count."""
        return Figure(gathered.bucket(group, Bucket.USED))


class Blanks(Measure):
    """The blank cells: the figure is the account's bucket `blank`."""

    kind = "blanks"

    def cell_filter(self) -> CellFilter:
        """Blanks are what is counted and errors spoil no count: `keep` changes nothing."""
        return CellFilter(self._column(), None)

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the count."""
        return Figure(gathered.bucket(group, Bucket.BLANK))


class Errors(Blanks):
    """The error cells: the figure is the account's bucket `error`."""

    kind = "errors"

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the count."""
        return Figure(gathered.bucket(group, Bucket.ERROR))


class DistinctValues(Measure):
    """The different values among the cells that hold anything, equal as in matching."""

    kind = "distinct"

    def cell_filter(self) -> CellFilter:
        """A kept blank is one more value; a kept error spoils the figure."""
        keep = self.request.keep
        return CellFilter(self._column(), None, self._counts_blank(), Keep.ERRORS in keep)

    def _counts_blank(self) -> bool:
        return Keep.BLANKS in self.request.keep

    def needs(self) -> tuple[Need, ...]:
        """Gather the values seen."""
        used = self.cell_filter()
        return (Need("different", lambda groups, _: start_different(used, groups)),)

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the count."""
        kept = self._kept_error(gathered, group)
        if kept is not None:
            return kept
        return Figure(int(gathered.state("different", Different).counts()[group]))


class DistinctOrBlank(DistinctValues):
    """The different values, a blank among them as one more."""

    kind = "distinct or blank"

    def _counts_blank(self) -> bool:
        return True
