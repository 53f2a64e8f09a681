"""Columns of many different strings in one written shape, read by Arrow's kernels.

Where every cell that is filled is a number with separators, a currency sign, a decimal comma or
an exponent, or a date in a given order, the strings are brought to their plain form at once, and
read as plain ones are. Where the decimal comma or the order of dates was given each cell is read
by itself, and words may stand among them. Where a single cell is of another shape the column is
left to the general way, which reads each different string; both come to the same cells.
"""

import re
from dataclasses import replace
from typing import Any

import numpy as np
import pyarrow.compute as pc

from even_sieve.core.cells import Cell, Kind, fold
from even_sieve.core.cells.written import Conventions, read_written_number
from even_sieve.core.notices import Code, Notice
from even_sieve.core.table import Column
from even_sieve.core.table.build import assemble
from even_sieve.core.table.lanes import Array, FixedLane, Lane
from even_sieve.core.table.number_lanes import LARGEST_SCALE
from even_sieve.sources.arrow_buffers import Bytes, mask_of, scalar_of, take
from even_sieve.sources.bulk_strings import read_in_bulk, spread
from even_sieve.sources.byte_shapes import POWERS
from even_sieve.sources.currencies import currency_signs, mixed_currencies
from even_sieve.sources.exponents import (
    EXPONENT,
    any_exponent,
    exponents_among_words,
    with_exponents,
)
from even_sieve.sources.ordered_dates import ORDERED_DATE, ORDERS, iso_dates
from even_sieve.sources.shown_by_source import PERCENT, shown_in_text
from even_sieve.sources.source_options import SourceOptions

_SAMPLE = 64
#: What may part thousands, whatever the decimal mark.
_SEPARATORS = (" ", "\u00a0", "\u202f", "'", "’")
_PERCENT = r"^[+-]?(?:0|[1-9]\d*)(?:\.\d*)?(?: ?%)?$"
#: Whole numbers below this can be taken a hundred times.
_HUNDREDTH = 2**63 // 100
_BYTES_A_LETTER = 3
#: What no way of writing makes a number or a date of another form: words, errors, digits with
#: letters that no number and no date has, ISO dates.
_ASIDE = (
    r"(?s)^(?:[\p{L}#].*|\d.*[a-df-su-yA-DF-SU-Y].*|\d{4}-\d\d-\d\d(?:[T ]\d\d:\d\d(?::\d\d)?)?)?$"
)
_PLAIN = r"^[+-]?\d+(?:\.\d*)?$"


def read_in_shape(name: str, strings: Any, options: SourceOptions) -> Column | None:
    """Return the column of trimmed strings that all have one written shape, None for any other.

    The strings are an Arrow array without nulls; empty ones are blanks.
    """
    strings = _without_blanks(strings, options.blank_as)
    if strings is None:
        return None
    filled = np.flatnonzero(Bytes.of(strings).lengths)
    if not len(filled):
        return None
    tokens = strings if len(filled) == len(strings) else take(strings, filled)
    found = _number(name, tokens, options) or _date(name, tokens, options)
    found = (
        _among_words(name, strings, options)
        if found is None
        else _spread(found, filled, len(strings))
    )
    if found is None:
        return None
    written = any(notice.code is Code.WRITTEN_NUMBERS for notice in found.notices)
    as_written = written or options.decimal_mark != "."
    return replace(
        found, conventions=Conventions(options.decimal_mark, options.date_order, as_written)
    )


def _without_blanks(strings: Any, blank_as: tuple[str, ...]) -> Any:
    """Return the strings with empty ones for blanks; None where a pattern cannot tell them."""
    if not blank_as:
        return strings
    blanks = {fold(token.strip()) for token in blank_as}
    if not all(map(str.isascii, blanks)):
        return None
    short = pc.less_equal(
        pc.binary_length(strings), scalar_of(_BYTES_A_LETTER * max(map(len, blanks)))
    )
    odd = pc.and_(short, pc.invert(pc.string_is_ascii(strings)))
    if any(fold(each) in blanks for each in strings.filter(odd).unique().to_pylist()):
        return None  # folding brings more letters together than a pattern does
    pattern = "(?i)^(?:" + "|".join(map(re.escape, blanks)) + ")$"
    return pc.replace_substring_regex(strings, pattern, "")


