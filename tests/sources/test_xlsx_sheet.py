"""The XML of sheets as many hands write it."""

from datetime import date, datetime
from io import BytesIO
from xml.etree.ElementTree import fromstring

import pytest
from hypothesis import given
from hypothesis import strategies as st

from even_sieve.core.cells import CellError
from even_sieve.core.errors import SourceError
from even_sieve.sources import xlsx_rows, xlsx_xml
from even_sieve.sources.limits import Limits
from even_sieve.sources.xlsx_sheet import SheetReader
from even_sieve.sources.xlsx_values import Values

NS = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
ROWS = '<row r="2" hidden="1"><c r="A2" t="s"><v>0</v></c><c r="C2"><v>1.5E2</v></c></row><row r="4"><c r="B4" t="b"><v>1</v></c></row>'
GRID = [[], ["Outer", None, 150.0], [], [None, True]]


def read(xml, texts=("Outer",)):
    content = xml if isinstance(xml, bytes) else xml.encode()
    values = Values(texts, {1, 2}, {2}, datetime(1899, 12, 30))
    return SheetReader("calls.xlsx", values, Limits(), lambda _: None).read(
        "calls", BytesIO(content)
    )


def sheet(rows, before="", after=""):
    return f'<worksheet xmlns="{NS}">{before}<sheetData>{rows}</sheetData>{after}</worksheet>'


@pytest.mark.parametrize("piece", [1 << 22, 40, 7])
@pytest.mark.parametrize(
    "xml",
    [
        sheet(ROWS),
        sheet(ROWS, '<dimension ref="A1"/>', "<pageMargins/>"),
        sheet(ROWS).replace("<", "<x:").replace("<x:/", "</x:").replace("xmlns=", "xmlns:x="),
        ('<?xml version="1.0" encoding="UTF-16"?>' + sheet(ROWS)).encode("utf-16"),
        '<?xml version="1.0" encoding="ISO-8859-1"?>' + sheet(ROWS),
        sheet(ROWS.replace("><", ">\n <")),
        sheet(ROWS + '<row r="9" ht="3"/>').replace("<sheetData>", '<sheetData xml:space="default">'),
        sheet(ROWS.replace('<v>0</v>', '<v>0</v><extLst><ext/></extLst>')),
        sheet('<row r="2" hidden="true"><c t="inlineStr"><is><r><t>Ou</t></r><r><t>ter</t></r><rPh sb="0" eb="1"><t>no</t></rPh></is></c>'
              '<c/><c><v>150.0</v></c></row><row/><row><c/><c t="b"><v>1</v></c></row>'),
    ],
)  # fmt: skip
def test_rows_are_read_as_they_stand_however_they_are_written(xml, piece, monkeypatch):
    monkeypatch.setattr(xlsx_xml, "PIECE", piece)
    found = read(xml)
    assert found.rows == GRID
    assert (found.hidden, found.filtered) == ({2}, set())


def test_every_kind_of_cell():
    cells = [
        ('<c s="1"><v>3</v></c>', date(1900, 1, 3)),
        ('<c s="1"><v>47853.25</v></c>', datetime(2031, 1, 5, 6)),
        ('<c s="1"><v>0.5</v></c>', "12:00:00"),
        ('<c s="2"><v>1.5</v></c>', "1 day, 12:00:00"),
        (
            '<c s="1"><v>99999999</v></c>',
            CellError("#VALUE!", "99999999 is no date of the calendar"),
        ),
        ('<c t="d"><v>2031-01-05</v></c>', date(2031, 1, 5)),
        ('<c t="e"><v>#BUSY!</v></c>', CellError("#BUSY!", "the cell holds an error")),
        ('<c t="str"><f>A1</f><v> x </v></c>', "x"),
        ("<c><v>12345678901234567890</v></c>", 12345678901234567890),
        ('<c t="n"><v>-0.1</v></c>', -0.1),
    ]
    (row,) = read(sheet(f"<row>{''.join(xml for xml, _ in cells)}</row>")).rows
    assert row == [cell for _, cell in cells]


def test_an_active_filter_hides_its_rows_another_way():
    rows = "".join(f'<row r="{n}" hidden="1"><c><v>{n}</v></c></row>' for n in (1, 2, 9))
    after = '<autoFilter ref="A1:B5"><filterColumn colId="0"/></autoFilter>'
    found = read(sheet(rows, after=after))
    assert (found.hidden, found.filtered) == ({1, 9}, {2})


