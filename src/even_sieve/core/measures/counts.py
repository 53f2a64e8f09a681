"""Measures that count rows, cells and values."""

from even_sieve.core.measures.cells import Bucket, Wanted
from even_sieve.core.measures.measure import Figure, Gathered, Measure, StateFactory
from even_sieve.core.measures.states import Distinct


class Rows(Measure):
    """The matched rows."""

    kind = "rows"

    def wanted(self) -> None:
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

    def wanted(self) -> Wanted:
        """Blanks are what is counted and errors spoil no count: `keep` changes nothing."""
        return Wanted(self._column(), None)

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

    def wanted(self) -> Wanted:
        """A kept blank is one more value; a kept error spoils the figure."""
        return self._wanted(None)

    def state(self) -> tuple[str, StateFactory]:
        """Gather the values seen."""
        wanted = self.wanted()
        return "distinct", lambda groups: Distinct(groups, wanted)

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the count."""
        kept = self._kept_error(gathered, group)
        if kept is not None:
            return kept
        if not isinstance(gathered.state, Distinct):
            raise TypeError("distinct needs the values seen")
        return Figure(int(gathered.state.counts()[group]))
