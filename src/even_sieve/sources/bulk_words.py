"""Which strings are texts, told by their bytes before any is read as a number or a date."""

from typing import Any

import numpy as np
import pyarrow.compute as pc

from even_sieve.core.cells import fold
from even_sieve.core.table.lanes import Array
from even_sieve.sources.arrow_buffers import (
    Bytes,
    made_of,
    mask_of,
    spread_over,
    stored,
    take,
)
from even_sieve.sources.byte_shapes import LETTERS, LONG_CODE, NUMERIC
from even_sieve.sources.set_aside import are_words
from even_sieve.sources.shaped import Shaped

#: What may be a number or a date, among strings that begin like one; all others are texts. Words
#: of three or eight letters may say that it is infinite.
_MAY_BE_ONE = (
    r"(?i)^[+-]*(?:\d*\.?\d*(?:e[+-]?\d+)?|[a-z]{3}|[a-z]{8})$"
    r"|^\d{4}-\d\d-\d\d(?:(?:T\d\d|[T ]\d\d:\d\d(?::\d\d(?:[.,]\d+)?)?)\s?(?:Z|[+-]\d\d[:\d]*)?)?$"
    r"|^\d{8}T\d"
)
#: What such a one is made of, without a sign before it.
_UNSIGNED = f"{NUMERIC}{LETTERS}TtZz:, \t\n\f\r"
#: Words that are no text: yes/no, and numbers beyond any.
_NO_TEXT = r"(?i)^(true|false|inf|infinity)$"

_BYTES = np.arange(256)
#: The last bytes of a number, or of what is looked at as one; what goes on after a year, a day.
_ENDS_ONE = np.isin(_BYTES, list(b"0123456789.+-fFyY"))
_GOES_ON, _DAY, _MOMENT = np.isin(_BYTES, list(b"-tT")), 4, 8
_SIGN, _IS_DIGIT = np.isin(_BYTES, list(b"+-")), np.isin(_BYTES, list(b"0123456789"))
#: So many strings are looked at for whether most are texts that begin with a digit.
_SHOWN = 64
#: What an error goes on with: some letters beyond ASCII have capitals in it.
_GOES_ON_ERROR = np.isin(_BYTES, list(b"dDgGnNrRvV")) | (_BYTES >= 0x80)
#: In bytes: such a letter has two.
_LONGEST_ERROR = 2 * len("#GETTING_DATA")
_MAY_BE_NO_TEXT = np.isin(_BYTES, list(b"tTfFiI"))


def certain_words(strings: Any) -> Array:
    """Return the places of strings that begin with a digit and are certain to be texts.

    No places where few are, by some of them: to look at all would take longer than it saves.
    """
    shown = spread_over(strings, _SHOWN)
    if not len(shown) or 2 * len(_numbered_words(shown)) < len(shown):
        return np.empty(0, dtype=np.intp)
    return _numbered_words(strings)


def _numbered_words(strings: Any) -> Array:
    first, _ = Bytes.of(strings).ends()
    return np.flatnonzero(_IS_DIGIT[first] & are_words(strings))


def are_codes(some: Shaped) -> Array:
    """Tell of strings that begin as numbers do, and that were not read, which are texts, bool."""
    text = Bytes.of(some.strings)
    words = np.ones(len(some.strings), dtype=bool)
    if not len(words):
        return words
    digits = mask_of(pc.ascii_is_decimal(some.strings))
    led = text.data[text.offsets[:-1]] == ord("0")
    words[digits] = ((text.lengths >= LONG_CODE) | (led & (text.lengths > 1)))[digits]
    others = np.flatnonzero(~digits)
    starts, stops = text.offsets[others], text.offsets[others + 1]
    may_be = _ENDS_ONE[text.data[stops - 1]]
    signed = _SIGN[text.data[starts]]  # a word may follow
    if some.shapes is None:
        may_be &= signed | made_of(some.strings, NUMERIC + LETTERS)[others]
    for place in (_DAY, _MOMENT):  # of dates the beginning is enough
        may_be |= _GOES_ON[text.at(starts + place)]
    for rows, letters in ((others[may_be & signed], ""), (others[may_be & ~signed], _UNSIGNED)):
        words[some.matching(rows, _MAY_BE_ONE, letters)] = False
    return words


def no_errors(strings: Any, rows: Array) -> Array:
    """Return those of the rows, whose strings begin with `#`, that are texts and no errors.

    They are too long for one, or do not go on as one.
    """
    text = Bytes.of(strings)
    long = text.lengths[rows] > _LONGEST_ERROR
    found: Array = rows[long | ~_GOES_ON_ERROR[text.at(text.offsets[rows] + 1)]]
    return found


def drop_what_is_no_text(
    strings: Any, first: Array, words: Array, blank_as: tuple[str, ...]
) -> None:
    """Take out of the mask of words those that are yes/no, infinite, or stand for a blank."""
    may_be = np.flatnonzero(words & _MAY_BE_NO_TEXT[first])
    other = mask_of(pc.match_substring_regex(take(strings, may_be), _NO_TEXT))
    words[may_be[other]] = False
    if not blank_as:
        return
    rows = np.flatnonzero(words)
    coded = take(strings, rows).dictionary_encode()
    blanks = {fold(token.strip()) for token in blank_as}
    is_blank = np.array([fold(each) in blanks for each in coded.dictionary.to_pylist()], bool)
    words[rows[is_blank[stored(coded.indices, np.int32)]]] = False
