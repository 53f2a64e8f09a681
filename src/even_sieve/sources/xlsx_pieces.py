"""Pieces of a sheet of a workbook of ISO/IEC 29500: the cells of their rows, each by itself."""

import re
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from datetime import datetime, timedelta

import numpy as np
from pyarrow import ArrowInvalid

from even_sieve.core.cells import Cell, CellError, error_from_token, read_date
from even_sieve.core.cells.dates import datetime_from_micros
from even_sieve.core.errors import SourceError
from even_sieve.sources.areas import column_number
from even_sieve.sources.made_cells import cell_of
from even_sieve.sources.sheets import (
    NO_RESULT,
    day_or_moment,
)
from even_sieve.sources.shown_by_source import ShownRuns
from even_sieve.sources.subtotals import is_subtotalling
from even_sieve.sources.xlsx_at_once import cells_of
from even_sieve.sources.xlsx_made import Made
from even_sieve.sources.xlsx_rows import Row
from even_sieve.sources.xlsx_values import Values, moment_of, number_of, spelt_out
from even_sieve.sources.xlsx_xml import Cut
from even_sieve.sources.xml_tags import Strange, demand

_LETTERS = re.compile(r"[A-Za-z]{1,3}\Z")
_LAST_ROW, _LAST_COLUMN = 1_048_576, 16_384
_SECONDS = 86_400
_PLAIN_DATE = re.compile(r"[0-9]{4}-[0-9]{2}-[0-9]{2}(?:[T ][0-9]{2}:[0-9]{2}:[0-9]{2})?\Z")
#: So many dates are kept as they are written: most come again.
_MOST_MOMENTS = 1 << 15
_FLAGS = {"1": True, "true": True, "0": False, "false": False}


@dataclass
class Piece:
    """Some rows of a sheet: their numbers, whether they are hidden, their cells.

    `subtotals` and `shown` are as those of a sheet. `shared` are the groups of formulas that
    subtotal, `asked` cells (row, column) of groups that began in a piece before.
    """

    rows: list[tuple[int, bool, list[Cell]]] = field(default_factory=list)
    subtotals: dict[int, set[int]] = field(default_factory=dict)
    shown: ShownRuns = field(default_factory=ShownRuns)
    shared: set[str] = field(default_factory=set)
    asked: list[tuple[int, int, str]] = field(default_factory=list)


