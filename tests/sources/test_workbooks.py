"""Workbooks of both open standards, as several writers make them."""

import re
import zipfile
from datetime import date, datetime
from io import BytesIO

import openpyxl
import pandas as pd
import pytest
import xlsxwriter
from odf.opendocument import OpenDocumentSpreadsheet
from odf.table import Table, TableCell, TableRow, TableRowGroup
from odf.text import P

from demo_workbooks import lines, write_workbooks
from even_sieve import read_criteria, read_parameters, read_table, table_from
from even_sieve.core.cells import CellError
from even_sieve.core.errors import SieveError, SourceError
from even_sieve.demo.make import WORKBOOKS, demo_path, make_calls
from even_sieve.demo.walk import FIVE, HIDDEN, QUESTION, SUBTOTAL, demo_table
from even_sieve.sources import ods, xlsx
from even_sieve.sources.limits import Limits
from even_sieve.sources.source_options import SourceOptions

NO_RESULT = CellError(
    "no result", "the formula has no stored result: open and save the file where it is calculated"
)
ZERO = CellError("#DIV/0!", "division by zero")


def columns(table):
    return {name: table.column(name) for name in table.names}


@pytest.mark.parametrize("name", WORKBOOKS)
def test_the_harbours_workbooks_give_the_figures_of_its_csv_without_marking_by_hand(name):
    plain = demo_table().mark(subtotal=SUBTOTAL, hidden=HIDDEN)
    book = read_table(demo_path(name))
    measures = (*FIVE, "distinct of vessel", "errors of dues", "sum of hours", "max of arrived",
                "filled of remarks", "blanks of departed")  # fmt: skip
    for where in (
        None,
        QUESTION,
        "dues > 500 or dues is error",
        read_criteria(demo_path("wanted.csv")),
    ):
        first, second = plain.tally(*measures, where=where), book.tally(*measures, where=where)
        assert [each.value for each in second] == [each.value for each in first]
        assert [each.account for each in second] == [each.account for each in first]
        shifted = [tuple(row + 2 for row in each.found_at) for each in first]
        assert [each.found_at for each in second] == shifted
    lines_of = [table.tally("rows", "sum of dues", by="zone") for table in (plain, book)]
    assert [line.key for line in lines_of[0]] == [line.key for line in lines_of[1]]


@pytest.mark.parametrize("name", WORKBOOKS)
def test_criteria_stand_in_the_workbook_by_name_or_block(name):
    wanted = read_criteria(demo_path("wanted.csv")).criteria
    for place in ("wanted", "WANTED", "calls!N3:Q5", "calls.$N$3:$Q$5", "N3:Q5"):
        assert read_criteria(f"{demo_path(name)}!{place}").criteria == wanted
    with pytest.raises(
        SourceError, match="no range, table or block 'wantd'\nDid you mean 'wanted'"
    ):
        read_criteria(f"{demo_path(name)}!wantd")


def test_the_workbooks_that_ship_are_what_the_seed_makes(tmp_path):
    write_workbooks(tmp_path)
    for name in (*WORKBOOKS, "months.xlsx!*"):
        made, ships = read_table(tmp_path / name), read_table(demo_path(name))
        assert columns(made) == columns(ships)
        assert made.row_numbers == ships.row_numbers
        assert made.core.marks.tolist() == ships.core.marks.tolist()
    assert sum(line.hidden for line in lines(make_calls())) == 18