@pytest.mark.parametrize(
    ("rows", "fact"),
    [
        ('<row r="999999999"><c><v>1</v></c></row>', "row 999,999,999 is beyond the last one"),
        ('<row><c r="XFE1"><v>1</v></c></row>', "column XFE is beyond the last one"),
        ('<row><c t="s"><v>-1</v></c></row>', "the shared text -1, and there are 1"),
        ('<row><c r="1A"><v>1</v></c></row>', "a cell stands at '1A'"),
        ('<row r="3"><c><v>1</v></c></row><row r="2"><c><v>1</v></c></row>', "row 2 stands after a later one"),
    ],
)  # fmt: skip
def test_what_no_sheet_has_is_refused(rows, fact):
    with pytest.raises(SourceError, match=fact):
        read(sheet(rows))


def test_a_sheet_that_breaks_off_is_no_short_one():
    for end in (-20, -40):
        with pytest.raises((ValueError, SyntaxError)):
            read(sheet(ROWS)[:end])


_TEXT = st.sampled_from(["5", "1.50", "", " a ", "&amp;lt;", "R&amp;D", "&#65;", "x]]y", "é", "a\nb", "a\rb", "-1E5", "<!-- no -->", "&quot;"])  # fmt: skip
_STYLE = st.sampled_from(["", ' s="1"', ' s="007"', ' cm="1"'])
_KIND = st.sampled_from(["", ' t="s"', ' t="str"', ' t="inlineStr"', ' t="b"', ' t="e"', " t='n'"])
_FORMULA = st.sampled_from(["", "<f>A1*2</f>", '<f t="shared" ref="A1:A9" si="0">SUM(A1:A5)</f>',
                            '<f t="shared" si="0"/>', '<f si="0" t="shared"/>', "<f/>", '<f ca="1">NOW()</f>', "<f>A1&amp;B1</f>"])  # fmt: skip
_INSIDE = st.one_of(
    _TEXT.map(lambda each: f"<v>{each}</v>"),
    _TEXT.map(lambda each: f'<is><t xml:space="preserve">{each}</t></is>'),
    st.sampled_from(["", "<v/>", "<is><r><t>a</t></r></is>", "<v>5</v><extLst/>"]),
)
_PLACES = st.sampled_from([' r="A1"', ' r="XFD99"', ' r="b7"', "", ' r="A1" '])
_CELL = st.one_of(
    st.tuples(_PLACES, _STYLE, _KIND, _FORMULA, _INSIDE, st.permutations(range(3))).map(
        lambda each: f"<c{''.join(each[at] for at in each[5])}>{each[3]}{each[4]}</c>"
    ),
    st.sampled_from(
        ['<c r="B2" s="1"/>', '<c s="1" r="B2"/>', '<c t="n" r="C2" s="4"><v>3</v></c>', "<c/>"]
    ),
    st.just("\n"),
)
_ROW = st.tuples(
    st.sampled_from(['<row r="3">', "<row>", '<row r="4" hidden="1" ht="5">', "<row hidden='1'>"]),
    st.lists(_CELL, max_size=4).map("".join),
).map(lambda each: f"{each[0]}{each[1]}</row>")


@given(st.lists(st.one_of(_ROW, st.sampled_from(['<row r="2" hidden="true"/>', " "])), max_size=4))
def test_the_plain_way_takes_rows_apart_as_a_parser_does(rows):
    text = "".join(rows)
    found = xlsx_rows.plain_rows(text.encode())
    if found is None:
        return
    parsed = [xlsx_rows.row_of(each) for each in fromstring(f'<s xmlns="{NS}">{text}</s>')]
    assert found == parsed


def test_what_most_writers_write_is_plain():
    def plain(text):
        return xlsx_rows.plain_rows(text.encode()) is not None

    assert plain(ROWS + '<row r="9"/>')
    assert plain('<row><c t="s" s="1" r="A2"><v>0</v></c></row>')
    assert not plain('<row><c t="s" t="n"><v>0</v></c></row>')
    assert not plain('<row><c r="A2" t="s" t="n"><v>0</v></c></row>')
    assert not plain(ROWS.replace("<c ", "<!-- --><c "))


@pytest.mark.parametrize("place", ["12", "AB", "A1B", "ABCD1", "A-1", " "])
def test_a_place_that_is_none_is_refused(place):
    with pytest.raises(SourceError, match="which is no place"):
        read(sheet(f'<row r="2"><c r="{place}"><v>1</v></c></row>'))
