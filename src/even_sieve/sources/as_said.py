"""Columns whose texts are numbers or dates because somebody says so, whatever their source."""

from collections.abc import Callable, Iterable
from dataclasses import replace
from decimal import Decimal
from unicodedata import category

import numpy as np

from even_sieve.core.cells import Cell, Kind
from even_sieve.core.cells.said import date_said, number_said
from even_sieve.core.cells.text import currency_of
from even_sieve.core.cells.written import DateOrder
from even_sieve.core.notices import Code, Notice, counted
from even_sieve.core.table import Column, Table
from even_sieve.core.table.build import column_from_codes
from even_sieve.core.table.offsets import offset_notices, offsets_in
from even_sieve.sources.currencies import told_as_mixed
from even_sieve.sources.source_options import SourceOptions

_MOST_SHOWN = 3


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
        more = len(kept) - _MOST_SHOWN
        shown += f" and {counted(more, 'more text')}" if more > 0 else ""
        text += f"; {counted(left, 'cell')} cannot be read and stayed text: {shown}"
    notice = Notice(Code.READ_AS_SAID, text, {"turned": turned, "left": left})
    amounts = [key for key, new in zip(keys, found, strict=True) if new is not key]
    mixed = _mixed(column.name, amounts) if what == "numbers" else ()
    dated = (
        key for key, new in zip(keys, found, strict=True) if kind is Kind.DATE and new is not key
    )
    known = [each for each in column.notices if each.code is not Code.TEXT_LIKE_DATES or left]
    told = (*known, notice, *mixed, *offset_notices(column.name, offsets_in(dated)))
    made = column_from_codes(column.name, found, identity.codes, told)
    assert turned == 0 or kind in made.counts
    shown = column.shown if turned == 0 else ""
    return replace(made, conventions=column.conventions, trimmed=column.trimmed, shown=shown)


def _mixed(name: str, amounts: Iterable[Cell]) -> tuple[Notice, ...]:
    """Return a notice if amounts in different currencies are read as numbers."""
    units = dict.fromkeys(
        _SIGNS.get(unit, unit)
        for each in amounts
        for unit in (currency_of(str(each).strip())[1].rstrip("."), *_signs_in(str(each)))
        if unit
    )
    return told_as_mixed(name, units)


def _signs_in(text: str) -> list[str]:
    return [] if text.isascii() and "$" not in text else [c for c in text if category(c) == "Sc"]


#: Signs of one currency alone.
_SIGNS = {"€": "EUR", "£": "GBP"}


def _is_number(cell: Cell) -> bool:
    return isinstance(cell, int | float | Decimal) and not isinstance(cell, bool)


def _number_of(column: Column, options: SourceOptions) -> Callable[[Cell], Cell]:
    decimal = options.decimal or column.conventions.decimal
    return lambda cell: number_said(cell, decimal)


def _date_of(column: Column, options: SourceOptions) -> Callable[[Cell], Cell]:
    said = options.date_order or column.conventions.date_order
    order = None if said is None else DateOrder(said)
    return lambda cell: date_said(cell, order)
