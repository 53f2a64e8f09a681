"""One sheet of a workbook of ISO/IEC 29500, read in one pass over its XML."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import IO
from xml.etree.ElementTree import Element

from even_sieve.core.errors import SourceError
from even_sieve.sources.areas import corners_of
from even_sieve.sources.limits import Limits
from even_sieve.sources.second import Shared
from even_sieve.sources.sheets import Sheet
from even_sieve.sources.shown_by_source import MERGED
from even_sieve.sources.xlsx_pieces import Piece, PieceReader, begin_pieces
from even_sieve.sources.xlsx_rows import Row
from even_sieve.sources.xlsx_values import Values
from even_sieve.sources.xlsx_xml import Cut, SheetXml

#: So many texts that cells share are sent to another process.
_MOST_SENT = 1 << 19
#: So many merged cells are looked at.
_MOST_MERGED = 1 << 22


@dataclass
class SheetReader:
    """Reads one sheet, of so many bytes; `told` is told how many of them are done."""

    source: str
    values: Values
    limits: Limits
    told: Callable[[int], None]
    size: int = 0

    def read(self, name: str, part: IO[bytes]) -> Sheet:
        """Return the sheet with its marks. Raises `SourceError` for more than a sheet can have."""
        growing = _Growing(self.source, Sheet(name), self.limits)
        in_turn = PieceReader(self.source, name, self.values)
        xml = SheetXml(part, self.told)

        def add(done: Iterator[tuple[Cut | list[Row], Piece | None]]) -> None:
            for piece, made in done:
                growing.add(in_turn.read(piece, growing.row) if made is None else made)

        size = self.size if len(self.values.texts) < _MOST_SENT else 0
        with Shared(begin_pieces, (self.source, name, self.values), size) as work:
            for piece in xml.pieces():
                work.give(piece)
                add(work.ready())
            add(work.ready(every=True))
        sheet = growing.sheet_of(*_filter_rows(xml.rest))
        _take_merged(sheet, xml.rest)
        return sheet


@dataclass
class _Growing:
    """A sheet to which pieces are added in their order; `row` is the last one so far."""

    source: str
    sheet: Sheet
    limits: Limits
    row: int = 0
    cells: int = 0
    hidden: set[int] = field(default_factory=set)
    shared: set[str] = field(default_factory=set)

    def add(self, piece: Piece | None) -> None:
        """Add the next piece. Raises `SourceError` for more than a sheet can have."""
        if piece is None:
            raise ValueError("rows without numbers")
        sheet = self.sheet
        for number, hidden, cells in () if self._at_once(piece) else piece.rows:
            self.row = number
            if hidden:
                self.hidden.add(number)
            if not cells:
                continue
            self.cells += len(cells)
            if self.cells > self.limits.cells or len(cells) > self.limits.columns:
                fact = f"sheet '{sheet.name}' has too many cells"
                raise SourceError(self.source, fact, "", number)
            if number <= len(sheet.rows):
                stands = "after a later one" if number < len(sheet.rows) else "there twice"
                fact = f"sheet '{sheet.name}': row {number} stands {stands}"
                raise SourceError(self.source, fact)
            sheet.rows.extend([] for _ in range(number - 1 - len(sheet.rows)))
            sheet.rows.append(cells)
        for row, columns in piece.subtotals.items():
            sheet.subtotals.setdefault(row, set()).update(columns)
        for row, column, group in piece.asked:
            if group in self.shared:
                sheet.subtotals.setdefault(row, set()).add(column)
        self.shared |= piece.shared
        sheet.shown.take(piece.shown)

    def _at_once(self, piece: Piece) -> bool:
        """Add rows that all hold cells and stand one below the other; False if they do not."""
        first, most = self.row + 1, self.limits
        numbers = [number for number, _, _ in piece.rows]
        rows = [cells for _, _, cells in piece.rows]
        lengths = list(map(len, rows))
        if (
            not lengths or not all(lengths) or numbers != list(range(first, first + len(rows)))
            or max(lengths) > most.columns or self.cells + sum(lengths) > most.cells
        ):  # fmt: skip
            return False
        self.row, self.cells = numbers[-1], self.cells + sum(lengths)
        self.hidden.update(number for number, hidden, _ in piece.rows if hidden)
        rest = self.sheet.rows
        rest.extend([] for _ in range(first - 1 - len(rest)))
        rest.extend(rows)
        return True

    def sheet_of(self, first: int, last: int) -> Sheet:
        """Return the sheet, whose active filter is of the rows from the first to the last."""
        # One flag stands for both: in an active filter's area a hidden row was filtered.
        self.sheet.hidden = self.hidden
        self.sheet.filter_away(first + 1, last)
        return self.sheet


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


def _take_merged(sheet: Sheet, rest: Element | None) -> None:
    """Take in which blank cells are merged into others."""
    blocks = () if rest is None else rest.iterfind("{*}mergeCells/{*}mergeCell")
    corners, looked_at = [corners_of(each.get("ref", "")) for each in blocks], 0
    for _, top, left, bottom, right in filter(None, corners):
        below, wide = min(bottom, len(sheet.rows)), min(right, sheet.used.right)
        for column in range(left, wide + 1):
            begin = top + (column == left)
            looked_at += max(below - begin, 0)
            if looked_at > _MOST_MERGED:
                return
            for number, row in enumerate(sheet.rows[begin - 1 : below], begin):
                if len(row) < column or row[column - 1] is None:
                    sheet.shown.add(column, MERGED, number)
