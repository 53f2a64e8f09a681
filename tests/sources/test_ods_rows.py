"""Rows of an OpenDocument sheet: the fast way, the parser of pieces and the events tell the same."""

import io
import re
import zipfile

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from even_sieve import Table
from even_sieve.core.errors import SourceError
from even_sieve.sources import ods, ods_rows
from even_sieve.sources.source_options import SourceOptions
from strategies import rows, table_of

NAMES = "".join(
    f' xmlns:{name}="urn:oasis:names:tc:opendocument:xmlns:{name}:1.0"' for name in ("office", "table", "text")
)  # fmt: skip
CALC = ' xmlns:calcext="urn:org:documentfoundation:names:experimental:calc:xmlns:calcext:1.0"'
HEAD = (
    "<table:table-row>"
    + "".join(f"<table:table-cell><text:p>{n}</text:p></table:table-cell>" for n in "ab")
    + "</table:table-row>"
)
ROW = '<table:table-row{0}><table:table-cell office:value-type="float" office:value="{1}"/><table:table-cell office:value-type="string"><text:p>{2}</text:p></table:table-cell></table:table-row>'
#: What may stand among rows.
AMONG = [
    ROW.format("", 5, "x"),
    ROW.format("", "12.50", "a &amp; b &lt;"),
    ROW.format("", "1e3", "a  b\n c\t"),
    ROW.format(' table:number-rows-repeated="3"', 7, "Ö"),
    ROW.format(' table:visibility="collapse"', 1, "hidden"),
    ROW.format(' table:style-name="r" table:visibility="filter"', 2, "filtered"),
    '<table:table-row table:number-rows-repeated="4"><table:table-cell table:number-columns-repeated="9"/></table:table-row>',
    '<table:table-row table:number-rows-repeated="2"/>',
    "<table:table-row-group>" + ROW.format("", 8, "g") + "</table:table-row-group>",
    "<!-- " + ROW.format("", 99, "comment") + " -->",
    ROW.format("", 3, "<![CDATA[<table:table-row>]]>"),
    ROW.format("", 3, "a<text:s text:c='3'/>b<text:line-break/>c"),
    ROW.format("", 4, "&#233;"),
    '<table:table-row><table:covered-table-cell/><table:table-cell office:value-type="date" office:date-value="2031-04-01"/></table:table-row>',
    '<table:table-row><table:table-cell office:value="6" office:value-type="float"/><table:table-cell office:value-type="percentage" office:value="0.5"><text:p>50 %</text:p></table:table-cell></table:table-row>',
    '<table:table-row><table:table-cell table:formula="of:=SUBTOTAL(9;[.A1:.A2])" office:value-type="float" office:value="9"><text:p>9</text:p></table:table-cell></table:table-row>',
    '<table:table-row><table:table-cell table:formula="of:=1/0" office:value-type="string" office:string-value="" calcext:value-type="error"><text:p>#DIV/0!</text:p></table:table-cell></table:table-row>',
    '<table:table-row><table:table-cell office:value-type="boolean" office:boolean-value="true"/><table:table-cell office:value-type="string" office:string-value="only here"/></table:table-row>',
    '<table:table-row><table:table-cell><table:table table:name="in">' + ROW.format("", 11, "inside") + "</table:table></table:table-cell></table:table-row>",
    '<table:table-row><table:table-cell calcext:value-type="float" office:value="3.25" office:currency="EUR" table:style-name="c" office:value-type="currency" xml:id="q"><text:p>3,25 €</text:p></table:table-cell></table:table-row>',
    '<table:table-row><table:table-cell office:string-value="a &quot;b&quot; &amp;" table:content-validation-name="v" office:value-type="string" table:number-columns-repeated="2"/></table:table-row>',
    '<table:table-row><table:table-cell office:value="4" office:value-type="float" /> <table:table-cell office:value-type="percentage" office:value=".5" table:style-name="p"/></table:table-row>',
    '<table:table-row><table:table-cell table:style-name="x" office:date-value="2031-05-01" office:value="7" office:value-type="date"><text:p>1 May</text:p></table:table-cell></table:table-row>',
    "\n  " + ROW.format("", 10, "y").replace("><table", ">\n <table") + "\n",
    "</table:table><table:table table:name='two'>" + HEAD,
]  # fmt: skip


def packed(body):
    content = f"<?xml version='1.0'?><office:document-content{NAMES}{CALC}><office:body><office:spreadsheet><table:table table:name='a'>{HEAD}{body}</table:table></office:spreadsheet></office:body></office:document-content>"
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as parts:
        parts.writestr("content.xml", content)
    return out.getvalue()


def told(content):
    try:
        book = ods.open_workbook(content, "calls.ods", SourceOptions())
    except SourceError as error:
        return str(error)
    return [
        (sheet.name, sheet.rows, sheet.hidden, sheet.filtered, sheet.subtotals, sheet.shown._runs)
        for sheet in book.sheets
    ]


def three_ways(content, piece=1 << 21):
    """What the fast way tells, what the parser of pieces tells, and what all events tell."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(ods, "PIECE", piece)  # what is unpacked at once
        fast = told(content)
        patch.setattr(ods_rows, "plain_rows", lambda *_: None)
        parsed = told(content)
        patch.setattr(ods_rows, "_BEGIN", re.compile(rb"(?!)"))
        return fast, parsed, told(content)


@settings(max_examples=150, deadline=None)
@given(st.lists(st.sampled_from(AMONG), max_size=6), st.sampled_from([40, 300, 1 << 21]))
def test_whatever_stands_among_rows_is_read_alike(parts, piece):
    fast, parsed, events = three_ways(packed("".join(parts)), piece)
    assert fast == parsed == events
    assert "comment" not in str(fast)


@pytest.mark.parametrize("part", AMONG)
def test_each_of_these_is_a_sheet(part):
    assert isinstance(told(packed(part)), list)


@settings(
    max_examples=40, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(rows(least=1, most=8))
def test_what_we_write_is_read_alike(tmp_path, plain):
    Table(table_of(plain)).write(tmp_path / "calls.ods")
    fast, parsed, events = three_ways((tmp_path / "calls.ods").read_bytes())
    assert fast == parsed == events


def test_a_sheet_that_breaks_off_is_refused():
    whole = packed(AMONG[0] * 3)
    for cut in ("</table:table>", "</office:body>"):
        out = io.BytesIO()
        with zipfile.ZipFile(io.BytesIO(whole)) as old, zipfile.ZipFile(out, "w") as new:
            new.writestr("content.xml", old.read("content.xml").split(cut.encode())[0])
        assert "cannot be read" in told(out.getvalue())


def test_an_attribute_that_stands_twice_is_told_by_the_parser():
    row = ROW.format("", 5, "x").replace('office:value="5"', 'office:value="5" office:value="6"')
    fast, parsed, events = three_ways(packed(row))
    assert fast == parsed == events
    assert "duplicate attribute" in fast
