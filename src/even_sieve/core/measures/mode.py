"""The most frequent value of a column."""

from even_sieve.core.cells import Cell
from even_sieve.core.measures.census import start_census
from even_sieve.core.measures.frequent import Frequent, ModeState
from even_sieve.core.measures.many import where
from even_sieve.core.measures.measure import Figure, Gathered, Need
from even_sieve.core.measures.order import Smallest
from even_sieve.core.notices import Code, Notice
from even_sieve.core.table.keys import cells_of
from even_sieve.core.table.lanes import Array, TextLane


class Mode(Smallest):
    """The most frequent value, the smallest where several tie; none where none occurs twice."""

    kind = "mode"
    takes_yes_no = True
    has_order = False

    def needs(self) -> tuple[Need, ...]:
        """Gather how often each value occurs, and the rows of the most frequent one."""
        used = self.cell_filter()
        return (Need("mode", lambda groups, _: ModeState(start_census(used, groups))),)

    def _at_once(self, gathered: Gathered, groups: Array) -> list[Cell]:
        state = gathered.state("mode", Frequent)

        def cells(own: Array) -> list[Cell]:
            if self.cells is None or self.cells.ordinals is None or not len(own):
                return []
            lane, found = self._lane(), groups[own]
            if isinstance(lane, TextLane):
                return [*self._column().cells(state.first.firsts(found).tolist())]
            return cells_of(lane, self.cells.ordinals.stored_of(state.standing.key[found]))

        return where(state.standing.top[groups] > 1, cells)

    def _rows_at_once(self, gathered: Gathered, groups: Array) -> list[tuple[int, ...] | None]:
        """Return the rows that hold the most frequent value of many groups."""
        state = gathered.state("mode", Frequent)
        top, sharing = state.standing.top[groups], state.standing.sharing[groups]
        found = self._listed(state.first.of_many(groups), top)
        pairs = zip(found, (sharing > 1).tolist(), strict=True)
        return [None if ties else own for own, ties in pairs]

    def finish(self, gathered: Gathered, group: int) -> Figure:
        """Return the value with the rows that hold it."""
        kept, used = self._kept_error(gathered, group), gathered.used(group)
        if kept is not None or not used:
            return kept or self._nothing(gathered, self._kind)
        state = gathered.state("mode", Frequent)
        top, sharing = int(state.standing.top[group]), int(state.standing.sharing[group])
        if top < 2:
            return Figure(None, "no value occurs twice", (), self._like(gathered))
        rows = state.rows(group, 0)
        notices = self._like(gathered) + self._many(top)
        if sharing > 1:
            text = (
                f"{self.request.words}: {sharing:,} values occur {top:,} times each; this is "
                "the smallest of them"
            )
            notices += (Notice(Code.MODE_TIES, text, {"values": sharing, "times": top}),)
        if self.cells is None or self.cells.ordinals is None:
            raise RuntimeError("mode needs values")
        stored = self.cells.ordinals.stored(int(state.standing.key[group]))
        return Figure(self._cell(stored, rows), None, rows, notices)
