"""Columns whose texts are numbers or dates because somebody says so, whatever their source."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date
from unicodedata import category

import numpy as np

from even_sieve.core.cells import Cell, Kind
from even_sieve.core.cells.said import as_text, date_said, number_said, told_of_counted
from even_sieve.core.cells.text import currency_of
from even_sieve.core.cells.written import Conventions, DateOrder
from even_sieve.core.notices import Code, Notice, counted, each_once
from even_sieve.core.table import Column, Table
from even_sieve.core.table.arrays import BLOCK, spans
from even_sieve.core.table.lanes import Array, TextLane
from even_sieve.core.table.offsets import offset_notices
from even_sieve.sources.arrow_buffers import strings_of
from even_sieve.sources.arrow_strings import Strings
from even_sieve.sources.currencies import told_as_mixed
from even_sieve.sources.said_in_bulk import Said, counted_said, dates_said, numbers_said, one_by_one
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.woven import with_values

#: Up to so many different texts are read one by one.
_FEW = 1 << 10
_MOST_SHOWN = 3


def as_said(table: Table, options: SourceOptions) -> Table:
    """Return the table with the columns that are said to hold numbers, or dates, read so.

    Their texts are read by the conventions of the source; those that cannot be read stay texts,
    and a notice counts them. Raises `UnknownColumn`.
    """
    columns = list(table.columns)
    for names, how in ((options.as_number, _Numbers), (options.as_date, _Dates)):
        for name in names:
            place = table.names.index(table.column(name).name)
            columns[place] = _read(columns[place], how.of(columns[place], options))
    return table if columns == list(table.columns) else replace(table, columns=tuple(columns))


@dataclass(frozen=True)
class _Numbers:
    """Texts that are read as numbers."""

    decimal: str
    kinds = (Kind.TEXT,)
    what = "numbers"
    no_longer: frozenset[Code] = frozenset()

    @classmethod
    def of(cls, column: Column, options: SourceOptions) -> "_Numbers":
        return cls(options.decimal or column.conventions.decimal)

    def conventions(self, known: Conventions) -> Conventions:
        return replace(known, decimal=self.decimal, written=True)

    def read(self, cells: Sequence[Cell]) -> Said:
        texts = _many_texts(cells)
        if texts is not None:
            return numbers_said(texts, self.decimal)
        return one_by_one(cells, lambda cell: number_said(cell, self.decimal))

    def told(self, _: Iterable[Cell]) -> str:
        return ""


@dataclass(frozen=True)
class _Dates:
    """Texts, and numbers of eight digits or of days counted, that are read as dates."""

    order: DateOrder | None
    day_zero: date | None
    kinds = (Kind.NUMBER, Kind.TEXT)
    what = "dates"
    no_longer = frozenset({Code.TEXT_LIKE_DATES})

    @classmethod
    def of(cls, column: Column, options: SourceOptions) -> "_Dates":
        said = options.date_order or column.conventions.date_order
        return cls(None if said is None else DateOrder(said), column.conventions.day_zero)

    def conventions(self, known: Conventions) -> Conventions:
        return known if self.order is None else replace(known, date_order=self.order)

    def read(self, cells: Sequence[Cell]) -> Said:
        texts = _many_texts(cells)
        if texts is not None:
            return dates_said(texts, self.order)
        if self.day_zero and len(cells) > _FEW and not isinstance(cells[0], str):
            return counted_said(cells, self.day_zero)
        return one_by_one(cells, lambda cell: date_said(cell, self.order, self.day_zero))

    def told(self, given: Iterable[Cell]) -> str:
        """Return what is to be told of numbers that were turned: how the first one was."""
        told = told_of_counted(given, self.day_zero)
        return f", {told}" if told else ""


def _many_texts(cells: Sequence[Cell]) -> Strings | None:
    """Return cells as an array of strings if they are many, all of them such; else None."""
    if len(cells) <= _FEW or isinstance(cells, Strings):
        return cells if isinstance(cells, Strings) and len(cells) > _FEW else None
    texts = [cell for cell in cells if isinstance(cell, str)]
    try:
        return Strings(strings_of(texts)) if len(texts) == len(cells) else None
    except UnicodeEncodeError:  # no file can hold it
        return None


def _read(column: Column, how: _Numbers | _Dates) -> Column:
    """Return the column with the cells of some kinds read, and what is to be told of it."""
    pieces = [
        (kind, keys, codes, how.read(keys))
        for kind in how.kinds
        if kind in column.counts
        for keys, codes in [_values_of(column, kind)]
    ]
    turned, kept = 0, []
    for kind, keys, codes, said in pieces:
        counts = _counts(column, kind, codes, len(keys))
        turned += int(counts[said.turned].sum())
        places = np.flatnonzero(~said.turned & (counts > 0))
        kept.append((int(counts[places].sum()), keys, places))
    shown = [each for *_, said in pieces for each in said.shown]
    notice = _told(column.name, how.what, turned, kept, how.told(shown))
    mixed = _mixed(column.name, shown) if how.what == "numbers" else ()
    offsets = {each for *_, said in pieces for each in said.offsets}
    left = notice.counts["left"]
    known = [each for each in column.notices if left or each.code not in how.no_longer]
    made = with_values(column, [(kind, codes, said.column) for kind, _, codes, said in pieces])
    conventions = how.conventions(column.conventions) if turned else column.conventions
    told = (*known, notice, *mixed, *offset_notices(column.name, offsets), *made.notices)
    return replace(
        made, name=column.name, notices=each_once(told), conventions=conventions,
        trimmed=column.trimmed, shown=column.shown if turned == 0 else "", order=column.order,
    )  # fmt: skip


def _values_of(column: Column, kind: Kind) -> tuple[Sequence[Cell], Array]:
    """Return the values of a kind, texts as they are spelt, and each row's place among them."""
    lane = column.lanes[kind]
    return (lane.spellings, lane.codes) if isinstance(lane, TextLane) else column.values_of(kind)


def _counts(column: Column, kind: Kind, codes: Array, length: int) -> Array:
    """Return how many rows have each of the values of a kind."""
    found = np.zeros(length, dtype=np.int64)
    for rows in spans(column.length, max(BLOCK, length)):
        own = codes[rows]
        if column.states is not None:
            own = own[column.states[rows] == kind]
        found += np.bincount(own, minlength=length)
    return found


def _told(
    name: str, what: str, turned: int, kept: list[tuple[int, Sequence[Cell], Array]], how: str
) -> Notice:
    """Return the notice on what was turned, and what could not be, with the first of it."""
    left = sum(count for count, _, _ in kept)
    text = f"column '{name}' read as {what}: {counted(turned, 'cell')} turned{how}"
    if left:
        texts = all(isinstance(keys[0], str) for count, keys, _ in kept if count)
        first = [keys[int(at)] for _, keys, places in kept for at in places[:_MOST_SHOWN]]
        shown = ", ".join(f"'{as_text(key)}'" for key in first[:_MOST_SHOWN])
        more = sum(len(places) for *_, places in kept) - _MOST_SHOWN
        shown += f" and {counted(more, 'more text' if texts else 'other')}" if more > 0 else ""
        stayed = "text" if texts else "as they were"
        text += f"; {counted(left, 'cell')} cannot be read and stayed {stayed}: {shown}"
    return Notice(Code.READ_AS_SAID, text, {"turned": turned, "left": left})


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
