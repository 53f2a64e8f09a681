"""How a sheet of ISO/IEC 29500 is laid out: widths, print, formats of numbers, charts."""

from typing import Any

from openpyxl.chart import BarChart, LineChart, Reference
from openpyxl.chart.data_source import AxDataSource, StrRef
from openpyxl.chart.series import SeriesLabel
from openpyxl.utils import get_column_letter, quote_sheetname

from even_sieve.documents.handout import Shape
from even_sieve.documents.looks import fields_of
from even_sieve.sinks.sheet import Sheet

#: A sheet that is wider in letters is printed on its long side.
_PORTRAIT = 95
_MOST_DRAWN = 400
#: Fields of date patterns (CLDR), and what formats of cells call them.
_FIELDS = {
    "y": "yyyy",
    "M": "m",
    "L": "m",
    "d": "d",
    "E": "ddd",
    "H": "h",
    "h": "h",
    "m": "m",
    "s": "s",
}


def lay_out(sheet: Any, wanted: Sheet) -> None:
    """Set what a sheet of openpyxl has besides its cells."""
    names = wanted.table.names
    sheet.freeze_panes = f"A{wanted.header + 1}"
    for number, (name, width) in enumerate(zip(names, wanted.widths, strict=True), 1):
        column = sheet.column_dimensions[get_column_letter(number)]
        column.width, column.hidden = width, name in wanted.put_away
    if not wanted.is_laid_out:
        return
    seen = [name for name in names if name not in wanted.put_away]
    sheet.print_area = f"A1:{get_column_letter(max(len(seen), 1))}{wanted.last}"
    sheet.print_title_rows = f"{wanted.header}:{wanted.header}"
    sheet.page_setup.orientation = "landscape" if sum(wanted.widths) > _PORTRAIT else "portrait"
    sheet.page_setup.fitToWidth, sheet.page_setup.fitToHeight = 1, 0
    sheet.sheet_properties.pageSetUpPr.fitToPage = True
    sheet.oddFooter.left.text, sheet.oddFooter.right.text = "&A", "&P / &N"
    if wanted.series is not None and 0 < wanted.table.length <= _MOST_DRAWN:
        _draw(sheet, wanted, *wanted.series)


def _draw(sheet: Any, wanted: Sheet, labels: str, values: tuple[str, ...]) -> None:
    """Add a chart beside the table: a line over time, else bars; totals are not drawn.

    Bars that are stacked stand on the first, which is not seen; each of their rows is drawn.
    """
    marks = wanted.table.marks
    rows = wanted.table.length
    while rows and not wanted.stacked and marks is not None and marks[rows - 1]:
        rows -= 1  # totals stand last
    if not rows or not values:
        return
    names, first = wanted.table.names, wanted.header
    chart: Any = LineChart() if wanted.over_time else BarChart()
    if not wanted.over_time:
        chart.type = "bar" if len(values) == 1 else "col"
        if chart.type == "bar":
            chart.y_axis.crosses, chart.x_axis.scaling.orientation = "max", "maxMin"
    place, places = names.index(labels) + 1, [names.index(name) + 1 for name in values]
    if wanted.periods:  # they stand side by side: a line is a row
        for row in range(first + 1, first + rows + 1):
            chart.add_data(Reference(sheet, places[0], row, places[-1]), from_rows=True)
            name = f"{quote_sheetname(wanted.name)}!{get_column_letter(place)}{row}"
            chart.series[-1].tx = SeriesLabel(StrRef(name))
        labelled = Reference(sheet, places[0], first, places[-1])
    else:
        for each in places:
            chart.add_data(Reference(sheet, each, first, each, first + rows), titles_from_data=True)
        labelled = Reference(sheet, place, first + 1, place, first + rows)
    for series in chart.series:  # labels are texts: openpyxl itself would call them numbers
        series.cat = AxDataSource(strRef=StrRef(str(labelled)))
    if wanted.stacked:
        chart.type, chart.grouping, chart.overlap = "bar", "stacked", 100
        chart.y_axis.crosses, chart.x_axis.scaling.orientation = "max", "maxMin"
        unseen = chart.series[0].graphicalProperties
        unseen.noFill = unseen.line.noFill = True
        chart.visible_cells_only = False
    chart.title = wanted.above[0]
    chart.x_axis.delete = chart.y_axis.delete = False
    chart.legend = chart.legend if len(chart.series) > 1 and not wanted.stacked else None
    chart.height = max(7.5, min(1.5 + 0.7 * rows, 20)) if chart.tagname == "barChart" else 7.5
    sheet.add_chart(chart, f"{get_column_letter(len(names) + 2)}{first}")


def format_code(shape: Shape) -> str:
    """Return the format of a cell (ISO/IEC 29500-1, 18.8.30) that shows a value so.

    >>> format_code(Shape("percent", 1)), format_code(Shape("currency", 2, "{} €"))
    ('0.0" "%', '#,##0.00" €"')
    >>> format_code(Shape("date", code="d MMMM y"))
    'd" "mmmm" "yyyy'
    """
    if shape.kind == "date":
        return _date_code(shape.code)
    places = f".{'0' * shape.decimals}" if shape.decimals else ""
    number = f"{'#,##0' if shape.grouped else '0'}{places}"
    if shape.kind == "percent":
        return f'0{places}" "%'
    if shape.kind == "currency":
        before, _, after = shape.code.partition("{}")
        return f"{_literal(before)}{number}{_literal(after)}"
    return number + (_literal(f" {shape.unit}") if shape.unit else "")


def _literal(text: str) -> str:
    return '"' + text.replace('"', "'") + '"' if text else ""


def _date_code(pattern: str) -> str:
    code = ""
    for letter, count, literal in fields_of(pattern):
        if letter in _FIELDS:
            own = _FIELDS[letter]
            code += own if len(own) > 1 and count < 4 else own[0] * count
        elif letter == "a":
            code += "AM/PM"
        else:
            code += _literal(literal or letter * count)
    return code or "yyyy-mm-dd"
