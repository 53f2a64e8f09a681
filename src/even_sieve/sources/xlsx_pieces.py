"""Pieces of a sheet of a workbook of ISO/IEC 29500: the cells of their rows, each by itself."""

import re
from collections.abc import Callable, Mapping, Sequence, Set
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta
from sys import intern

from even_sieve.core.cells import Cell, CellError, error_from_token, read_date
from even_sieve.core.cells.dates import datetime_from_micros
from even_sieve.core.errors import SourceError
from even_sieve.sources.sheets import (
    NO_RESULT,
    column_number,
    day_or_moment,
    is_subtotalling,
)
from even_sieve.sources.shown_by_source import ShownRuns
from even_sieve.sources.xlsx_rows import Cut, Row

_LETTERS = re.compile(r"[A-Za-z]{1,3}\Z")
_LAST_ROW, _LAST_COLUMN = 1_048_576, 16_384
_SECONDS = 86_400
_NO_DAY, _FIRST_YEAR = 60, 1900
#: So many dates are kept as they are written: most come again.
_MOST_MOMENTS = 1 << 15


@dataclass(frozen=True)
class Values:
    """What the cells of all sheets refer to: texts, and which styles show dates or lengths,
    and which a number as percent or in a currency.

    `epoch` is day 0 of the dates that are stored as numbers of days.
    """

    texts: Sequence[str]
    dates: Set[int]
    lengths: Set[int]
    epoch: datetime
    looks: Mapping[int, str] = field(default_factory=dict)


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
        found, number = Piece(), before
        for row in piece if isinstance(piece, list) else piece.rows():
            if row.place is None and number is None:
                return None
            number = self.row = _row_number(row.place, (number or 0) + 1)
            if number > _LAST_ROW:
                fact = f"sheet '{self.name}': row {number:,} is beyond the last one, {_LAST_ROW:,}"
                raise SourceError(self.source, fact, "Save the file again")
            cells = self._cells(row, found)
            while cells and cells[-1] is None:
                cells.pop()
            found.rows.append((number, row.hidden, cells))
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
                cell = int(text) if text.isdigit() else _number(text)
            elif kind == "inlineStr":
                cell = intern(text.strip()) or None  # one that comes again takes no more memory
            elif not kind and (text, style) in self.moments:
                cell = self.moments[text, style]
            else:
                cell = self._value(text, kind, style)
            if column > len(cells):
                if column - 1 > len(cells):
                    cells.extend([None] * (column - 1 - len(cells)))
                cells.append(cell)
            else:
                cells[column - 1] = cell
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
            number = _number(text)
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
            return bool(int(text))
        if kind == "e":
            return error_from_token(text) or CellError(text, "the cell holds an error")
        if kind == "d":
            moment = read_date(text)
            return text if moment is None else day_or_moment(datetime_from_micros(moment.micros))
        return text.strip() or None

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


def begin_pieces(
    source: str, name: str, values: Values
) -> Callable[[Cut | list[Row]], Piece | None]:
    """Return what reads pieces of a sheet, here or in another process."""
    return PieceReader(source, name, values).read


def _number(text: str) -> int | float:
    return float(text) if "." in text or "E" in text or "e" in text else int(text)


def moment_of(number: float, epoch: datetime) -> date | str:
    """Return the day or moment that a number of days is, or the time of a day for less than one.

    To the millisecond, as the standard stores them (ISO/IEC 29500-1, 18.17.4). The dates that
    begin in 1900 count a 29 February 1900, which was none: the days before it stand one later.

    >>> moment_of(47853.5, datetime(1899, 12, 30)), moment_of(1, datetime(1899, 12, 30))
    (datetime.datetime(2031, 1, 5, 12, 0), datetime.date(1900, 1, 1))
    """
    day, part = divmod(number, 1)
    clock = round(part * _SECONDS * 1000)
    if 0 <= number < 1 and clock < _SECONDS * 1000:
        return str((datetime.min + timedelta(milliseconds=clock)).time())
    if 0 < number < _NO_DAY and epoch.year < _FIRST_YEAR:
        day += 1
    if clock in (0, _SECONDS * 1000):
        return date.fromordinal(epoch.toordinal() + int(day) + (clock > 0))
    return epoch + timedelta(days=day, milliseconds=clock)


def _row_number(given: str | None, following: int) -> int:
    return following if given is None else int(float(given))
