"""Columns of many different strings in one written shape, read by Arrow's kernels.

Where every cell that is filled is a number with separators, a currency sign, a decimal comma or
an exponent, or a date in a given order, the strings are brought to their plain form at once, and
read as plain ones are. Where the decimal comma or the order of dates was given each cell is read
by itself, and words may stand among them. Where single cells are of another shape the column is
left to `by_shape`, and to the general way, which reads each different string; all come to the
same cells.
"""

import re
from collections.abc import Callable
from dataclasses import replace
from functools import cache
from typing import Any

import numpy as np
import pyarrow.compute as pc

from even_sieve.core.cells import Cell, Kind
from even_sieve.core.cells.written import Conventions, read_written_number
from even_sieve.core.notices import Code, Notice
from even_sieve.core.table import Column
from even_sieve.core.table.lanes import Array, FixedLane, Lane
from even_sieve.core.table.number_lanes import LARGEST_SCALE
from even_sieve.sources.arrow_buffers import Bytes, mask_of, strings_of, take
from even_sieve.sources.bulk_strings import all_but
from even_sieve.sources.byte_shapes import POWERS, all_decimals
from even_sieve.sources.currencies import currency_signs, mixed_currencies
from even_sieve.sources.exponents import EXPONENT, any_exponent, with_exponents
from even_sieve.sources.growing_cells import read_in_bulk
from even_sieve.sources.ordered_dates import ISO_DATE, ORDERED_DATE, ORDERS, date_form, dates_of
from even_sieve.sources.set_aside import ASIDE, are_words, without_blanks
from even_sieve.sources.shaped import Shaped
from even_sieve.sources.shaped_numbers import fixed_of, without_zeros
from even_sieve.sources.shown_by_source import PERCENT, shown_in_text
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.woven import woven

_SAMPLE, _SPREAD = 64, 1 << 12
#: What may part thousands, whatever the decimal mark.
_SEPARATORS = (" ", "\u00a0", "\u202f", "'", "’")
#: For each decimal mark: the bytes that numbers do without, others, and what stands for them.
_BESIDE_DIGITS = bytes(range(128, 256)) + b"$) '"
NEEDLESS = {".": (_BESIDE_DIGITS + b",", b"(", b"-"), ",": (_BESIDE_DIGITS + b".", b"(,", b"-.")}
_PERCENT = r"^[+-]?(?:0|[1-9]\d*)(?:\.\d*)?(?: ?%)?$"
#: Whole numbers below this can be taken a hundred times.
_HUNDREDTH = 2**63 // 100
_PLAIN = r"^[+-]?\d+(?:\.\d*)?$"


def read_in_shape(name: str, strings: Any, options: SourceOptions) -> Column | None:
    """Return the column of trimmed strings that all have one written shape, None for any other.

    The strings are an Arrow array without nulls; empty ones are blanks.
    """
    filled = np.flatnonzero(Bytes.of(strings).lengths)
    exponents = cache(lambda: _may_be_exponents(strings, filled) and any_exponent(strings))
    if not len(filled) or not _may_be_of_shape(strings, filled, options, exponents):
        return None
    tokens = Shaped(take(strings, filled))
    found = _number(name, tokens, options) or _date(name, tokens, options)
    found = found or _among_words(name, tokens, options, exponents)
    whole = None if found is None else woven(name, len(strings), [(filled, found)])
    if found is None or whole is None:
        return None
    written = any(notice.code is Code.WRITTEN_NUMBERS for notice in found.notices)
    as_written = written or options.decimal_mark != "."
    conventions = Conventions(options.decimal_mark, options.date_order, as_written)
    return replace(whole, conventions=conventions, shown=found.shown)


def _may_be_of_shape(
    strings: Any, filled: Array, options: SourceOptions, exponents: Callable[[], bool]
) -> bool:
    """Guess by the first of the strings that are filled; for a point without an order alone."""
    if options.decimal_mark != "." or options.date_order in ORDERS:
        return True
    some = Shaped(take(strings, filled[:_SAMPLE]))
    if any(map(some.all_fit, (EXPONENT, _PERCENT, *_forms(".")))):
        return True
    return exponents()


