"""Numbers such as `1.200` in a file of semicolons: they may be thousands, and are read as 1.2."""

import re
from collections.abc import Sequence
from dataclasses import replace
from itertools import islice

from even_sieve.core.cells import Kind
from even_sieve.core.notices import Code, Notice
from even_sieve.core.table import Column
from even_sieve.core.table.lanes import FixedLane
from even_sieve.sources.csv_records import records_of
from even_sieve.sources.dialect import Dialect
from even_sieve.sources.source_options import SourceOptions

_LOOKED_AT, _RECORDS = 64 * 1024, 1000
_GROUPED = re.compile(r"[+-]?[1-9]\d{0,2}(?:\.\d{3})+\Z", re.ASCII)
_DECIMALS = 3


def first_cells(
    head: bytes, dialect: Dialect, places: Sequence[int | None], options: SourceOptions
) -> list[list[str]]:
    """Return the fields of the first rows at some places, as far as they can tell anything.

    That is where fields are parted as offices with decimal commas do, and nobody said what the
    decimal mark is. `head` is how the text begins, its header first.
    """
    if dialect.delimiter != ";" or options.decimal is not None:
        return [[] for _ in places]
    cut = head if len(head) < _LOOKED_AT else head[:_LOOKED_AT].rpartition(b"\n")[0]
    records = [record for _, record in islice(records_of(cut, dialect), 1, _RECORDS)]
    return [
        [record[place] for record in records if place is not None and len(record) > place]
        for place in places
    ]


def told_of_thousands(column: Column, cells: Sequence[str]) -> Column:
    """Return the column, with a notice if its points may stand between thousands.

    That is where each point that its first cells have stands before three digits.
    """
    lane = column.lanes.get(Kind.NUMBER)
    pointed = [cell.strip() for cell in cells if "." in cell]
    if not isinstance(lane, FixedLane) or lane.scale > _DECIMALS or not pointed:
        return column
    if not all(map(_GROUPED.match, pointed)):
        return column
    text = (
        f"column '{column.name}': '{pointed[0]}' was read with a decimal point; if it is "
        f"{pointed[0].replace('.', '')}, the point stands between thousands: see --decimal"
    )
    return replace(column, notices=(*column.notices, Notice(Code.MAYBE_THOUSANDS, text)))
