"""The texts that one condition asks for, looked up together."""

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

import numpy as np

from even_sieve.core.criteria.blocks import Probe
from even_sieve.core.criteria.probes import Between, Listed, any_probe
from even_sieve.core.criteria.stored_range import codes_probe
from even_sieve.core.table.lanes import Array, TextLane
from even_sieve.core.table.ordered_texts import places_equal_to_each

if TYPE_CHECKING:
    from even_sieve.core.criteria.operands.pattern import Pattern

_FEW = 8


class AskedTexts:
    """Texts of a lane that are asked for: by their codes, or row by row of one that waits."""

    def __init__(self, lane: TextLane) -> None:
        self._lane = lane
        self._codes: Array | None = None
        self._rows: Array | None = None
        self._ranges: dict[str, tuple[int, int]] = {}
        self._there: dict[str, bool] = {}

    def look_up(self, folded: Sequence[str]) -> None:
        """Look up texts at once that will be asked for, all of them."""
        found = self._equal_in_rows(folded)
        if found is not None:
            self._there = found
        elif len(folded) > _FEW:
            places = places_equal_to_each(self._lane.folded, folded)
            self._ranges = dict(zip(folded, places, strict=True))

    def ask(self, folded: str) -> bool:
        """Ask for the texts equal to one; tell whether there are any."""
        known = self._there or self._equal_in_rows([folded]) or {}
        if folded in known:
            return known[folded]
        low, high = self._ranges.get(folded) or self._lane.range_of(folded)
        self._among_codes[low:high] = True
        return low < high

    def ask_pattern(self, pattern: "Pattern") -> bool:
        """Ask for the texts that match a pattern; tell whether there are any."""
        waiting = self._lane.of_rows
        found = None if waiting is None else pattern.places_in(waiting)
        if waiting is not None and found is not None:
            self._add_rows(waiting.rows(found))
            return bool(found.any())
        codes = pattern.codes_in(self._lane)
        self._among_codes[codes] = True
        return bool(codes.any())

    def _equal_in_rows(self, folded: Sequence[str]) -> dict[str, bool] | None:
        """Ask rows of a lane that waits; return which texts there are, None where it is asked."""
        waiting = self._lane.of_rows
        found = None if waiting is None else waiting.equal_to(folded)
        if waiting is None or found is None:
            return None
        self._add_rows(waiting.rows(found[0]))
        return {each: each in found[1] for each in folded}

    def _add_rows(self, rows: Array) -> None:
        self._rows = rows if self._rows is None else self._rows | rows

    @property
    def _among_codes(self) -> Array:
        if self._codes is None:
            self._codes = np.zeros(len(self._lane.spellings), dtype=bool)
        return self._codes

    def probes(self) -> Iterator[Probe]:
        """Yield the probes for all that was asked for."""
        if self._rows is not None and self._rows.any():
            yield Between(self._rows, np.True_, np.True_)
        if self._codes is not None and self._codes.any():
            yield _table_probe(self._lane, self._codes)


def _table_probe(lane: TextLane, wanted: Array) -> Probe:
    """Return the probe for the codes that are True in `wanted`: a few ranges, or a look-up."""
    edges = np.flatnonzero(np.diff(np.concatenate(([False], wanted, [False])).astype(np.int8)))
    runs = list(zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True))
    if len(runs) > _FEW // 2:
        return Listed(lane.codes, wanted)
    return any_probe(tuple(codes_probe(lane, low, high) for low, high in runs))
