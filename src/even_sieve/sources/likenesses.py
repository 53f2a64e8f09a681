"""Which of many strings may look like numbers, dates or times to a person.

Told in one compiled pass over their bytes, where it is at hand; else by the first byte of each.
"""

from functools import cache
from typing import Any

import numpy as np

from even_sieve.core.cells.likeness import Likeness
from even_sieve.core.cells.named_dates import NAMES
from even_sieve.core.cells.text import CURRENCIES
from even_sieve.core.table.arrays import spans
from even_sieve.core.table.lanes import Array
from even_sieve.sources import at_hand
from even_sieve.sources.arrow_buffers import Bytes
from even_sieve.sources.side_by_side import side_by_side

#: Digits are ten bytes from 0 on; those of other scripts begin with a byte that is not ASCII.
_ZERO, _TEN, _NOT_ASCII = np.uint8(ord("0")), np.uint8(10), 0x80
_IS_DIGIT = np.isin(np.arange(256), list(b"0123456789"))
_BEGINS_DATE = _IS_DIGIT | np.isin(
    np.arange(256), [ord(letter) for name in NAMES for letter in (name[0], name[0].upper())]
)
_NAMES = "".join(sorted(NAMES)).encode()
_LOOKED_AT = 1 << 16


@cache
def _pairs() -> Array:
    """Return which two bytes begin a currency, uint8, shape (65536,)."""
    found = np.zeros((256, 256), dtype=np.uint8)
    for each in CURRENCIES:
        found[tuple(each.encode()[:2])] = True
    return found.ravel()


def may_be_like(strings: Any, what: Likeness) -> Array:
    """Return the places of all strings, an Arrow array without nulls, that look like something.

    They ascend; there may be others among them.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> may_be_like(strings_of(["quay", "03/04/2031", "pier"]), Likeness.DATE).tolist()
    [1]
    """
    text = Bytes.of(strings)
    if at_hand.compiled is None:
        return _by_first_byte(text, what)
    found, liken = np.empty(len(strings), dtype=np.uint8), at_hand.compiled.liken

    def read(rows: slice) -> None:
        ends = text.offsets[rows.start : rows.stop + 1]
        liken(text.data, ends, int(what), _pairs(), _NAMES, found[rows])

    side_by_side(read, len(strings))
    return np.flatnonzero(found)


def _by_first_byte(text: Bytes, what: Likeness) -> Array:
    if what is Likeness.NUMBER:
        return np.arange(len(text.lengths) if _may_hold_digits(text) else 0)
    first, _ = text.ends()
    found: Array = np.flatnonzero((_BEGINS_DATE if what is Likeness.DATE else _IS_DIGIT)[first])
    return found


def _may_hold_digits(text: Bytes) -> bool:
    """Tell whether any of the strings has a digit, or a letter outside ASCII."""
    used = text.used
    for rows in spans(len(used), _LOOKED_AT):
        own = used[rows]
        if own.max() >= _NOT_ASCII or (own - _ZERO < _TEN).any():  # below 0 it wraps round
            return True
    return False