def _forms(decimal: str) -> tuple[str, str]:
    """Return the patterns of numbers with a currency sign before and after them, if any."""
    mark = re.escape(decimal)
    separators = [*_SEPARATORS, re.escape("," if decimal == "." else ".")]
    groups = "|".join(rf"[1-9]\d{{0,2}}(?:{each}\d{{3}})+" for each in separators)
    digits = rf"(?:0|[1-9]\d*|{groups})(?:{mark}\d*)?"
    before, after = rf"(?:\p{{Sc}} ?)?{digits}", rf"{digits}(?: ?\p{{Sc}})?"
    led, followed = rf"\p{{Sc}} ?\({digits}\)", rf"\({digits}\) ?\p{{Sc}}"
    return (
        rf"^(?:[+-]?{before}|\({before}\)|{led})$",
        rf"^(?:[+-]?{after}|\({after}\)|{followed})$",
    )


def _number(name: str, tokens: Shaped, options: SourceOptions) -> Column | None:
    text = Bytes.of(tokens.strings)
    if options.decimal_mark == ".":
        if text.uses(POWERS) and tokens.all_fit(EXPONENT):
            return with_exponents(name, tokens.strings)
        if text.uses(b"%") and tokens.all_fit(_PERCENT):
            return _percent(name, tokens, options)
        if text.is_plain():
            return None
    if not any(map(tokens.all_fit, _forms(options.decimal_mark))):
        return None
    return _numbers(name, tokens, options)


def _numbers(name: str, tokens: Shaped, options: SourceOptions) -> Column | None:
    """Return numbers of these forms: without separators and signs, with a decimal point."""
    mark = options.decimal_mark
    if tokens.shapes is None or any(read_written_number(e, mark) is None for e in tokens.shapes):
        return None
    needless, other, instead = NEEDLESS[mark]
    lane = fixed_of(tokens, mark)
    if lane is not None:
        column = Column(name, len(lane.values), {Kind.NUMBER: lane}, None)
    else:
        column = read_in_bulk(name, tokens.without(needless, other, instead))
    if set(column.counts) != {Kind.NUMBER}:
        return None
    told = _as_written(name, tokens, frozenset(needless + other), options)
    shown = shown_in_text(strings_of(tokens.shapes))
    return replace(column, notices=told, shown=shown)


def _percent(name: str, tokens: Shaped, options: SourceOptions) -> Column | None:
    """Return percentages, and plain numbers among them, as parts of one."""
    if tokens.shapes is None:
        return None
    numbers = fixed_of(tokens)
    if numbers is None or numbers.bound >= _HUNDREDTH:
        return None
    signed = tokens.of_shapes(lambda shapes: mask_of(pc.ends_with(shapes, "%")))
    values = np.where(signed, numbers.values, numbers.values * 100)
    values, scale = without_zeros(values, numbers.scale + 2)
    if scale > LARGEST_SCALE:
        return None
    lanes: dict[Kind, Lane] = {Kind.NUMBER: FixedLane(values, scale)}
    told = _as_written(name, tokens, frozenset(b"% "), options)
    shown = PERCENT if signed.all() else ""
    return Column(name, len(values), lanes, None, told, shown=shown)