def write_xlsxwriter(path):
    """Two sheets; a table, an active filter, formulas with and without results, errors."""
    book = xlsxwriter.Workbook(str(path), {"default_date_format": "yyyy-mm-dd"})
    sheet = book.add_worksheet("calls")
    sheet.write_row(1, 1, ["zone", "dues", "arrived", "paid"])
    rows = [("Outer", 1.5, date(2031, 1, 5), True), ("Inner", "waived", date(2031, 2, 5), False),
            ("Outer", 2, datetime(2031, 3, 5), True)]  # fmt: skip
    for number, row in enumerate(rows, 2):
        sheet.write(number, 1, row[0])
        sheet.write(number, 2, row[1])
        sheet.write_datetime(number, 3, row[2])
        sheet.write_boolean(number, 4, row[3])
    sheet.write(5, 1, "all")
    sheet.write_formula(5, 2, "=SUBTOTAL(109,C3:C5)", None, 3.5)
    sheet.write_formula(6, 2, "=1/0", None, "#DIV/0!")
    sheet.write_formula(7, 2, "=C3*2", None, 3)
    sheet.autofilter(1, 1, 7, 4)
    sheet.filter_column(1, "x == Outer")
    sheet.set_row(3, None, None, {"hidden": True})
    sheet.set_row(9, None, None, {"hidden": True})
    other = book.add_worksheet("tariff")
    other.add_table(3, 0, 5, 1, {"name": "rates", "columns": [{"header": "class"}, {"header": "a ton"}],
                                 "data": [["tanker", 0.11], ["barge", 0.06]]})  # fmt: skip
    other.write_row(0, 4, ["name", "value"])
    other.write_row(1, 4, ["floor", 2])
    other.write(2, 4, "day")
    other.write_datetime(2, 5, datetime(2031, 1, 5))
    book.define_name("values", "=tariff!$E$1:$F$3")
    book.close()


def test_a_workbook_with_a_filter_a_table_and_formulas(tmp_path):
    file = tmp_path / "calls.xlsx"
    write_xlsxwriter(file)
    table = read_table(file)
    assert columns(table) == {
        "zone": ["Outer", "Inner", "Outer", "all", None, None],
        "dues": [1.5, "waived", 2.0, 3.5, ZERO, 3.0],
        "arrived": [date(2031, 1, 5), date(2031, 2, 5), date(2031, 3, 5), None, None, None],
        "paid": [True, False, True, None, None, None],
    }
    assert table.row_numbers == (3, 4, 5, 6, 7, 8)
    found = table.tally("sum of dues")[0]
    assert found.value == 6.5
    assert (found.account.filtered, found.account.subtotal, found.account.error) == (1, 1, 1)
    rates = read_table(file, sheet="tariff")
    assert columns(rates) == {"class": ["tanker", "barge"], "a ton": [0.11, 0.06]}
    assert columns(read_table(file, cells="rates")) == columns(rates)
    assert columns(read_table(file, sheet=2, cells="A4:B5")) == {
        "class": ["tanker"],
        "a ton": [0.11],
    }
    values = read_parameters(f"{file}!values")
    assert (values["floor"].value, values["day"].text) == (2, "2031-01-05")


def test_a_formula_without_a_stored_result_is_an_error_cell_that_says_so(tmp_path):
    book = openpyxl.Workbook()
    for row in (["name", "dues"], ["Heron", 5], ["Eider", "=B2*2"]):
        book.active.append(row)
    book.active.row_dimensions[2].hidden = True
    book.epoch = openpyxl.utils.datetime.CALENDAR_MAC_1904
    book.active["C1"], book.active["C2"] = "arrived", datetime(2031, 1, 5, 10, 30)
    book.save(tmp_path / "calls.xlsx")
    table = read_table(tmp_path / "calls.xlsx")
    assert table.column("dues") == [5, NO_RESULT]
    assert table.column("arrived") == [datetime(2031, 1, 5, 10, 30), None]
    assert table.tally("rows")[0].account.hidden == 1


def ods_with(*rows):
    """An OpenDocument spreadsheet of one sheet with these row elements, as bytes."""
    document, table = OpenDocumentSpreadsheet(), Table(name="calls")
    for row in rows:
        table.addElement(row)
    document.spreadsheet.addElement(table)
    out = BytesIO()
    document.save(out)
    return out.getvalue()


