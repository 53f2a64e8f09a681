"""One sheet of a workbook of ISO/IEC 29500, read in one pass over its XML.

Rows are cut out of the XML a few megabytes at a time and parsed together, in compiled code; an
XML that cannot be cut so (another encoding, no rows) is parsed as a whole.
"""

import re
from collections.abc import Callable, Iterator, Sequence, Set
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta
from typing import IO
from xml.etree.ElementTree import Element, fromstring

from even_sieve.core.cells import Cell, CellError, error_from_token, read_date
from even_sieve.core.cells.dates import datetime_from_micros
from even_sieve.core.errors import SourceError
from even_sieve.sources.sheets import (
    NO_RESULT,
    Sheet,
    column_number,
    day_or_moment,
    is_subtotalling,
)
from even_sieve.sources.source_options import Limits

_PIECE = 1 << 22
_LONGEST_HEAD = 1 << 24
_DATA = re.compile(rb"<((?:[\w.-]+:)?)sheetData(?:\s[^>]*)?(?<!/)>")
_ROOT = re.compile(rb"<(?:[\w.-]+:)?worksheet(?:\s[^>]*)?>")
_OTHER_ENCODING = re.compile(rb"<\?xml[^>]*encoding=[\"'](?!utf-?8)", re.IGNORECASE)
_PLACE = re.compile(r"([A-Za-z]{1,3})(\d+)\Z")
_LAST_ROW, _LAST_COLUMN = 1_048_576, 16_384
_SECONDS = 86_400
_NO_DAY, _FIRST_YEAR = 60, 1900


@dataclass(frozen=True)
class Values:
    """What the cells of all sheets refer to: texts, and which styles show dates or lengths.

    `epoch` is day 0 of the dates that are stored as numbers of days.
    """

    texts: Sequence[str]
    dates: Set[int]
    lengths: Set[int]
    epoch: datetime


@dataclass
class SheetReader:
    """Reads one sheet; `told` is told how many bytes of its XML are done."""

    source: str
    values: Values
    limits: Limits
    told: Callable[[int], None]
    row: int = 0
    shared: set[str] = field(default_factory=set)
    columns: dict[str, int] = field(default_factory=dict)

    def read(self, name: str, part: IO[bytes]) -> Sheet:
        """Return the sheet with its marks. Raises `SourceError` for more than a sheet can have."""
        sheet = Sheet(name)
        xml = _SheetXml(part, self.told)
        hidden: set[int] = set()
        count = 0
        for element in xml.rows():
            self.row = _row_number(element.get("r"), self.row + 1)
            if self.row > _LAST_ROW:
                fact = f"sheet '{name}': row {self.row:,} is beyond the last one, {_LAST_ROW:,}"
                raise SourceError(self.source, fact, "Save the file again")
            if element.get("hidden") in ("1", "true"):
                hidden.add(self.row)
            cells = self._cells(element, sheet)
            while cells and cells[-1] is None:
                cells.pop()
            if not cells:
                continue
            count += len(cells)
            if count > self.limits.cells or len(cells) > self.limits.columns:
                raise SourceError(self.source, f"sheet '{name}' has too many cells", "", self.row)
            if self.row <= len(sheet.rows):
                raise SourceError(self.source, f"sheet '{name}': row {self.row} stands there twice")
            sheet.rows.extend([] for _ in range(self.row - 1 - len(sheet.rows)))
            sheet.rows.append(cells)
        first, last = _filter_rows(xml.rest)
        # One flag stands for both: in an active filter's area a hidden row was filtered.
        sheet.filtered = {row for row in hidden if first < row <= last}
        sheet.hidden = hidden - sheet.filtered
        return sheet

    def _cells(self, row: Element, sheet: Sheet) -> list[Cell]:
        cells: list[Cell] = []
        column = 0
        for element in row:
            if element.tag[-2:] != "}c":
                continue
            place = element.get("r")
            column = column + 1 if place is None else self._column(place)
            kind = element.get("t")
            value, formula = None, None
            for child in element:
                tag = child.tag[-2:]
                if tag == "}v":
                    value = child.text
                elif tag == "}f":
                    formula = child
                elif child.tag[-3:] == "}is" and kind == "inlineStr":
                    value = text_of(child)
            if formula is not None:
                if self._subtotals(formula, column):
                    sheet.subtotals.setdefault(self.row, set()).add(column)
                cell = NO_RESULT if value is None else self._value(value, kind, element)
            elif value is None:
                continue
            else:
                cell = self._value(value, kind, element)
            missing = column - 1 - len(cells)
            if missing > 0:
                cells.extend([None] * missing)
            if missing < 0:
                cells[column - 1] = cell
            else:
                cells.append(cell)
        return cells

    def _column(self, place: str) -> int:
        """Return the column of a place such as `AB12`."""
        letters = place.rstrip("0123456789")
        found = self.columns.get(letters)
        if found is None:
            if not _PLACE.match(place):
                raise SourceError(
                    self.source, f"a cell stands at '{place[:20]}', which is no place"
                )
            found = self.columns[letters] = column_number(letters)
        if found > _LAST_COLUMN:
            raise SourceError(self.source, f"column {letters} is beyond the last one, XFD")
        return found

    def _value(self, text: str, kind: str | None, element: Element) -> Cell:
        """Return the cell that a stored value is."""
        if kind is None or kind == "n":
            style = int(element.get("s", 0))
            number = float(text) if "." in text or "E" in text or "e" in text else int(text)
            return self._dated(number, style) if style in self.values.dates else number
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

    def _subtotals(self, formula: Element, column: int) -> bool:
        """Tell whether a formula subtotals, by itself or by one that it shares with another."""
        shared = formula.get("si") if formula.get("t") == "shared" else None
        if not formula.text:
            return shared in self.shared
        if not is_subtotalling(formula.text, self.row, column):
            return False
        if shared is not None:
            self.shared.add(shared)
        return True


