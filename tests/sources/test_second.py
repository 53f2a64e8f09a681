"""Pieces of a sheet that a second process reads: the same as without it, whatever becomes of it."""

import os
import signal

import pytest
import test_ods_rows
import test_xlsx_sheet

from even_sieve.sources import ods, second, xlsx_xml

CELL = '<c r="A{0}" s="{1}"><v>{0}</v></c><c r="B{0}" t="inlineStr"><is><t>zone {0}</t></is></c>'
ROWS = [f'<row r="{n}" hidden="{n % 7 == 0:d}">{CELL.format(n, n % 3)}</row>' for n in range(1, 90)]
SUBTOTAL = '<c r="C{0}"><f t="shared" ref="C2:C9" si="0">SUBTOTAL(9,A1:A2)</f><v>3</v></c>'
LATER = '<c r="C{0}"><f t="shared" si="0"/><v>3</v></c>'


def with_formulas(rows):
    made = list(rows)
    made[1] = made[1].replace("</row>", f"{SUBTOTAL.format(2)}</row>")
    made[70] = made[70].replace("</row>", f"{LATER.format(71)}</row>")
    return made


SHEETS = {
    "plain": ROWS,
    "formulas that begin in another piece": with_formulas(ROWS),
    "rows without numbers": [*ROWS[:40], *(row.replace("row r=", "row ht=") for row in ROWS[40:])],
    "a row that stands twice": [*ROWS, ROWS[3]],
    "no number": [*ROWS[:60], '<row r="61"><c r="A61"><v>x</v></c></row>', *ROWS[61:]],
    "no place": [*ROWS[:60], '<row r="61"><c r="?"><v>1</v></c></row>', *ROWS[61:]],
}


@pytest.fixture(params=["works", "is killed", "cannot be begun"])
def other(request, monkeypatch):
    monkeypatch.setattr(second, "_LONG", 0)
    monkeypatch.setattr(second, "cpu_count", lambda: 2)
    given, submit = [], second._Other.submit

    def watched(self, piece):
        given.append(submit(self, piece))
        if request.param == "is killed":
            os.kill(self._process.pid, signal.SIGKILL)
        return given[-1]

    monkeypatch.setattr(second._Other, "submit", watched)
    if request.param == "cannot be begun":
        monkeypatch.setattr(second.sys, "executable", "/nowhere/python")
    yield
    there = [each.exception() is None for each in given]
    assert any(there) == (request.param == "works")


def told_of_xlsx(rows):
    try:
        found = test_xlsx_sheet.read(test_xlsx_sheet.sheet("".join(rows)))
    except Exception as error:
        return type(error).__name__, str(error)
    return found.rows, found.hidden, found.subtotals, found.shown._runs


@pytest.mark.parametrize("name", SHEETS)
def test_a_sheet_is_read_alike_by_two(name, other, monkeypatch):
    with monkeypatch.context() as alone:
        alone.setattr(second, "_LONG", 1 << 24)
        wanted = told_of_xlsx(SHEETS[name])
    monkeypatch.setattr(xlsx_xml, "PIECE", 900)
    assert told_of_xlsx(SHEETS[name]) == wanted


def test_a_document_is_read_alike_by_two(other, monkeypatch):
    parts = [each for each in test_ods_rows.AMONG if "<!" not in each]
    content = test_ods_rows.packed("".join(parts * 3))
    with monkeypatch.context() as alone:
        alone.setattr(second, "_LONG", 1 << 24)
        wanted = test_ods_rows.told(content)
    monkeypatch.setattr(ods, "PIECE", 900)
    assert isinstance(wanted, list)
    assert test_ods_rows.told(content) == wanted
