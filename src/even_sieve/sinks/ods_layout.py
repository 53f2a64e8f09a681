"""How a sheet of ISO/IEC 26300 is laid out: styles of cells, widths of columns, what is printed."""

from typing import Any

from odf.number import (
    CurrencyStyle,
    CurrencySymbol,
    DateStyle,
    Day,
    DayOfWeek,
    Hours,
    Minutes,
    Month,
    Number,
    NumberStyle,
    PercentageStyle,
    Seconds,
    Text,
    Year,
)
from odf.style import (
    ParagraphProperties,
    Style,
    TableCellProperties,
    TableColumnProperties,
    TextProperties,
)
from odf.table import TableCell, TableColumn, TableRow
from openpyxl.utils import get_column_letter

from even_sieve.documents.handout import Shape
from even_sieve.documents.looks import fields_of
from even_sieve.sinks.sheet import Sheet

#: A letter of the usual size is so wide.
_CENTIMETRES = 0.21
_HEAD, _TITLE_SIZE = "#e8edf3", "14pt"


class CellStyles:
    """The styles of cells: how a number or a date is shown, in bold or not; of titles, headers."""

    def __init__(self, document: Any) -> None:
        self._styles = document.automaticstyles
        self._made: dict[tuple[Shape | None, bool], str] = {(None, False): ""}
        self._widths: dict[int, str] = {}
        self._names: list[str] = []

    def of(self, shape: Shape | None, bold: bool) -> str:
        """Return what a cell says of its style."""
        if (shape, bold) not in self._made:
            name = f"{'bold' if bold else 'plain'}-{len(self._made)}"
            more = {} if shape is None else {"datastylename": self._shown(name, shape)}
            style = Style(name=name, family="table-cell", **more)
            if bold:
                style.addElement(TextProperties(fontweight="bold"))
            self._add(style, name)
            self._made[shape, bold] = f' table:style-name="{name}"'
        return self._made[shape, bold]

    @property
    def title(self) -> str:
        """What the cell of a title says of its style."""
        return self._named("title", TextProperties(fontweight="bold", fontsize=_TITLE_SIZE))

    def head(self, right: bool) -> str:
        """Return what the cell of a header says of its style, its text to the right or not."""
        cell = TableCellProperties(backgroundcolor=_HEAD, borderbottom="0.5pt solid #444444")
        side = ParagraphProperties(textalign="end" if right else "start")
        bold = TextProperties(fontweight="bold")
        return self._named("head-right" if right else "head", cell, bold, side)

    def row(self) -> Any:
        """Return a row of cells of every style: those that no element names are not written."""
        row = TableRow()
        row.addElement(TableCell())
        for name in self._names:
            row.addElement(TableCell(stylename=name))
        return row

    def _named(self, name: str, *properties: Any) -> str:
        if name not in self._names:
            style = Style(name=name, family="table-cell")
            for each in properties:
                style.addElement(each)
            self._add(style, name)
        return f' table:style-name="{name}"'

    def _add(self, style: Any, name: str) -> None:
        self._styles.addElement(style)
        self._names.append(name)

    def width(self, letters: int) -> str:
        """Return the name of the style of a column that is so many letters wide."""
        if letters not in self._widths:
            name = f"width-{letters}"
            style = Style(name=name, family="table-column")
            style.addElement(TableColumnProperties(columnwidth=f"{letters * _CENTIMETRES:.2f}cm"))
            self._styles.addElement(style)
            self._widths[letters] = name
        return self._widths[letters]

    def _shown(self, name: str, shape: Shape) -> Any:
        kinds = {"percent": PercentageStyle, "currency": CurrencyStyle, "date": DateStyle}
        style = kinds.get(shape.kind, NumberStyle)(name=f"number-{name}")
        number = Number(
            decimalplaces=shape.decimals, minintegerdigits=1,
            grouping="true" if shape.grouped and shape.kind != "percent" else "false",
        )  # fmt: skip
        if shape.kind == "date":
            for part in _date_parts(shape.code):
                style.addElement(part)
        elif shape.kind == "currency":
            before, _, after = shape.code.partition("{}")
            parts = [*_symbol(before), number, *_symbol(after)]
            for part in parts:
                style.addElement(part)
        else:
            style.addElement(number)
            unit = " %" if shape.kind == "percent" else f" {shape.unit}" if shape.unit else ""
            if unit:
                style.addElement(Text(text=unit))
        self._styles.addElement(style)
        return style


def _symbol(text: str) -> list[Any]:
    """Return a sign of currency with the spaces around it."""
    bare = text.strip()
    if not bare:
        return [Text(text=text)] if text else []
    before, _, after = text.partition(bare)
    spaces = [[Text(text=each)] if each else [] for each in (before, after)]
    return [*spaces[0], CurrencySymbol(text=bare), *spaces[1]]


def _date_parts(pattern: str) -> list[Any]:
    """Return the fields of a date pattern (CLDR) as elements."""
    made: list[Any] = []
    for letter, count, literal in fields_of(pattern):
        length = {"style": "long"} if count > 1 else {}
        if letter in ("M", "L"):
            named = {"textual": "true"} if count > 2 else {}
            made.append(Month(**named, **({"style": "long"} if count in (2, 4) else {})))
        elif letter == "E":
            made.append(DayOfWeek(**({"style": "long"} if count > 3 else {})))
        elif letter in _PARTS:
            made.append(_PARTS[letter](**({"style": "long"} if letter == "y" else length)))
        else:
            made.append(Text(text=literal or letter * count))
    return made


_PARTS = {"y": Year, "d": Day, "H": Hours, "h": Hours, "m": Minutes, "s": Seconds}


def add_columns(table: Any, sheet: Sheet, styles: CellStyles) -> None:
    """Add the columns of a sheet that is laid out for its reader, and say what is printed."""
    if not sheet.is_laid_out:
        return
    names = sheet.table.names
    for name, width in zip(names, sheet.widths, strict=True):
        away = {"visibility": "collapse"} if name in sheet.put_away else {}
        table.addElement(TableColumn(stylename=styles.width(width), **away))
    seen = [name for name in names if name not in sheet.put_away]
    quoted = "'" + sheet.name.replace("'", "''") + "'"
    end = f"{get_column_letter(max(len(seen), 1))}{sheet.last}"
    table.setAttribute("printranges", f"{quoted}.A1:{quoted}.{end}")