def moment_of(number: float, epoch: datetime) -> date | str:
    """Return the day or moment that a number of days is, or the time of a day for less than one.

    To the millisecond, as the standard stores them (ISO/IEC 29500-1, 18.17.4). The dates that
    begin in 1900 count a 29 February 1900, which was none: the days before it stand one later.

    >>> moment_of(47853.5, datetime(1899, 12, 30)), moment_of(1, datetime(1899, 12, 30))
    (datetime.datetime(2031, 1, 5, 12, 0), datetime.date(1900, 1, 1))
    """
    day, part = divmod(number, 1)
    clock = timedelta(milliseconds=round(part * _SECONDS * 1000))
    if 0 <= number < 1 and not clock.days:
        return str((datetime.min + clock).time())
    if 0 < number < _NO_DAY and epoch.year < _FIRST_YEAR:
        day += 1
    return day_or_moment(epoch + timedelta(days=day) + clock)


def _row_number(given: str | None, following: int) -> int:
    return following if given is None else int(float(given))


def text_of(element: Element) -> str:
    """Return the text of a shared or inline string: its runs together, without their readings."""
    if len(element) == 1 and element[0].tag[-2:] == "}t":
        return element[0].text or ""
    return "".join(
        part.text or ""
        for child in element
        if child.tag[-4:] != "}rPh"
        for part in ([child] if child.tag[-2:] == "}t" else child)
        if part.tag[-2:] == "}t"
    )


def _filter_rows(rest: Element | None) -> tuple[int, int]:
    """Return the first and last row of an active filter's area; none if there is none."""
    for element in () if rest is None else rest:
        if element.tag.endswith("}autoFilter") and len(element):
            numbers = [
                "".join(filter(str.isdigit, end)) for end in element.get("ref", "").split(":")
            ]
            if all(numbers):
                return int(numbers[0]), int(numbers[-1])
    return 0, -1


class _SheetXml:
    """The XML of a sheet: its rows one after the other; then `rest`, all but the rows."""

    def __init__(self, part: IO[bytes], told: Callable[[int], None]) -> None:
        self._part, self._told, self._done = part, told, 0
        self.rest: Element | None = None

    def _more(self) -> bytes:
        piece = self._part.read(_PIECE)
        self._done += len(piece)
        self._told(self._done)
        return piece

    def rows(self) -> Iterator[Element]:
        """Yield the elements of rows."""
        head, found = self._more(), None
        while (found := _DATA.search(head)) is None and len(head) < _LONGEST_HEAD:
            piece = self._more()
            if not piece:
                break
            head += piece
        opening = _ROOT.search(head)
        if found is None or opening is None or _OTHER_ENCODING.search(head[:200]):
            yield from self._whole(head)
        else:
            yield from self._in_pieces(head, found, opening[0])

    def _whole(self, head: bytes) -> Iterator[Element]:
        pieces = [head]
        while piece := self._more():
            pieces.append(piece)
        self.rest = fromstring(b"".join(pieces))
        for element in self.rest:
            if element.tag.endswith("}sheetData"):
                yield from element

    def _in_pieces(self, head: bytes, found: re.Match[bytes], opening: bytes) -> Iterator[Element]:
        prefix = found[1]
        row_ends, data_ends = b"</" + prefix + b"row>", b"</" + prefix + b"sheetData>"
        closing = b"</" + opening[1:].split(None, 1)[0].rstrip(b">") + b">"
        rest = head[found.end() :]
        while True:
            stop = rest.find(data_ends)
            cut = stop if stop >= 0 else rest.rfind(row_ends) + len(row_ends)
            if stop >= 0 or cut >= len(row_ends):
                for element in fromstring(opening + rest[:cut] + closing):
                    if element.tag.endswith("}row"):
                        yield element
                rest = rest[cut:]
            if stop >= 0:
                break
            piece = self._more()
            if not piece:
                raise ValueError("the sheet breaks off")
            rest += piece
        while piece := self._more():
            rest += piece
        self.rest = fromstring(head[: found.end()] + rest)