def _spread(column: Column, rows: Array, length: int) -> Column:
    """Return a column without blanks as one with blanks on all other rows."""
    if len(rows) == length:
        return column
    states = np.full(length, Kind.BLANK, dtype=np.uint8)
    lanes: dict[Kind, Lane] = {}
    for kind, lane in column.lanes.items():
        states[rows] = kind
        lanes[kind] = spread(lane, rows, length)
    return replace(assemble(column.name, length, lanes, states, column.notices), shown=column.shown)


def _all(tokens: Any, pattern: str) -> bool:
    """Tell whether a pattern fits all tokens; looks at some of them first."""
    return all(
        pc.all(pc.match_substring_regex(some, pattern)).as_py()
        for some in (tokens[:_SAMPLE], tokens)
    )


def _forms(decimal: str) -> tuple[str, str]:
    """Return the patterns of numbers with a currency sign before and after them, if any."""
    mark = re.escape(decimal)
    separators = [*_SEPARATORS, re.escape("," if decimal == "." else ".")]
    groups = "|".join(rf"[1-9]\d{{0,2}}(?:{each}\d{{3}})+" for each in separators)
    digits = rf"(?:0|[1-9]\d*|{groups})(?:{mark}\d*)?"
    before, after = rf"(?:\p{{Sc}} ?)?{digits}", rf"{digits}(?: ?\p{{Sc}})?"
    return rf"^(?:[+-]?{before}|\({before}\))$", rf"^(?:[+-]?{after}|\({after}\))$"


def _plain_numbers(tokens: Any, decimal: str) -> Any:
    """Return numbers of these forms without separators and signs, with a decimal point."""
    needless = "".join(_SEPARATORS) + ("," if decimal == "." else ".")
    plain = pc.replace_substring_regex(tokens, rf"[\p{{Sc}}){needless}]", "")
    plain = pc.replace_substring(plain, "(", "-")
    return plain if decimal == "." else pc.replace_substring(plain, decimal, ".")


def _number(name: str, tokens: Any, options: SourceOptions) -> Column | None:
    text = Bytes.of(tokens)
    if options.decimal_mark == ".":
        if text.uses(POWERS) and _all(tokens, EXPONENT):
            return with_exponents(name, tokens)
        if text.uses(b"%") and _all(tokens, _PERCENT):
            return _percent(name, tokens, options)
        if text.is_plain():
            return None
    if not any(_all(tokens, form) for form in _forms(options.decimal_mark)):
        return None
    plain = _plain_numbers(tokens, options.decimal_mark)
    column = read_in_bulk(name, plain, ())
    if column is None or set(column.counts) != {Kind.NUMBER}:
        return None
    told, shown = _as_written(name, tokens, plain, options), shown_in_text(tokens)
    return replace(column, notices=told, shown=shown)


def _percent(name: str, tokens: Any, options: SourceOptions) -> Column | None:
    """Return percentages, and plain numbers among them, as parts of one."""
    signed = mask_of(pc.ends_with(tokens, "%"))
    plain = pc.utf8_rtrim(pc.utf8_rtrim(tokens, "%"), " ")
    column = read_in_bulk(name, plain, ())
    lane = None if column is None or set(column.counts) != {Kind.NUMBER} else column.lanes
    numbers = None if lane is None else lane[Kind.NUMBER]
    if not isinstance(numbers, FixedLane) or numbers.bound >= _HUNDREDTH:
        return None
    values, scale = np.where(signed, numbers.values, numbers.values * 100), numbers.scale + 2
    while scale and not (values % 10).any():
        values, scale = values // 10, scale - 1
    if scale > LARGEST_SCALE:
        return None
    lanes: dict[Kind, Lane] = {Kind.NUMBER: FixedLane(values, scale)}
    told, shown = _as_written(name, tokens, plain, options), PERCENT if signed.all() else ""
    return Column(name, len(values), lanes, None, told, shown=shown)


