"""Measures that count rows, cells and values."""

from typing import ClassVar

from even_sieve.core.cells import Cell
from even_sieve.core.measures.cell_filter import Bucket, CellFilter
from even_sieve.core.measures.frequent import Different, start_different
from even_sieve.core.measures.measure import Figure, Gathered, Measure, Need, counts_of
from even_sieve.core.measures.request import Keep
from even_sieve.core.table.lanes import Array


class _Bucket(Measure):
    """A bucket of the account."""

    bucket: ClassVar[int] = Bucket.USED
    says_alike = True

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the count."""
        return Figure(gathered.bucket(group, self.bucket))

    def values(self, gathered: Gathered, groups: Array) -> list[Cell]:
        """Return the counts of many groups."""
        return counts_of(gathered, groups, self.bucket)


class Rows(_Bucket):
    """The matched rows."""

    kind = "rows"

    def cell_filter(self) -> None:
        """No cells are looked at."""


class Filled(_Bucket):
    """The cells that hold anything."""

    kind = "filled"


class Blanks(_Bucket):
    """The blank cells: the figure is the account's bucket `blank`."""

    kind = "blanks"
    bucket = Bucket.BLANK

    def cell_filter(self) -> CellFilter:
        """Blanks are what is counted and errors spoil no count: `keep` changes nothing."""
        return CellFilter(self._column(), None)


class Errors(Blanks):
    """The error cells: the figure is the account's bucket `error`."""

    kind = "errors"
    bucket = Bucket.ERROR


class DistinctValues(Measure):
    """The different values among the cells that hold anything, equal as in matching."""

    kind = "distinct"
    says_alike = True

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
        return Figure(gathered.state("different", Different).count(group))

    def _at_once(self, gathered: Gathered, groups: Array) -> list[Cell]:
        return gathered.state("different", Different).counts(groups)


class DistinctOrBlank(DistinctValues):
    """The different values, a blank among them as one more."""

    kind = "distinct or blank"

    def _counts_blank(self) -> bool:
        return True
