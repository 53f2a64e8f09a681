"""Strings set aside before others are told apart: words, and what stands for a blank."""

import re
import string
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.cells import fold
from even_sieve.core.table.lanes import Array
from even_sieve.sources.arrow_buffers import (
    Bytes,
    array_of,
    fitting,
    is_ascii,
    made_of,
    mask_of,
    scalar_of,
    stored,
    take,
)
from even_sieve.sources.side_by_side import side_by_side

#: So many bytes a letter may have before it is folded, with its marks apart.
_BYTES_A_LETTER = 8
#: What no way of writing makes a number or a date of another form: words, errors, what has no
#: digit, or letters that no number and no date has, ISO dates. Letters of a half of the day are
#: among these.
ASIDE = (
    r"(?s)^(?:[\p{L}#].*|.*[a-dfgi-su-yA-DF-SU-Y\p{Lo}].*|[^0-9]*"
    r"|\d{4}-\d\d-\d\d(?:[T ]\d\d:\d\d(?::\d\d)?)?)$"
)
_S = r"\s\x0b\x1c-\x1f\x{85}\p{Z}"
#: What alone a way of writing may make a number or a date of another form, and more.
MAY_COUNT = (
    rf"^(?:[+\-({_S}\p{{Sc}}]*[0-9.,'’{_S}]*(?:[eE][+-]?[0-9]*)?[{_S}\p{{Sc}})%]*"
    rf"|(?:\d{{1,4}}[./-]\d{{1,2}}[./-]\d|\d{{8}}[Tt])[0-9A-Za-z.,:+\-{_S}]{{0,40}})$"
)
#: The first two bytes of letters outside ASCII that begin with one of ASCII when folded.
_FOLD_TO_ASCII = (0xC39F, 0xC4B0, 0xC5BF, 0xCDBE, 0xE1BA, 0xE1BF, 0xE284, 0xEFAC)
_BYTES = np.arange(256)
#: The first bytes of words and errors, those of digits, and the last ones of halves of a day.
_BEGINS_WORD = np.isin(_BYTES, list(b"#" + string.ascii_letters.encode()))
_IS_DIGIT, _ENDS_HALF = np.isin(_BYTES, list(b"0123456789")), np.isin(_BYTES, list(b"mM."))
#: What tells that a string has a digit, and a letter that no number and no date has.
_DIGIT, _LETTER = 1, 2
_MARKS = _IS_DIGIT.astype(np.uint8) * _DIGIT
_MARKS[list(b"abcdfgijklmnopqrsuvwxyABCDFGIJKLMNOPQRSUVWXY")] = _LETTER
_NO_LETTERS = "".join(map(chr, np.flatnonzero(_MARKS[1:128] != _LETTER) + 1))


def are_words(strings: Any) -> Array:
    """Tell which strings, none of them empty, are certain to be no numbers and no dates, bool.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> are_words(strings_of(["Quay 7", "12a", "€", "7", "1/2/2031 2:30 PM", "٣"])).tolist()
    [True, True, True, False, False, True]
    """
    return np.concatenate(side_by_side(lambda rows: _are_words(strings[rows]), len(strings)))


def _are_words(strings: Any) -> Array:
    first, last = Bytes.of(strings).ends()
    found: Array = _BEGINS_WORD[first]
    begins, made = _IS_DIGIT[first], made_of(strings, _NO_LETTERS)
    plain = (begins | _IS_DIGIT[last]) & made
    if is_ascii(strings):  # what is not made of these has such a letter
        lettered = begins & ~made
        found |= lettered & ~_ENDS_HALF[last]
        plain |= lettered
    rows = np.flatnonzero(~found & ~plain)
    if len(rows):
        marks = Bytes.of(take(strings, rows)).marks(_MARKS)
        half = _IS_DIGIT[first[rows]] & _ENDS_HALF[last[rows]]
        found[rows] = (marks & _DIGIT == 0) | ((marks & _LETTER != 0) & ~half)
    return found


def without_blanks(strings: Any, blank_as: tuple[str, ...]) -> Any:
    """Return the strings, trimmed ones, with empty ones for blanks.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> without_blanks(strings_of(["N/A", "–", "12"]), ("n/a", "–")).to_pylist()
    ['', '', '12']
    """
    blanks = {fold(token.strip()) for token in blank_as} - {""}
    if not blanks:
        return strings
    found = np.zeros(len(strings), dtype=bool)
    plain = [each for each in blanks if each.isascii()]
    places = np.flatnonzero(np.isin(Bytes.of(strings).lengths, list(map(len, plain))))
    some = take(strings, places)
    fits = fitting(some, "(?i)^(?:" + "|".join(map(re.escape, plain)) + ")$")
    # A pattern brings other letters together than folding does.
    found[places] = fits & mask_of(pc.string_is_ascii(some))
    if not is_ascii(strings):
        found[_folded_among(strings, blanks)] = True
    if not found.any():
        return strings
    return pc.if_else(array_of(found, pa.bool_()), scalar_of("", strings.type), strings)


def _folded_among(strings: Any, blanks: set[str]) -> Array:
    """Return the places of strings with letters outside ASCII that are one of these when folded."""
    most = scalar_of(_BYTES_A_LETTER * max(map(len, blanks)))
    odd = pc.and_(
        pc.less_equal(pc.binary_length(strings), most), pc.invert(pc.string_is_ascii(strings))
    )
    places = np.flatnonzero(mask_of(odd))
    if not any(map(str.isdigit, "".join(blanks))):
        places = places[~fitting(take(strings, places), "[0-9]")]
    if all(each[0].isascii() for each in blanks):
        places = places[_may_begin(take(strings, places), {each[0] for each in blanks})]
    coded = take(strings, places).dictionary_encode()
    among = np.array([fold(each) in blanks for each in coded.dictionary.to_pylist()], dtype=bool)
    found: Array = places[among[stored(coded.indices, np.int32)]]
    return found


def _may_begin(strings: Any, letters: set[str]) -> Array:
    """Tell which strings may begin, when folded, with one of these letters of ASCII, bool."""
    text = Bytes.of(strings)
    first, _ = text.ends()
    pair = first.astype(np.uint16) * 256 + text.at(text.offsets[:-1] + 1)
    plain = np.isin(first, [ord(form) for each in letters for form in (each, each.upper())])
    found: Array = plain | np.isin(pair, _FOLD_TO_ASCII)
    return found