def _among_words(
    name: str, tokens: Shaped, options: SourceOptions, any_exponents: Callable[[], bool]
) -> Column | None:
    """Return the column of words, and numbers with a decimal comma or dates in an order.

    None where a string is neither such a number or date nor certain to be none.
    """
    ordered, comma = options.date_order in ORDERS, options.decimal_mark == ","
    exponents = not comma and any_exponents()
    if not (ordered or comma or exponents):
        return None
    plain = None if comma or exponents else all_decimals(tokens.strings)
    if plain is not None:
        return Column(name, len(plain.values), {Kind.NUMBER: plain})
    rest = np.flatnonzero(~are_words(tokens.strings))
    some = tokens.take(rest)

    def beside(fits: Array, read: Callable[[Shaped], Column | None]) -> Column | None:
        if not fits.any():
            return read_in_bulk(name, tokens.strings)
        column = read(some.take(np.flatnonzero(fits)))
        return None if column is None else _with_words(name, tokens, rest[fits], column)

    days = np.zeros(len(rest), dtype=bool)
    if options.date_order is not None:
        days = some.fit(date_form(options.date_order))
    aside = some.fit(ASIDE) & ~days  # letters of a half of the day may end a date
    if comma or exponents:
        forms = _forms(",") if comma else (EXPONENT,)
        numbers = np.logical_or.reduce([some.fit(form) for form in forms])
        if (aside | numbers).all():
            if comma:
                return beside(numbers, lambda found: _numbers(name, found, options))
            return beside(numbers, lambda found: with_exponents(name, found.strings))
    if not ordered:
        return None
    days |= some.fit(ISO_DATE)
    if not comma:
        aside |= some.fit(_PLAIN)
    if not (aside | days).all():
        return None
    return beside(days, lambda found: _dates(name, found, options))


def _with_words(name: str, tokens: Shaped, rows: Array, found: Column) -> Column | None:
    """Return the column of what was found at these rows, and of all others read in bulk."""
    length = len(tokens.strings)
    left = all_but(rows, length)
    parts = [(rows, found)]
    if len(left):
        parts.append((left, read_in_bulk(name, take(tokens.strings, left))))
    both = woven(name, length, parts)
    return None if both is None else replace(both, shown=found.shown)


def _may_be_exponents(strings: Any, rows: Array) -> bool:
    """Guess whether the strings of rows are each a number, or certain to be none.

    Looks at the first ones, and at some spread over all.
    """
    for places in (rows[:_SAMPLE], rows[:: max(len(rows) // _SPREAD, 1)]):
        some = Shaped(take(strings, places))
        if not (some.fit(ASIDE) | some.fit(EXPONENT)).all():
            return False
    return True


def _as_written(
    name: str, tokens: Shaped, odd: frozenset[int], options: SourceOptions
) -> tuple[Notice, ...]:
    """Return the notice on numbers that are not plain ones, by the first of them.

    It has one of these odd bytes.
    """
    shapes = tokens.shapes or []
    changed = np.array([not odd.isdisjoint(shape.encode()) for shape in shapes], bool)
    if not changed.any():
        return ()
    mixed = mixed_currencies(name, currency_signs(strings_of(shapes)))
    if options.decimal_mark != ".":
        return mixed  # a decimal mark that was given is no surprise
    first = tokens.strings[int(changed[tokens.codes].argmax())].as_py()
    return (*mixed, written_notice(name, first, read_written_number(first)))


def written_notice(name: str, example: Cell, number: Cell) -> Notice:
    """Return the notice on a column of numbers as people write them."""
    text = (
        f"column '{name}': numbers written such as '{example}' were read as numbers, "
        f"this one as {number}"
    )
    return Notice(Code.WRITTEN_NUMBERS, text)


def _date(name: str, tokens: Shaped, options: SourceOptions) -> Column | None:
    """Return dates whose parts stand in the order given; None where one is no date."""
    if options.date_order not in ORDERS or not tokens.all_fit(ORDERED_DATE):
        return None
    return _dates(name, tokens, options)


def _dates(name: str, tokens: Shaped, options: SourceOptions) -> Column | None:
    """Return the column of dates of which all have the form of one."""
    lane = dates_of(tokens, options.date_order)
    if lane is None:
        return None
    return Column(name, len(lane.values), {Kind.DATE: lane}, None)


def is_of_shape(strings: Any, options: SourceOptions) -> bool:
    """Tell whether the first strings have a written shape and are not all plain numbers."""
    some = without_blanks(strings[: _SAMPLE * 4], options.blank_as)
    if pc.all(pc.match_substring_regex(some, rf"{_PLAIN}|^$")).as_py():
        return False
    return read_in_shape("", some, options) is not None
