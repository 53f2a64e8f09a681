"""Texts with letters for which several stand when folded, each of which stays one letter here.

A `?` stands for one letter as it is written: of `Straße` folded, `strasse`, it would not be told.
"""

from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np
import pyarrow.compute as pc

from even_sieve.core.cells import fold
from even_sieve.core.criteria.operands.wildcards import FOLDED_LONGER
from even_sieve.core.table.lanes import Array
from even_sieve.sources.arrow_buffers import fitting, strings_of, take
from even_sieve.sources.folding import all_folded
from even_sieve.sources.letters_held import letters_of
from even_sieve.sources.side_by_side import by_stretches

#: Letters that no text has stand for those: of the private use area.
_STANDS_IN, _MOST = 0xE000, 64
_PRIVATE_OR_MARK = r"[\p{M}\x{e000}-\x{f8ff}]"


@dataclass(frozen=True, eq=False)
class LettersApart:
    """Such texts by their `places` among all, as `folded` with a letter that stands in for each.

    `others` are places of texts that have to be read one by one; `stands_for` says what each of
    the letters is when folded.
    """

    places: Array
    folded: Any
    stands_for: dict[str, str]
    others: Array

    @classmethod
    def of(cls, strings: Any) -> "LettersApart":
        """Return those of an Arrow array of strings.

        >>> found = LettersApart.of(strings_of(["Pier", "Große Mole"]))
        >>> found.places.tolist(), found.folded.to_pylist(), found.stands_for
        ([1], ['gro\\ue000e mole'], {'\\ue000': 'ss'})
        """
        places = np.flatnonzero(fitting(strings, FOLDED_LONGER))
        some = take(strings, places)
        odd = fitting(some, _PRIVATE_OR_MARK)
        others, places = places[odd], places[~odd]
        some = take(some, np.flatnonzero(~odd))
        letters = [each for each in map(chr, letters_of(some).tolist()) if len(fold(each)) > 1]
        stands_for = {chr(_STANDS_IN + at): fold(each) for at, each in enumerate(letters)}
        folded = None
        if len(letters) <= _MOST:
            for letter, other in zip(letters, stands_for, strict=True):
                put = partial(pc.replace_substring, pattern=letter, replacement=other)
                some = by_stretches(put, some)
            folded = all_folded(some)
        if folded is None:
            return cls(places[:0], strings_of([]), {}, np.union1d(places, others))
        return cls(places, folded, stands_for, others)

    def search(self, pattern: str) -> Array:
        """Return which of them fit a pattern (of RE2), as places among themselves, ascending."""
        found: Array = np.flatnonzero(fitting(self.folded, pattern))
        return found