def text(words, **more):
    cell = TableCell(valuetype="string", **more)
    cell.addElement(P(text=words))
    return cell


def row(*cells, **more):
    element = TableRow(**more)
    for cell in cells:
        element.addElement(cell)
    return element


def test_repeated_rows_groups_visibility_and_kinds_of_ods():
    group = TableRowGroup()
    group.addElement(row(text("Outer"), TableCell(valuetype="float", value="0.1"),
                         TableCell(valuetype="date", datevalue="2031-01-05T10:30:00"), numberrowsrepeated=2))  # fmt: skip
    content = ods_with(
        row(text("zone"), text("dues"), text("arrived"), TableCell(numbercolumnsrepeated=16000)),
        group,
        row(text("Inner"), TableCell(valuetype="currency", currency="EUR", value="7"), visibility="collapse"),
        row(text("North"), TableCell(valuetype="percentage", value="0.5"), visibility="filter"),
        row(text("Roads"), TableCell(valuetype="boolean", booleanvalue="true")),
        row(text("lost"), text("#N/A", formula="of:=NA()")),
        row(text("plain"), text("#N/A")),
        row(text("open"), TableCell(formula="of:=1+1")),
        row(text("total"), TableCell(valuetype="float", value="7.7", formula="of:=AGGREGATE(9;5;[.B2:.B5])")),
        row(TableCell(numbercolumnsrepeated=1024), numberrowsrepeated=1_048_000),
    )  # fmt: skip
    table = ods.read(content, "calls.ods", SourceOptions())
    assert list(table.column("dues").cells()) == [
        0.1, 0.1, 7.0, 0.5, True, CellError("#N/A", "no value is available, as when a lookup key is not found"),
        "#N/A", NO_RESULT, 7.7,
    ]  # fmt: skip
    assert table.column("arrived").cell(1) == datetime(2031, 1, 5, 10, 30)
    assert table.marks.tolist() == [0, 0, 2, 4, 0, 0, 0, 0, 1]
    assert len(table) == 9


def test_a_header_in_a_blank_row_is_refused():
    content = ods_with(row(text("zone"), text("berth")), row(), row(text("Outer"), text("B1")))
    with pytest.raises(SourceError, match="row 2 is blank: it names no column"):
        ods.read(content, "calls.ods", SourceOptions(header=2))


def test_rows_of_a_group_that_is_folded_away_are_hidden_whatever_they_say():
    def number(value, **more):
        return row(TableCell(valuetype="float", value=str(value)), **more)

    inner, outer, open_ = TableRowGroup(), TableRowGroup(display="false"), TableRowGroup()
    inner.addElement(number(100, visibility="visible"))
    for each in (number(10), inner, number(20, visibility="filter", numberrowsrepeated=2)):
        outer.addElement(each)
    open_.addElement(number(3))
    content = ods_with(row(text("dues")), number(1), outer, number(2), open_)
    table = ods.read(content, "calls.ods", SourceOptions())
    assert list(table.column("dues").cells()) == [1, 10, 100, 20, 20, 2, 3]
    assert table.marks.tolist() == [0, 2, 2, 4, 4, 0, 0]


def test_a_length_of_time_that_is_not_shown_is_said():
    lengths = ["PT14H30M00S", "PT26H30M", "-PT1H", "P1D"]
    cells = [row(text("x"), TableCell(valuetype="time", timevalue=each)) for each in lengths]
    content = ods_with(row(text("zone"), text("open")), *cells)
    table = ods.read(content, "calls.ods", SourceOptions())
    assert list(table.column("open").cells()) == [
        "14:30:00", "1 day, 2:30:00", "-1 day, 23:00:00", "1 day, 0:00:00",
    ]  # fmt: skip