@dataclass
class PieceReader:
    """Reads pieces of a sheet, each by itself."""

    source: str
    name: str
    values: Values
    row: int = 0
    columns: dict[str, int] = field(default_factory=dict)
    moments: dict[tuple[str, str], Cell] = field(default_factory=dict)
    dates: frozenset[str] = frozenset()
    looks: dict[str, str] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.dates = frozenset(map(str, self.values.dates))
        self.looks = {str(style): look for style, look in self.values.looks.items()}

    def read(self, piece: Cut | list[Row], before: int | None = None) -> Piece | None:
        """Return what a piece holds, the number of the row before it given.

        Without that it is None where a row does not say its own. Raises `SourceError` for more
        than a sheet can have.
        """
        if before is None and isinstance(piece, Cut) and not piece.says_numbers:
            return None
        if isinstance(piece, Cut) and piece.plain is not None:
            with suppress(Strange, ArrowInvalid, ValueError, OverflowError, SourceError):
                return self._at_once(piece.plain, before or 0)
        found, number = Piece(), before
        for row in piece if isinstance(piece, list) else piece.rows():
            if row.place is None and number is None:
                return None
            number = self.row = _row_number(row.place, (number or 0) + 1)
            if number > _LAST_ROW:
                fact = f"sheet '{self.name}': row {number:,} is beyond the last one, {_LAST_ROW:,}"
                raise SourceError(self.source, fact, "Save the file again")
            try:
                cells = self._cells(row, found)
            except ValueError as error:
                fact = f"sheet '{self.name}': a cell cannot be read: {error}"
                raise SourceError(self.source, fact, "", number) from None
            while cells and cells[-1] is None:
                cells.pop()
            found.rows.append((number, row.hidden, cells))
        return found

    def _at_once(self, content: bytes, before: int) -> Piece:
        """Return what a piece holds whose cells are written in a usual way."""
        cells = cells_of(content)
        made, found = Made(cells, self.values, self._value), Piece()
        said = cells.rows.numbers
        # Rows that do not say their number stand below the one before.
        last = np.maximum.accumulate(np.where(said > 0, np.arange(len(said)), -1))
        numbers = np.arange(len(said)) - last + np.where(last < 0, before, said[last])
        demand((numbers <= _LAST_ROW) & (cells.column.max(initial=0) <= _LAST_COLUMN))
        found.rows = list(zip(numbers.tolist(), cells.rows.hidden, made.rows(), strict=True))
        for run in made.looks(numbers):
            found.shown.add(*run)
        for place, column, shared, words in made.formulas():
            self.row = int(numbers[place])
            if self._subtotals(words, shared, column, found):
                found.subtotals.setdefault(self.row, set()).add(column)
        return found

    def _cells(self, row: Row, sheet: Piece) -> list[Cell]:
        cells: list[Cell] = []
        columns, looks, dates = self.columns, self.looks, self.dates
        column = 0
        for letters, style, kind, formula, shared, words, value, inline, _ in row.cells:
            if not letters:
                column += 1
            elif letters in columns:
                column = columns[letters]
            else:
                column = self._column(letters)
            text = value or (inline if kind == "inlineStr" else "")
            if formula:
                if self._subtotals(words, shared, column, sheet):
                    sheet.subtotals.setdefault(self.row, set()).add(column)
                cell = self._value(text, kind, style) if text else NO_RESULT
                if text and style in looks and kind in ("", "n"):
                    sheet.shown.add(column, self.looks[style], self.row)
            elif not text:
                continue
            elif style in looks and kind in ("", "n"):
                sheet.shown.add(column, self.looks[style], self.row)
                cell = self._value(text, kind, style)
            elif not kind and style not in dates:
                cell = number_of(text)
            elif kind == "inlineStr":
                cell = cell_of(spelt_out(text))
            elif not kind and (text, style) in self.moments:
                cell = self.moments[text, style]
            else:
                cell = self._value(text, kind, style)
            if column > len(cells):
                if column - 1 > len(cells):
                    cells.extend([None] * (column - 1 - len(cells)))
                cells.append(cell)
            elif cells[column - 1] is None:
                cells[column - 1] = cell
            else:
                raise ValueError(f"column {letters or column} stands there twice")
        return cells

    def _column(self, letters: str) -> int:
        """Return the column of letters such as `AB`."""
        if not _LETTERS.match(letters):
            fact = f"a cell stands at '{letters[:20].strip()}', which is no place"
            raise SourceError(self.source, fact, "", self.row)
        found = column_number(letters)
        if found > _LAST_COLUMN:
            raise SourceError(self.source, f"column {letters} is beyond the last one, XFD")
        self.columns[letters] = found
        return found

    def _value(self, text: str, kind: str, style: str) -> Cell:
        """Return the cell that a stored value is."""
        if not kind or kind == "n":
            number = number_of(text)
            if style not in self.dates:
                return number
            if len(self.moments) >= _MOST_MOMENTS:
                self.moments.clear()
            found = self.moments[text, style] = self._dated(number, int(style))
            return found
        if kind == "s":
            number = int(text)
            if not 0 <= number < len(self.values.texts):
                fact = f"a cell asks for the shared text {number:,}, and there are "
                raise SourceError(self.source, f"{fact}{len(self.values.texts):,}", "", self.row)
            return self.values.texts[number].strip() or None
        if kind == "b":
            return _yes_no(text.strip())
        if kind == "e":
            return error_from_token(text) or CellError(text, "the cell holds an error")
        if kind == "d":
            return _iso_date(text)
        return cell_of(spelt_out(text))

    def _dated(self, number: float, style: int) -> Cell:
        try:
            if style in self.values.lengths:
                return str(timedelta(seconds=round(number * _SECONDS, 3)))
            return moment_of(number, self.values.epoch)
        except (OverflowError, ValueError):
            return CellError("#VALUE!", f"{number} is no date of the calendar")

    def _subtotals(self, formula: str, shared: str, column: int, piece: Piece) -> bool:
        """Tell whether a formula subtotals, by itself or by one that it shares with another."""
        if not formula:
            if shared and shared not in piece.shared:
                piece.asked.append((self.row, column, shared))
            return shared in piece.shared
        if not is_subtotalling(formula, self.row, column):
            return False
        if shared:
            piece.shared.add(shared)
        return True


def _yes_no(text: str) -> bool:
    """Return what a flag of XML says (XML Schema 2, 3.2.2). Raises `ValueError`."""
    if text not in _FLAGS:
        raise ValueError(f"'{text[:40]}' is neither 1 nor 0")
    return _FLAGS[text]


def _iso_date(text: str) -> Cell:
    """Return the date of a text of ISO 8601; one with an offset keeps it, so that it is told."""
    with suppress(ValueError):
        if _PLAIN_DATE.match(text):  # as most are
            return day_or_moment(datetime.fromisoformat(text))
        if read_date(text) is not None and (at := datetime.fromisoformat(text)).tzinfo:
            return at
    moment = read_date(text)
    return text if moment is None else day_or_moment(datetime_from_micros(moment.micros))


def begin_pieces(
    source: str, name: str, values: Values
) -> Callable[[Cut | list[Row]], Piece | None]:
    """Return what reads pieces of a sheet, here or in another process."""
    return PieceReader(source, name, values).read


def _row_number(given: str | None, following: int) -> int:
    if given is None:
        return following
    return int(given) if given.isdecimal() else int(float(given))
