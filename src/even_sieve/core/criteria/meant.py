"""What a value of a condition may be meant as that is written in another way."""

from decimal import Decimal

from even_sieve.core.cells import Kind, fold
from even_sieve.core.cells.named_dates import read_named_date
from even_sieve.core.cells.said import number_said
from even_sieve.core.criteria.operands import Text, read_plain
from even_sieve.core.criteria.seeming import seeming_ends, seeming_list, seems_no_value
from even_sieve.core.table import Column
from even_sieve.core.table.lanes import TextLane


def meant(text: str, column: Column) -> str:
    """Return how that is written which a value seems to be meant as; empty if it seems none.

    >>> from even_sieve.core.table import column_from
    >>> zones = column_from("zone", ["Outer", "Inner"])
    >>> [meant(each, zones) for each in ("null", "100 to 200", "Inner, Outer", "Mole")]
    ['for cells without a value write: is blank', 'a window is written 100..200', 'alternatives \
are written Inner | Outer', '']
    >>> meant("kr 12.50", column_from("dues", [120, 12.5]))
    'a number is written 12.5'
    """
    if seems_no_value(text):
        return "for cells without a value write: is blank"
    ends = seeming_ends(text)
    if ends and not any(isinstance(read_plain(end), Text) for end in ends):
        return f"a window is written {'..'.join(ends)}"
    lane, parts = column.lanes.get(Kind.TEXT), seeming_list(text)
    if len(parts) > 1 and isinstance(lane, TextLane):
        ranges = [lane.range_of(fold(part)) for part in parts]
        if all(low < high for low, high in ranges):
            return f"alternatives are written {' | '.join(parts)}"
    if Kind.DATE in column.counts and (day := read_named_date(text)) is not None:
        return f"a date is written {day}"
    may_be = Kind.NUMBER in column.counts and not text.isdecimal()  # `007` is a code
    number = number_said(text, column.conventions.decimal) if may_be else ""
    if isinstance(number, int | Decimal) and isinstance(read_plain(text), Text):
        whole, _, after = f"{Decimal(number):f}".partition(".")
        mark = column.conventions.decimal if after.strip("0") else ""
        return f"a number is written {whole}{mark}{after.rstrip('0')}"
    return ""