def test_a_cell_at_the_far_corner_of_an_ods_takes_no_more_than_itself():
    between = TableCell(numbercolumnsrepeated=16_383)
    blank = row(TableCell(numbercolumnsrepeated=16_384), numberrowsrepeated=1_048_573)
    far = row(between, TableCell(valuetype="float", value="9"))
    table = ods.read(
        ods_with(row(text("zone"), text("berth")), row(text("Outer"), text("B1")), blank, far),
        "calls.ods",
        SourceOptions(),
    )
    assert list(table.column("zone").cells()) == ["Outer"]
    assert [each.text for each in table.notices] == [
        "XFD1048576 stands outside of the table and was not read; see --cells"
    ]


def test_a_table_on_its_side_and_a_header_that_is_given(tmp_path):
    book = openpyxl.Workbook()
    for line in (["vessel", "Heron", "Eider"], ["dues", 5, 7.5], ["zone", "Outer", None]):
        book.active.append(line)
    other = book.create_sheet("odd")
    for line in ([1, 2], ["a", 3], [None, None], [4, 5]):
        other.append(line)
    book.save(tmp_path / "calls.xlsx")
    table = read_table(tmp_path / "calls.xlsx", sideways=True)
    assert columns(table) == {
        "vessel": ["Heron", "Eider"],
        "dues": [5.0, 7.5],
        "zone": ["Outer", None],
    }
    assert table.row_numbers == (2, 3)
    odd = read_table(tmp_path / "calls.xlsx", sheet="odd", header=1)
    assert columns(odd) == {"1": ["a", None, 4], "2": [3, None, 5]}
    for options, message in (
        ({"sheet": "oddd"}, "no sheet 'oddd'\nDid you mean 'odd'?"),
        ({"sheet": "9"}, "no sheet '9'\nThe sheets are: Sheet, odd"),
        ({"sheet": "odd"}, "no row of names was found on sheet 'odd'"),
        ({"sheet": "odd", "header": 9}, "there is no row 9 to name columns"),
        ({"cells": "A1:C1"}, "there is a header but no row below it"),
    ):
        with pytest.raises(SourceError) as caught:
            read_table(tmp_path / "calls.xlsx", **options)
        assert message in str(caught.value)


def packed(**parts):
    out = BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in parts.items():
            archive.writestr(name.replace("__", "/").replace("_xml", ".xml"), content)
    return out.getvalue()


SPREADSHEET = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
RELATION = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
PACKAGE = "http://schemas.openxmlformats.org/package/2006"
WORKSHEET = "application/vnd.openxmlformats-officedocument.spreadsheetml"


def relations(kind, target):
    return (
        f'<Relationships xmlns="{PACKAGE}/relationships"><Relationship Id="rId1" '
        f'Type="{RELATION}/{kind}" Target="{target}"/></Relationships>'
    )


def words(text):
    return f'<c t="inlineStr"><is><t>{text}</t></is></c>'


