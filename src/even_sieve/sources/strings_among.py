"""Which of many strings are among others, as they stand or small letters of ASCII like capitals."""

from collections.abc import Sequence
from functools import partial
from typing import Any

import numpy as np
import pyarrow.compute as pc

from even_sieve.core.table.lanes import Array
from even_sieve.sources import at_hand
from even_sieve.sources.arrow_buffers import Bytes, mask_of, strings_of, take
from even_sieve.sources.letters_held import Case
from even_sieve.sources.side_by_side import by_stretches, side_by_side


def among(strings: Any, wanted: Sequence[str]) -> tuple[Array, set[str]]:
    """Return which strings of an Arrow array are among others, and which of these there are.

    Raises `UnicodeEncodeError` for a text that no file can hold.

    >>> found, there = among(strings_of(["mole", "pier"]), ["quay", "pier"])
    >>> found.tolist(), there
    ([False, True], {'pier'})
    """
    sought = strings_of(wanted)
    if at_hand.compiled is not None:
        return _matched(at_hand.compiled.match, strings, wanted, sought, Case.SMALL)
    sought = sought.cast(strings.type)
    found = mask_of(by_stretches(partial(pc.is_in, value_set=sought), strings))
    there = take(strings, np.flatnonzero(found)).unique()
    return found, set(there.to_pylist())


def small_among(strings: Any, wanted: Sequence[str], case: Case) -> tuple[Array, set[str]] | None:
    """Return the same of strings made small; None where no compiled pass is at hand.

    `case` is that of their letters: of strings beyond ASCII those that are so are not looked for,
    and are 2 where others are 1 or 0. What is wanted has no capital letters.
    """
    if at_hand.compiled is None:
        return None
    how = max(case, Case.CAPITAL)
    return _matched(at_hand.compiled.match, strings, wanted, strings_of(wanted), how)


def _matched(
    match: Any, strings: Any, wanted: Sequence[str], sought: Any, how: int
) -> tuple[Array, set[str]]:
    text, asked = Bytes.of(strings), Bytes.of(sought)
    found = np.empty(len(strings), dtype=np.uint8)

    def read(rows: slice) -> Array:
        there = np.empty(len(wanted), dtype=np.uint8)
        slots = np.empty(2 << len(wanted).bit_length(), dtype=np.int32)
        ends = text.offsets[rows.start : rows.stop + 1]
        match(text.data, ends, asked.data, asked.offsets, how, slots, found[rows], there)
        return there

    there = np.any(side_by_side(read, len(strings)), axis=0)
    told = found.view(np.bool_) if how < Case.BEYOND else found
    return told, {wanted[place] for place in np.flatnonzero(there).tolist()}