def _among_words(name: str, strings: Any, options: SourceOptions) -> Column | None:
    """Return the column of words, and numbers with a decimal comma or dates in an order.

    None where a string is neither such a number or date nor certain to be none.
    """
    ordered = options.date_order in ORDERS
    if options.decimal_mark == "." and not ordered and not _may_be_exponents(strings[:_SAMPLE]):
        return None
    exponents = options.decimal_mark == "." and any_exponent(strings)
    if options.decimal_mark == "." and not ordered and not exponents:
        return None
    aside = pc.match_substring_regex(strings, _ASIDE)
    if options.decimal_mark == ",":
        before, after = (pc.match_substring_regex(strings, form) for form in _forms(","))
        numbers = pc.or_(before, after)
        if pc.all(pc.or_(aside, numbers)).as_py():
            plain = pc.if_else(numbers, _plain_numbers(strings, ","), strings)
            column = _read_as(Kind.NUMBER, name, plain, numbers)
            tokens = strings.filter(numbers)
            if column is None or not len(tokens):
                return column
            mixed = mixed_currencies(name, currency_signs(tokens))
            told, shown = (*column.notices, *mixed), shown_in_text(tokens)
            return replace(column, notices=told, shown=shown)
    else:
        if exponents:
            numbers = pc.match_substring_regex(strings, EXPONENT)
            if pc.all(pc.or_(aside, numbers)).as_py():
                return exponents_among_words(name, strings, numbers)
        if not ordered:
            return None
        aside = pc.or_(aside, pc.match_substring_regex(strings, _PLAIN))
    if ordered:
        days = pc.match_substring_regex(strings, ORDERED_DATE)
        if pc.all(pc.or_(aside, days)).as_py():
            plain = pc.if_else(days, iso_dates(strings, options.date_order), strings)
            return _read_as(Kind.DATE, name, plain, days)
    return None


def _may_be_exponents(some: Any) -> bool:
    """Tell whether some strings are each a number, or certain to be none."""
    aside = pc.match_substring_regex(some, _ASIDE)
    return bool(pc.all(pc.or_(aside, pc.match_substring_regex(some, EXPONENT))).as_py())


def _read_as(kind: Kind, name: str, plain: Any, shaped: Any) -> Column | None:
    """Return the column of plain strings; None unless those of the shape are all of a kind."""
    column = read_in_bulk(name, plain, ())
    if column is None:
        return None
    if column.states is not None:
        is_kind = bool((column.states[mask_of(shaped)] == kind).all())
    else:
        is_kind = set(column.counts) == {kind} or not pc.any(shaped).as_py()
    return column if is_kind else None


def _as_written(name: str, tokens: Any, plain: Any, options: SourceOptions) -> tuple[Notice, ...]:
    """Return the notice on numbers that are not plain ones, by the first of them."""
    changed = np.flatnonzero(mask_of(pc.not_equal(tokens, plain)))
    if not len(changed):
        return ()
    mixed = mixed_currencies(name, currency_signs(tokens))
    if options.decimal_mark != ".":
        return mixed  # a decimal mark that was given is no surprise
    first = tokens[int(changed[0])].as_py()
    return (*mixed, written_notice(name, first, read_written_number(first)))


def written_notice(name: str, example: Cell, number: Cell) -> Notice:
    """Return the notice on a column of numbers as people write them."""
    text = (
        f"column '{name}': numbers written such as '{example}' were read as numbers, "
        f"this one as {number}"
    )
    return Notice(Code.WRITTEN_NUMBERS, text)


def _date(name: str, tokens: Any, options: SourceOptions) -> Column | None:
    """Return dates whose parts stand in the order given; None where one is no date."""
    if options.date_order not in ORDERS or not _all(tokens, ORDERED_DATE):
        return None
    column = read_in_bulk(name, iso_dates(tokens, options.date_order), ())
    return column if column is not None and set(column.counts) == {Kind.DATE} else None


def is_of_shape(strings: Any, options: SourceOptions) -> bool:
    """Tell whether the first strings have a written shape and are not all plain numbers."""
    some = _without_blanks(strings[: _SAMPLE * 4], options.blank_as)
    if some is None or pc.all(pc.match_substring_regex(some, rf"{_PLAIN}|^$")).as_py():
        return False
    return read_in_shape("", some, replace(options, blank_as=())) is not None