@pytest.mark.filterwarnings("ignore:Workbook contains no default style")
def test_an_xlsx_by_hand_without_references_and_with_a_wrong_size():
    sheet = (
        f'<worksheet xmlns="{SPREADSHEET}"><dimension ref="A1"/><sheetData>'
        f'<row>{words("zone")}{words("dues")}<c t="inlineStr"><is><r><t>ar</t></r><r><t>rived</t></r></is></c></row>'
        f'<row>{words("Outer")}<c><v>1.5</v></c><c s="1"><v>46391</v></c></row>'
        f'<row hidden="1">{words("Inner")}<c><v>2</v></c></row>'
        f'<row>{words("Mole")}<c t="e"><v>#DIV/0!</v></c></row>'
        f'<row>{words("all")}<c><f t="shared" ref="B5:B6" si="0">SUBTOTAL(9,B2:B4)</f><v>3.5</v></c></row>'
        f'<row>{words("again")}<c><f t="shared" si="0"/><v>3.5</v></c></row>'
        f"<row>{words('open')}<c><f>1+1</f></c></row></sheetData></worksheet>"
    )
    parts = {
        "[Content_Types].xml": f'<Types xmlns="{PACKAGE}/content-types">'
        '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
        f'<Override PartName="/xl/workbook.xml" ContentType="{WORKSHEET}.sheet.main+xml"/>'
        f'<Override PartName="/xl/styles.xml" ContentType="{WORKSHEET}.styles+xml"/>'
        f'<Override PartName="/xl/worksheets/s.xml" ContentType="{WORKSHEET}.worksheet+xml"/></Types>',
        "_rels/.rels": relations("officeDocument", "xl/workbook.xml"),
        "xl/workbook.xml": f'<workbook xmlns="{SPREADSHEET}" xmlns:r="{RELATION}"><workbookPr date1904="1"/>'
        '<sheets><sheet name="calls" sheetId="1" r:id="rId1"/></sheets></workbook>',
        "xl/_rels/workbook.xml.rels": relations("worksheet", "worksheets/s.xml"),
        "xl/styles.xml": f'<styleSheet xmlns="{SPREADSHEET}"><cellXfs><xf/><xf numFmtId="14"/></cellXfs></styleSheet>',
        "xl/worksheets/s.xml": sheet,
    }
    table = xlsx.read(packed(**parts), "calls.xlsx", SourceOptions())
    assert list(table.column("zone").cells()) == ["Outer", "Inner", "Mole", "all", "again", "open"]
    assert list(table.column("dues").cells()) == [1.5, 2, ZERO, 3.5, 3.5, NO_RESULT]
    assert list(table.column("arrived").cells()) == [date(2031, 1, 5), *[None] * 5]
    assert table.marks.tolist() == [0, 2, 0, 1, 1, 0]


def test_an_ods_by_hand_with_comments_runs_of_spaces_and_covered_cells():
    def cell(kind, inside="", more=""):
        return f'<table:table-cell office:value-type="{kind}" {more}>{inside}</table:table-cell>'

    spaces = "".join(
        f' xmlns:{name}="urn:oasis:names:tc:opendocument:xmlns:{name}:1.0"'
        for name in ("office", "table", "text")
    )
    comment = "<office:annotation><text:p>look here</text:p></office:annotation>"
    rows = (
        (cell("string", "<text:p>zone</text:p>"), cell("string", "<text:p>dues</text:p>")),
        (cell("string", f'{comment}<text:p>Outer<text:s text:c="2"/>mole</text:p>'),
         cell("float", "<text:p>1,50</text:p>", 'office:value="1.50"')),
        (cell("string", "", 'office:string-value="Inner"'),
         cell("string", "<text:p>two</text:p><text:p>lines</text:p>")),
        (cell("string", "<text:p>wide</text:p>", 'table:number-columns-spanned="2"'),
         '<table:covered-table-cell office:value-type="float" office:value="9"/>'),
    )  # fmt: skip
    lines = "".join(f"<table:table-row>{''.join(cells)}</table:table-row>" for cells in rows)
    content = (
        f'<office:document-content{spaces} office:version="1.3"><office:body><office:spreadsheet>'
        f'<table:table table:name="calls">{lines}</table:table>'
        "</office:spreadsheet></office:body></office:document-content>"
    )
    manifest = (
        '<m:manifest xmlns:m="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0"><m:file-entry '
        'm:full-path="/" m:media-type="application/vnd.oasis.opendocument.spreadsheet"/>'
        '<m:file-entry m:full-path="content.xml" m:media-type="text/xml"/></m:manifest>'
    )
    parts = {"content.xml": content, "META-INF/manifest.xml": manifest,
             "mimetype": "application/vnd.oasis.opendocument.spreadsheet"}  # fmt: skip
    table = ods.read(packed(**parts), "calls.ods", SourceOptions())
    assert list(table.column("zone").cells()) == ["Outer  mole", "Inner", "wide"]
    assert list(table.column("dues").cells()) == [1.5, "two\nlines", None]


