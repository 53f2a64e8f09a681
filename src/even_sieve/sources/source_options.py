"""How a source is to be read."""

from collections.abc import Callable
from dataclasses import dataclass, field

from even_sieve.sources.written_numbers import DateOrder


@dataclass(frozen=True)
class Limits:
    """What a source may hold at the most; beyond it is refused instead of filling memory.

    `unpacked` bytes of a packed file, `ratio` of these to the packed ones, `cells` of a
    sheet, `columns` of a table, `cell` characters of one cell.
    """

    unpacked: int = 2 << 30
    ratio: int = 200
    cells: int = 50_000_000
    columns: int = 16_384
    cell: int = 1 << 20


@dataclass(frozen=True)
class SourceOptions:
    """What a person can say about a source.

    `blank_as` are tokens that stand for a blank. In a workbook, `sheet` is a sheet by name
    or number (from 1), `cells` an area (`B2:F30`), a named range or a table, `header` the
    sheet row that names the columns, and `sideways` says that names stand down the first
    column and records across. Of a text file, `delimiter`, `quote` and `encoding` are found
    if not given, `decimal` is the decimal mark, `date_order` reads dates that are not ISO.
    `progress` is told now and then which share of a long reading is done, 0 to 1.
    """

    blank_as: tuple[str, ...] = ()
    delimiter: str | None = None
    quote: str = '"'
    encoding: str | None = None
    decimal: str = "."
    date_order: DateOrder | None = None
    sheet: str | None = None
    cells: str | None = None
    header: int | None = None
    sideways: bool = False
    limits: Limits = field(default_factory=Limits)
    progress: Callable[[float], None] | None = field(default=None, compare=False)
