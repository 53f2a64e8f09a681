"""Dates that are written with day, month and year in an order that is told, as ISO dates."""

from typing import Any

import pyarrow.compute as pc

from even_sieve.core.cells.written import DateOrder
from even_sieve.sources.arrow_buffers import scalar_of, strings_of

_CLOCK = r"(?:[ T]+(?P<h>[01]?\d|2[0-3]):(?P<m>[0-5]\d)(?::(?P<s>[0-5]\d))?)?$"
#: A date in either order, with a time of day or without.
ORDERED_DATE = r"^\d{1,2}(?:/\d{1,2}/|\.\d{1,2}\.|-\d{1,2}-)\d{4}" + _CLOCK
_PARTS = r"^(?P<a>\d{1,2})[./-](?P<b>\d{1,2})[./-](?P<y>\d{4})" + _CLOCK
#: How long a date is, alone, with minutes, and with seconds.
_REGULAR = (10, 16, 19)
ORDERS = (DateOrder.DAY_FIRST, DateOrder.MONTH_FIRST)


def iso_dates(tokens: Any, order: DateOrder | None) -> Any:
    """Return dates in this order as ISO dates; what is no date becomes null or nonsense."""
    if _is_regular(tokens):
        first, second, year, clock = (
            pc.utf8_slice_codeunits(tokens, *span) for span in ((0, 2), (3, 5), (6, 10), (11, 19))
        )
        day, month = (first, second) if order is DateOrder.DAY_FIRST else (second, first)
        days = pc.binary_join_element_wise(year, month, day, scalar_of("-"))
        timed = pc.any(pc.not_equal(clock, scalar_of(""))).as_py()
        return pc.binary_join_element_wise(days, clock, scalar_of("T")) if timed else days
    parts = pc.extract_regex(tokens, _PARTS)
    first, second, year = (pc.struct_field(parts, place) for place in ("a", "b", "y"))
    day, month = (first, second) if order is DateOrder.DAY_FIRST else (second, first)
    month, day = (pc.utf8_lpad(each, 2, padding="0") for each in (month, day))
    days = pc.binary_join_element_wise(year, month, day, scalar_of("-"))
    clock = [pc.utf8_lpad(pc.struct_field(parts, each), 2, padding="0") for each in "hms"]
    if not pc.any(pc.not_equal(pc.struct_field(parts, "h"), scalar_of(""))).as_py():
        return days
    return pc.binary_join_element_wise(
        days, pc.binary_join_element_wise(*clock, scalar_of(":")), scalar_of("T")
    )


def _is_regular(tokens: Any) -> bool:
    """Tell whether all dates have two digits for day and month, and times of one form, or none."""
    lengths = pc.min_max(pc.binary_length(tokens)).as_py()
    if lengths["min"] != lengths["max"] or lengths["min"] not in _REGULAR:
        return False
    some = (pc.utf8_slice_codeunits(tokens, place, place + 1) for place in (2, 5))
    return all(pc.all(pc.is_in(each, strings_of([".", "/", "-"]))).as_py() for each in some)
