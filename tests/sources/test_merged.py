"""Cells that are merged into others show what they do not hold: told where their column counts."""

import openpyxl
import pytest
from odf.opendocument import OpenDocumentSpreadsheet
from odf.table import CoveredTableCell, Table, TableCell, TableRow
from odf.text import P

from even_sieve import Code, read_table
from even_sieve.sources import ods_pieces
from even_sieve.sources.xml_tags import Strange

ROWS = [["Dues of a quarter", None, None], ["zone", "call", "dues"], ["Outer", 1, 10], [None, 2, 20],
        [None, 3, 30], ["Inner", 4, 40], [None, 5, 50], ["closed", None, None], ["Roads", 6, 60]]  # fmt: skip
BLOCKS = ["A1:C1", "A3:A5", "A6:A7", "A8:C8"]
ZONE = "column 'zone': 3 cells (first row 4) are merged into others and count as blank"
DUES = "column 'dues': 1 cell (row 8) is merged into another and counts as blank"


def as_xlsx(path, blocks):
    book = openpyxl.Workbook()
    for row in ROWS:
        book.active.append(row)
    for block in blocks:
        book.active.merge_cells(block)
    book.save(path)
    return path


def as_ods(path):
    document, table = OpenDocumentSpreadsheet(), Table(name="calls")
    for cells in ROWS:
        row = TableRow()
        for cell in filter(None, cells):
            told = {"valuetype": "float", "value": str(cell)} if cell != str(cell) else {}
            element = TableCell(**told or {"valuetype": "string"})
            element.addElement(P(text=str(cell)))
            row.addElement(element)
        if cells[0] is None:
            row.insertBefore(CoveredTableCell(), row.firstChild)
        if cells[1] is None:
            row.addElement(CoveredTableCell(numbercolumnsrepeated=2))
        table.addElement(row)
    document.spreadsheet.addElement(table)
    document.save(str(path))
    return path


def merged(table, *asked, **more) -> list[str]:
    found = table.tally(*asked, **more).notices
    return [each.text for each in found if each.code is Code.MERGED_CELLS]


def give_up(*given):
    raise Strange


@pytest.mark.parametrize("way", ["xlsx", "ods", "ods row by row"])
def test_merged_cells_of_the_columns_that_are_asked_are_told(way, tmp_path, monkeypatch):
    if way == "ods row by row":
        monkeypatch.setattr(ods_pieces, "cells_of", give_up)
    path = tmp_path / f"calls.{way.split()[0]}"
    table = read_table(as_xlsx(path, BLOCKS) if way == "xlsx" else as_ods(path))
    assert table.tally("sum of dues", where="zone = Outer")[0].value == 10
    assert merged(table, "sum of dues", where="zone = Outer") == [DUES, ZONE]
    assert merged(table, "sum of dues") == [DUES]
    assert merged(table, "rows") == []


@pytest.mark.parametrize("block", ["A1:C1", "E3:F9", "A3:A3", "XFA1:XFD1048576", "A10:C99"])
def test_merged_cells_outside_of_the_rows_are_not_told(block, tmp_path):
    table = read_table(as_xlsx(tmp_path / "calls.xlsx", [block]), header=2)
    assert merged(table, "sum of dues", "filled of zone", "sum of call") == []


def test_a_merged_cell_that_holds_something_counts_as_that(tmp_path):
    book = openpyxl.load_workbook(as_xlsx(tmp_path / "calls.xlsx", []))
    book.active["A4"] = "East"
    book.active.merged_cells.add("A3:A5")
    book.save(tmp_path / "calls.xlsx")
    told = "column 'zone': 1 cell (row 5) is merged into another and counts as blank"
    assert merged(read_table(tmp_path / "calls.xlsx"), "filled of zone") == [told]
