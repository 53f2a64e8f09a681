"""A funnel laid out: a grid an alternative, a row a condition, and what it means in words."""

from collections.abc import Sequence
from typing import Any

from even_sieve.core.cells import Cell
from even_sieve.core.notices import counted
from even_sieve.core.tally import Funnel
from even_sieve.documents.document import Document, Facts, Grid, Part, Records


class FunnelDocument(Document):
    """What each condition holds for alone, and what is left after each in turn."""

    answer: Funnel

    def parts(self) -> Sequence[Part]:
        """Return a grid an alternative, and the criteria in words."""
        result = self.answer
        facts = [f"in words: {result.words}", f"{result.matching:,} of {result.rows:,} rows match"]
        if result.as_of is not None:
            facts.append(f"dates are as of {result.as_of}")
        emptied = [each.emptied_by for each in result.alternatives]
        facts += [f"nothing is left after '{step.condition}'" for step in emptied if step]
        return *self._grids(), Facts(tuple(facts))

    def _grids(self) -> list[Grid]:
        result, grids = self.answer, []
        for number, each in enumerate(result.alternatives, 1):
            title = ""
            if len(result.alternatives) > 1:
                title = (
                    f"alternative {number}: {counted(each.alone, 'row')}, "
                    f"{each.beyond:,} of them by no other alternative"
                )
            rows = [("rows in play", "", f"{result.in_play:,}")]
            rows += [(step.condition, f"{step.alone:,}", f"{step.left:,}") for step in each.steps]
            header = ("condition", "holds for", "left in turn")
            grids.append(Grid(header, tuple(rows), (False, True, True), title=title))
        return grids

    def plain(self) -> dict[str, Any]:
        """Return the funnel as it is, with the step that empties each alternative."""
        return self.answer.as_dict()

    def records(self) -> Records:
        """Return a row a condition."""
        steps = [(n, each) for n, a in enumerate(self.answer.alternatives, 1) for each in a.steps]
        columns: dict[str, Sequence[Cell]] = {
            "alternative": [number for number, _ in steps],
            "condition": [step.condition for _, step in steps],
            "holds_for": [step.alone for _, step in steps],
            "left": [step.left for _, step in steps],
        }
        return Records(columns)