@pytest.mark.parametrize("ending", ["xlsx", "ods"])
def test_a_workbook_that_pandas_wrote(tmp_path, ending):
    frame = pd.DataFrame({
        "zone": ["Outer", None, "Inner"],
        "dues": [1.5, float("nan"), 2.25],
        "arrived": pd.to_datetime(["2031-01-05 00:00", None, "2031-02-06 10:30"]),
        "paid": [True, False, True],
    })  # fmt: skip
    write = next(getattr(frame, name) for name in dir(frame) if name.startswith("to_ex"))
    write(f"{tmp_path}/calls.{ending}", index=False)
    table = read_table(tmp_path / f"calls.{ending}")
    assert columns(table) == {
        "zone": ["Outer", None, "Inner"],
        "dues": [1.5, None, 2.25],
        "arrived": [datetime(2031, 1, 5), None, datetime(2031, 2, 6, 10, 30)],
        "paid": [True, False, True],
    }
    assert table.tally("sum of dues")[0].value == table_from(frame).tally("sum of dues")[0].value


ENTITIES = (
    '<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;">]><x>&b;</x>'
)
SHEET_OF = (
    '<office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" '
    'xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0"><office:body><office:spreadsheet>'
    '<table:table table:name="a"><table:table-row>{}</table:table-row></table:table>'
    "</office:spreadsheet></office:body></office:document-content>"
)
NAMED = {"[Content_Types]_xml": f'<Types xmlns="{PACKAGE}/content-types"/>'}
HOSTILE = [
    (xlsx, b"PK\x03\x04 broken", "this is no workbook: the archive is broken"),
    (ods, b"a,b\n1,2\n", "this is no workbook, which is a packed file\nIts ending is another file's"),
    (xlsx, packed(content_xml="<x/>"), "this is no ISO/IEC 29500 workbook\nIts ending should be .ods"),
    (ods, packed(xl__workbook_xml="<x/>"), "this is no OpenDocument spreadsheet\nIts ending should be .xlsx"),
    (ods, packed(content_xml=ENTITIES), "the file defines entities, which are not expanded"),
    (xlsx, packed(xl__workbook_xml=ENTITIES, **NAMED), "the file defines entities"),
    (ods, packed(content_xml="<x"), "the file cannot be read"),
    (xlsx, packed(xl__workbook_xml=b"\0" * (1 << 27)), "the file unpacks to 134,217,728 bytes"),
]  # fmt: skip


LOCKED = {"META-INF__manifest_xml": "<manifest><encryption-data/></manifest>"}
LONG = f"<x><t>{'a' * 3_000_000}</t></x>"
HOSTILE += [
    (ods, packed(content_xml=LONG), "a cell has more than 500,000 characters"),
    (xlsx, packed(xl__workbook_xml=LONG, **NAMED), "a cell has more than 500,000"),
    (ods, packed(content_xml=b"\x07\x08", **LOCKED), "the workbook is locked with a password"),
    (xlsx, bytes.fromhex("D0CF11E0A1B11AE1") + bytes(900), "a workbook locked with a password, or of an older format"),
    (ods, packed(content_xml=SHEET_OF.format("<table:table-cell/>" * 20_000)), "sheet 'a' has too many cells"),
]  # fmt: skip


@pytest.mark.parametrize(("module", "content", "message"), HOSTILE)
def test_a_hostile_or_broken_file_is_refused(module, content, message):
    with pytest.raises(SieveError, match=r"calls\.book[,:] ") as caught:
        module.read(content, "calls.book", SourceOptions(limits=Limits(cell=500_000)))
    assert message in str(caught.value)


