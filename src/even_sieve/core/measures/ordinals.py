"""The stored values of a lane as whole numbers from 0 on, in the order of the values.

Order statistics and counts of equal values go by these alone, whatever the kind: decimals
and dates by their distance from the least one, texts by the place of their folded value,
doubles by their bits, of which the negative ones are turned round (IEEE 754 orders the
others as integers).
"""

from dataclasses import dataclass
from functools import cached_property
from typing import TypeAlias

import numpy as np

from even_sieve.core.table.lanes import Array, DateLane, FixedLane, FloatLane, TextLane, YesNoLane

OrderedLane: TypeAlias = FixedLane | FloatLane | DateLane | TextLane | YesNoLane

_MAGNITUDE = np.int64(2**63 - 1)
_WRAP = 2**64


@dataclass(frozen=True, eq=False)
class Ordinals:
    """Keys of a lane: equal values have equal keys, and the order is the same."""

    lane: OrderedLane

    @cached_property
    def _ends(self) -> tuple[int, int]:
        """The integers that stand for the least and the largest stored value."""
        lane = self.lane
        if isinstance(lane, FloatLane):
            low, high = _of_doubles(np.array(lane.ends, dtype=np.float64)).tolist()
            return low, high
        if isinstance(lane, TextLane):
            return 0, max(len(lane.group_starts) - 1, 0)
        if isinstance(lane, YesNoLane):
            return 0, 1
        return lane.ends

    @cached_property
    def _starts(self) -> Array:
        """The code of the first spelling of each text."""
        return np.asarray(lane.group_starts if isinstance(lane := self.lane, TextLane) else ())

    @property
    def span(self) -> int:
        """The largest key; the least is 0."""
        low, high = self._ends
        return high - low

    def keys(self, values: Array) -> Array:
        """Return the keys of stored values, uint64, shape (n,)."""
        lane = self.lane
        if isinstance(lane, FloatLane):
            whole = _of_doubles(values)
        elif isinstance(lane, TextLane) and len(lane.group_starts) < len(lane.spellings):
            found: Array = lane.groups[values].astype(np.uint64)
            return found
        elif isinstance(lane, TextLane | YesNoLane):
            return values.astype(np.uint64)
        else:
            whole = values.astype(np.int64, copy=False)
        keys: Array = whole.view(np.uint64) - np.uint64(self._ends[0] % _WRAP)
        return keys

    def stored(self, key: int) -> int | float:
        """Return the stored value of a key; of a text the code of its first spelling."""
        found: int | float = self.stored_of(np.array([key], dtype=np.uint64))[0].item()
        return found

    def stored_of(self, keys: Array) -> Array:
        """Return the stored values of many keys."""
        lane = self.lane
        whole: Array = (keys + np.uint64(self._ends[0] % _WRAP)).view(np.int64)
        if isinstance(lane, TextLane):
            return self._starts[whole]
        if isinstance(lane, FloatLane):
            found: Array = _turned(whole).view(np.float64)
            return found
        return whole


def _of_doubles(values: Array) -> Array:
    """Return integers in the order of the doubles, int64; the two zeros are one."""
    return _turned((values + 0.0).view(np.int64))


def _turned(bits: Array) -> Array:
    """Return the bits with those of negative numbers turned round; done twice, as they were."""
    turned: Array = bits ^ ((bits >> 63) & _MAGNITUDE)
    return turned
