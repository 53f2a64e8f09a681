"""Columns whose texts are numbers or dates because somebody says so, whatever their source."""

from collections.abc import Callable, Iterable
from dataclasses import replace
from datetime import date
from decimal import Decimal

import numpy as np

from even_sieve.core.cells import Cell, Kind
from even_sieve.core.cells.dates import date_from_days, datetime_from_micros, read_date
from even_sieve.core.cells.written import DateOrder, read_ordered_date, read_written_number
from even_sieve.core.notices import Code, Notice, counted
from even_sieve.core.table import Column, Table
from even_sieve.core.table.build import column_from_codes
from even_sieve.sources.source_options import SourceOptions

_DAY = 86_400_000_000
_MOST_SHOWN = 3
#: A date in eight digits, as a number.
_FIRST, _LAST = 1000_01_01, 9999_12_31


def as_said(table: Table, options: SourceOptions) -> Table:
    """Return the table with the columns that are said to hold numbers, or dates, read so.

    Their texts are read by the conventions of the source; those that cannot be read stay texts,
    and a notice counts them. Raises `UnknownColumn`.
    """
    wanted: list[tuple[Iterable[str], Callable[[Column], Column]]] = [
        (options.as_number, lambda column: _read(column, _number_of(column, options), "numbers")),
        (options.as_date, lambda column: _read(column, _date_of(column, options), "dates")),
    ]
    columns = list(table.columns)
    for names, read in wanted:
        for name in names:
            place = table.names.index(table.column(name).name)
            columns[place] = read(columns[place])
    return table if columns == list(table.columns) else replace(table, columns=tuple(columns))


def _read(column: Column, read: Callable[[Cell], Cell], what: str) -> Column:
    identity = column.identity
    keys = list(identity.keys)
    found = [read(key) for key in keys]
    counts = np.bincount(identity.codes, minlength=len(keys)).tolist()
    turned = sum(n for n, old, new in zip(counts, keys, found, strict=True) if old is not new)
    kind = Kind.NUMBER if what == "numbers" else Kind.DATE
    kept = [
        (n, key) for n, key, new in zip(counts, keys, found, strict=True)
        if new is key and (isinstance(key, str) or (what == "dates" and _is_number(key)))
    ]  # fmt: skip
    text = f"column '{column.name}' read as {what}: {counted(turned, 'cell')} turned"
    left = sum(n for n, _ in kept)
    if kept:
        shown = ", ".join(f"'{key}'" for _, key in kept[:_MOST_SHOWN])
        more = f" and {len(kept) - _MOST_SHOWN:,} more texts" if len(kept) > _MOST_SHOWN else ""
        text += f"; {counted(left, 'cell')} cannot be read and stayed text: {shown}{more}"
    notice = Notice(Code.READ_AS_SAID, text, {"turned": turned, "left": left})
    made = column_from_codes(column.name, found, identity.codes, (*column.notices, notice))
    assert turned == 0 or kind in made.counts
    return replace(made, conventions=column.conventions, trimmed=column.trimmed)


def _is_number(cell: Cell) -> bool:
    return isinstance(cell, int | float | Decimal) and not isinstance(cell, bool)


def _number_of(column: Column, options: SourceOptions) -> Callable[[Cell], Cell]:
    decimal = options.decimal or column.conventions.decimal

    def read(cell: Cell) -> Cell:
        if not isinstance(cell, str):
            return cell
        text = cell.strip()
        if text.isascii() and text.isdigit():
            number: Decimal | None = Decimal(text)  # a code with zeros before it, too
        else:
            number = read_written_number(text, decimal)
        if number is None:
            return cell
        exponent = number.as_tuple().exponent  # of 1250.00 the places are kept
        is_whole = isinstance(exponent, int) and exponent >= 0 and abs(number) < 2**63
        return int(number) if is_whole else number

    return read


def _date_of(column: Column, options: SourceOptions) -> Callable[[Cell], Cell]:
    order = options.date_order or column.conventions.date_order

    def read(cell: Cell) -> Cell:
        if isinstance(cell, bool | date) or cell is None:
            return cell
        if isinstance(cell, int | float | Decimal):
            text = str(int(cell)) if cell == int(cell) and _FIRST <= cell <= _LAST else ""
        else:
            text = str(cell).strip()
        if len(text) == len("20310105") and text.isdecimal():
            text = f"{text[:4]}-{text[4:6]}-{text[6:]}"
        moment = read_date(text)
        if moment is not None:
            if moment.has_time:
                return datetime_from_micros(moment.micros)
            return date_from_days(moment.micros // _DAY)
        found = None if order is None else read_ordered_date(text, DateOrder(order))
        return cell if found is None else found

    return read