def test_a_sheet_beyond_the_limits_is_refused():
    wide = ods_with(row(text("a"), text("b", numbercolumnsrepeated=20_000)))
    long = ods_with(row(text("a"), text("b"), numberrowsrepeated=1_000_000))
    for content, limits in ((wide, Limits()), (long, Limits(cells=100_000))):
        with pytest.raises(SourceError, match="sheet 'calls' has too many cells"):
            ods.read(content, "calls.ods", SourceOptions(limits=limits))
    book = BytesIO()
    made = openpyxl.Workbook()
    made.active.append(["a"] * 500)
    made.save(book)
    with pytest.raises(SourceError, match="sheet 'Sheet' has too many cells"):
        xlsx.read(book.getvalue(), "calls.xlsx", SourceOptions(limits=Limits(columns=400)))


def test_a_long_reading_tells_how_far_it_is(tmp_path):
    made, told = openpyxl.Workbook(), []
    made.active.append(["call", "tonnage"])
    for i in range(40):
        made.active.append([f"call {i}", i])
    made.create_sheet("more").append(["a"])
    made.save(tmp_path / "calls.xlsx")
    read_table(tmp_path / "calls.xlsx", progress=told.append)
    assert told == sorted(told)
    assert told[-1] == 1.0
    assert 0 < told[0] < 1


@pytest.mark.parametrize("ending", ["xlsx", "ods"])
def test_rows_that_sum_their_own_columns_come_marked(ending, tmp_path):
    path = tmp_path / f"calls.{ending}"
    if ending == "xlsx":
        book = xlsxwriter.Workbook(path)
        sheet = book.add_worksheet()
        for row, cells in enumerate(
            [["berth", "dues", "both"], ["A", 5, 5], ["B", 7, 7], ["", 12, 12]]
        ):
            sheet.write_row(row, 0, cells)
        sheet.write_formula(1, 2, "=SUM(A2:B2)", None, 5)  # along the row: no total of others
        sheet.write_formula(3, 1, "=SUM(B2:B3)", None, 12)
        sheet.write_formula(3, 2, "=SUM($C$2:$C$3)", None, 12)
        book.close()
    else:
        table_from({"berth": ["A", "B", "x"], "dues": [5, 7, 12], "both": [5, 7, 12]}).write(path)
        content = _with_formula(path.read_bytes(), "of:=SUM([.B2:.B3])")
        path.write_bytes(content)
    found = read_table(path).tally("sum of dues")[0]
    assert (found.value, found.account.subtotal) == (12, 1)


def _with_formula(content, formula):
    out = BytesIO()
    with zipfile.ZipFile(BytesIO(content)) as parts, zipfile.ZipFile(out, "w") as made:
        for name in parts.namelist():
            data = parts.read(name)
            if name == "content.xml":
                text = data.decode()
                at = text.index('office:value="12"')
                data = f'{text[:at]}table:formula="{formula}" {text[at:]}'.encode()
            made.writestr(name, data)
    return out.getvalue()


def test_a_workbook_whose_parts_and_styles_are_written_otherwise(tmp_path):
    path = tmp_path / "calls.xlsx"
    write_xlsxwriter(path)
    plain, out = xlsx.open_workbook(path.read_bytes(), "calls", SourceOptions()), BytesIO()
    with zipfile.ZipFile(path) as parts, zipfile.ZipFile(out, "w") as made:
        for name in parts.namelist():
            text = parts.read(name).decode()
            if name == "xl/styles.xml":
                text = re.sub(r"<fill>.*?</fill>", "<fill/>", text)
                text = re.sub(r"<xf numFmt", '<xf hue="9" numFmt', text)
            text = text.replace("workbook.xml", "book7.xml")
            made.writestr(name.replace("workbook.xml", "book7.xml"), text)
    found = xlsx.open_workbook(out.getvalue(), "calls", SourceOptions())
    assert [sheet.rows for sheet in found.sheets] == [sheet.rows for sheet in plain.sheets]
    assert any(
        isinstance(cell, date) for sheet in found.sheets for row in sheet.rows for cell in row
    )
