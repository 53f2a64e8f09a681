"""Columns of many different strings in one written shape, read by Arrow's kernels.

Where every cell that is filled is a number with separators, a currency sign, a decimal comma or an
exponent, or a date in a given order, the strings are brought to their plain form at once, and read
as plain ones are. Where a single cell is of another shape the column is left to the general way,
which reads each different string; both ways come to the same cells.
"""

from dataclasses import replace
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.cells import Kind
from even_sieve.core.cells.written import Conventions, DateOrder, read_written_number
from even_sieve.core.notices import Code, Notice
from even_sieve.core.table import Column
from even_sieve.core.table.build import assemble
from even_sieve.core.table.from_arrays import fixed_from_floats
from even_sieve.core.table.lanes import Array, FixedLane, FloatLane, Lane
from even_sieve.sources.arrow_buffers import Bytes, stored, take
from even_sieve.sources.bulk_strings import read_in_bulk, with_stored
from even_sieve.sources.source_options import SourceOptions

_SAMPLE = 64
_GROUPS = r"(?:0|[1-9]\d*|[1-9]\d{0,2}(?:%s\d{3})+)(?:%s\d*)?"
_EXPONENT = r"^[+-]?(?:0|[1-9]\d*)(?:\.\d*)?(?:[eE][+-]?\d{1,4})?$"
_DATE = r"^\d{1,2}([./-])\d{1,2}[./-]\d{4}$"
_PARTS = r"^(?P<a>\d{1,2})[./-](?P<b>\d{1,2})[./-](?P<y>\d{4})$"
_LONGEST = 15


def read_in_shape(name: str, strings: Any, options: SourceOptions) -> Column | None:
    """Return the column of trimmed strings that all have one written shape, None for any other.

    The strings are an Arrow array without nulls; empty ones are blanks.
    """
    if options.blank_as:
        return None
    filled = np.flatnonzero(Bytes.of(strings).lengths)
    if not len(filled):
        return None
    tokens = strings if len(filled) == len(strings) else take(strings, filled)
    found = _number(name, tokens, options) or _date(name, tokens, options)
    if found is None:
        return None
    conventions = Conventions(
        options.decimal, options.date_order, bool(found.notices) or options.decimal != "."
    )
    return replace(_spread(found, filled, len(strings)), conventions=conventions)


def _spread(column: Column, rows: Array, length: int) -> Column:
    """Return a column without blanks as one with blanks on all other rows."""
    if len(rows) == length:
        return column
    states = np.full(length, Kind.BLANK, dtype=np.uint8)
    lanes: dict[Kind, Lane] = {}
    for kind, lane in column.lanes.items():
        values = np.zeros(length, dtype=lane.values.dtype)
        values[rows] = lane.values
        states[rows] = kind
        lanes[kind] = with_stored(lane, values)
    return assemble(column.name, length, lanes, states, column.notices)


def _all(tokens: Any, pattern: str) -> bool:
    """Tell whether a pattern fits all tokens; looks at some of them first."""
    return all(
        pc.all(pc.match_substring_regex(some, pattern)).as_py()
        for some in (tokens[:_SAMPLE], tokens)
    )


def _number(name: str, tokens: Any, options: SourceOptions) -> Column | None:
    if options.decimal == "." and _all(tokens, _EXPONENT):
        return _with_exponents(name, tokens)
    mark, separator = ("\\.", ",") if options.decimal == "." else (",", "\\.")
    digits = _GROUPS % (separator, mark)
    before, after = rf"^[+-]?(?:\p{{Sc}} ?)?{digits}$", rf"^[+-]?{digits}(?: ?\p{{Sc}})?$"
    if not _all(tokens, before) and not _all(tokens, after):
        return None
    plain = pc.replace_substring_regex(tokens, rf"[\p{{Sc}} {separator}]", "")
    if options.decimal == ",":
        plain = pc.replace_substring(plain, ",", ".")
    column = read_in_bulk(name, plain, ())
    if column is None or set(column.counts) != {Kind.NUMBER}:
        return None
    return replace(column, notices=_as_written(name, tokens, plain, options))


def _as_written(name: str, tokens: Any, plain: Any, options: SourceOptions) -> tuple[Notice, ...]:
    """Return the notice on numbers that are not plain ones, by the first of them."""
    changed = np.flatnonzero(stored_bools(pc.not_equal(tokens, plain)))
    if options.decimal != "." or not len(changed):
        return ()  # a decimal mark that was given is no surprise
    first = tokens[int(changed[0])].as_py()
    text = (
        f"column '{name}': numbers written such as '{first}' were read as numbers, "
        f"this one as {read_written_number(first)}"
    )
    return (Notice(Code.WRITTEN_NUMBERS, text),)


def stored_bools(mask: Any) -> Array:
    """Return an Arrow array of booleans without nulls as a NumPy one."""
    return stored(pc.cast(mask, pa.uint8()), np.uint8).astype(bool)


def _with_exponents(name: str, tokens: Any) -> Column | None:
    """Return numbers with exponents; None where one has more digits than a double keeps."""
    mantissas = pc.replace_substring_regex(tokens, r"[eE].*$|[^0-9]", "")
    if pc.max(pc.binary_length(mantissas)).as_py() > _LONGEST:
        return None
    values = stored(pc.cast(tokens, pa.float64()), np.float64)
    if not np.isfinite(values).all():
        return None  # a number beyond any double is an error cell
    fixed = fixed_from_floats(values)
    if fixed is None and (np.abs(values) < 2.0**63).all() and _near_whole(values):
        return None  # long whole numbers: the general way keeps all of their digits
    lane: Lane = FloatLane(values) if fixed is None else FixedLane(*fixed)
    return Column(name, len(tokens), {Kind.NUMBER: lane}, None)


def _near_whole(values: Array) -> bool:
    """Tell whether a value may need more than 15 digits as a fixed-point one and still fit."""
    return bool((np.abs(values) >= 10.0**_LONGEST).any())


def _date(name: str, tokens: Any, options: SourceOptions) -> Column | None:
    """Return dates whose parts stand in the order given; None where one is no date."""
    order = options.date_order
    if order not in (DateOrder.DAY_FIRST, DateOrder.MONTH_FIRST) or not _all(tokens, _DATE):
        return None
    if not any(_all(tokens, rf"^\d+[{mark}]\d+[{mark}]\d+$") for mark in ("/", ".", "-")):
        return None
    parts = pc.extract_regex(tokens, _PARTS)
    first, second, year = (pc.struct_field(parts, place) for place in ("a", "b", "y"))
    day, month = (first, second) if order is DateOrder.DAY_FIRST else (second, first)
    month, day = (pc.utf8_lpad(each, 2, padding="0") for each in (month, day))
    column = read_in_bulk(name, pc.binary_join_element_wise(year, month, day, "-"), ())
    return column if column is not None and set(column.counts) == {Kind.DATE} else None


def is_of_shape(strings: Any, options: SourceOptions) -> bool:
    """Tell whether the first strings have a written shape and are not all plain numbers."""
    some = strings[: _SAMPLE * 4]
    plain = pc.match_substring_regex(some, r"^[+-]?\d+(?:\.\d*)?$|^$")
    return not pc.all(plain).as_py() and read_in_shape("", some, options) is not None
