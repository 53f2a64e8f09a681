import zipfile
from datetime import datetime
from io import BytesIO
from xml.sax.saxutils import quoteattr

import pytest

from even_sieve import read_table, table_from
from even_sieve.core.errors import SourceError
from even_sieve.sources import xlsx
from even_sieve.sources.areas import block_of
from even_sieve.sources.source_options import SourceOptions

PLAIN = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
RELATED = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
STRICT = "http://purl.oclc.org/ooxml/spreadsheetml/main"
STRICT_RELATED = "http://purl.oclc.org/ooxml/officeDocument/relationships"
PACKAGE = "http://schemas.openxmlformats.org/package/2006"
SHEETS = '<sheets><sheet name="Calls" sheetId="1" r:id="rId1"/></sheets>'
ROWS = (
    '<row><c t="s"><v>0</v></c><c t="s"><v>1</v></c></row>'
    '<row><c t="s"><v>2</v></c><c s="1"><v>47853.5</v></c></row>'
)
TEXTS = "<si><t>berth</t></si><si><t>dues</t></si><si><t>East</t></si>"


def workbook(
    inner=SHEETS, *, rows=ROWS, texts=TEXTS, styles="", more=None, left_out=(), joint="/",
    main=PLAIN, related=RELATED, sheet="worksheets/sheet1.xml",
):  # fmt: skip
    def relation(number, kind, target):
        return f'<Relationship Id="rId{number}" Type="{related}/{kind}" Target="{target}"/>'

    relations = f'<Relationships xmlns="{PACKAGE}/relationships">'
    of_book = [
        relation(*each)
        for each in ((1, "worksheet", sheet), (2, "styles", "styles.xml"),
                     (3, "sharedStrings", "sharedStrings.xml"), (4, "chartsheet", "chart.xml"),
                     (5, "worksheet", "lost.xml"))
    ]  # fmt: skip
    parts = {
        "[Content_Types].xml": f'<Types xmlns="{PACKAGE}/content-types"/>',
        "_rels/.rels": f"{relations}{relation(1, 'officeDocument', 'xl/workbook.xml')}</Relationships>",
        "xl/workbook.xml": f'<workbook xmlns="{main}" xmlns:r="{related}">{inner}</workbook>',
        "xl/_rels/workbook.xml.rels": f"{relations}{''.join(of_book)}</Relationships>",
        "xl/styles.xml": f'<styleSheet xmlns="{main}">{styles}<cellXfs><xf/><xf numFmtId="14"/></cellXfs></styleSheet>',
        "xl/sharedStrings.xml": f'<sst xmlns="{main}">{texts}</sst>',
        "xl/worksheets/sheet1.xml": f'<worksheet xmlns="{main}"><sheetData>{rows}</sheetData></worksheet>',
        "xl/chart.xml": f'<chartsheet xmlns="{main}"/>',
        **(more or {}),
    }
    out = BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, content in parts.items():
            if name not in left_out:
                archive.writestr(name.replace("/", joint), content)
    return out.getvalue()


def opened(content):
    return xlsx.open_workbook(content, "calls.xlsx", SourceOptions())


WANTED = [["berth", "dues"], ["East", datetime(2031, 1, 5, 12)]]


@pytest.mark.parametrize(
    "given",
    [
        {},
        {"main": STRICT, "related": STRICT_RELATED},
        {"joint": "\\"},
        {"sheet": "/XL/Worksheets/SHEET1.xml"},
        {"left_out": ["[Content_Types].xml"]},
        {"left_out": ["_rels/.rels"]},
        {"inner": '<sheets><sheet name="Chart" sheetId="2" r:id="rId4"/>' + SHEETS[8:]},
        {"inner": '<sheets><sheet name="gone" sheetId="0"/>' + SHEETS[8:]},
        {"inner": '<workbookPr hue="1"/><bookViews><workbookView tabRatio="x"/></bookViews>' + SHEETS},
        {"inner": SHEETS + '<calcPr calcMode="now"/><pivotCaches><pivotCache cacheId="1"/></pivotCaches>'},
        {"more": {"docProps/core.xml": "<coreProperties><created>once</created></coreProperties>"}},
        {"more": {"docProps/custom.xml": '<Properties><property pid="x"/></Properties>'}},
        {"styles": "<fills/><cellStyles><cellStyle/></cellStyles><dxfs><dxf><odd/></dxf></dxfs>"},
    ],
)  # fmt: skip
def test_what_says_nothing_about_cells_may_be_written_in_any_way(given):
    (sheet,) = opened(workbook(**given)).sheets
    assert sheet.rows == WANTED


def test_days_of_the_strict_class_and_of_1904_are_days():
    rows = ROWS.replace('<c s="1"><v>47853.5', '<c s="1" t="d"><v>2031-01-05T12:00:00')
    strict = workbook(rows=rows, main=STRICT, related=STRICT_RELATED)
    assert opened(strict).sheets[0].rows == WANTED
    later = opened(workbook('<workbookPr date1904="true"/>' + SHEETS)).sheets[0]
    assert later.rows[1] == ["East", datetime(2035, 1, 6, 12)]


def test_parts_that_are_named_and_not_there_are_told():
    lost = '<sheets><sheet name="Lost" sheetId="2" r:id="rId5"/></sheets>'
    with pytest.raises(SourceError, match="sheet 'Lost' is named, and is not among"):
        opened(workbook(lost))
    with pytest.raises(SourceError, match="no sheet with cells"):
        opened(workbook('<sheets><sheet name="Chart" sheetId="2" r:id="rId4"/></sheets>'))
    with pytest.raises(SourceError, match="a cell asks for the shared text 0, and there are 0"):
        opened(workbook(left_out=["xl/sharedStrings.xml"]))
    with pytest.raises(SourceError, match="no ISO/IEC 29500 workbook"):
        opened(workbook(left_out=["xl/workbook.xml"]))


def test_formats_of_dates_in_many_countries_show_dates():
    codes = {
        'yyyy"年"m"月"d"日"': datetime(2031, 1, 5, 12), "[$-411]ggge.m.d": datetime(2031, 1, 5, 12),
        "TT.MM.JJJJ": datetime(2031, 1, 5, 12), "Standard": 47853.5, "Yleinen": 47853.5,
        '0.00 "days"': 47853.5, "[Red]0.0": 47853.5,
    }  # fmt: skip
    numbers = {31: True, 58: True, 71: True, 14: True, 67: False, 1: False}
    cells = [*range(200, 200 + len(codes)), *numbers]
    spelt = (
        f'<numFmt numFmtId="{n}" formatCode={quoteattr(c)}/>' for n, c in enumerate(codes, 200)
    )
    styles = (
        f"<numFmts>{''.join(spelt)}</numFmts><cellXfs>"
        + "".join(f'<xf numFmtId="{each}"/>' for each in cells)
        + "</cellXfs>"
    )
    more = {"xl/styles.xml": f'<styleSheet xmlns="{PLAIN}">{styles}</styleSheet>'}
    row = "".join(f'<c s="{place}"><v>47853.5</v></c>' for place in range(len(cells)))
    (sheet,) = opened(workbook(rows=f"<row>{row}</row>", more=more)).sheets
    told = [datetime(2031, 1, 5, 12) if each else 47853.5 for each in numbers.values()]
    assert sheet.rows == [[*codes.values(), *told]]


def test_letters_that_are_spelt_by_their_codes_are_letters():
    texts = TEXTS.replace("East", "Ea_x000A_st_x005F_x0041_ _xD83D__xDEA2_ _xD83D_ _x12_")
    inline = '<row><c t="inlineStr"><is><t>a_x0042_</t></is></c><c t="str"><v>_x0043_</v></c></row>'
    (sheet,) = opened(workbook(texts=texts, rows=ROWS + inline)).sheets
    assert sheet.rows[1][0] == "Ea\nst_x0041_ 🚢 _xD83D_ _x12_"
    assert sheet.rows[2] == ["aB", "C"]


def test_names_stand_for_a_block_or_are_told_to_stand_for_none():
    blocks = {
        "all": "Calls!$A$1:$B$2", "quoted": "'Calls'!$A$1:$B$2", "columns": "Calls!$A:$B",
        "rows": "Calls!$1:$2",
    }  # fmt: skip
    others = {
        "two": "Calls!$A$1:$A$2,Calls!$B$1:$B$2", "moved": "OFFSET(Calls!$A$1,0,0,2,2)",
        "part": "Table1[dues]", "gone": "Calls!#REF!", "away": "[1]Calls!$A$1:$B$2",
        "lost": "Gone!$A$1:$B$2", "none": "", "text": '"Calls!A1"',
    }  # fmt: skip
    named = "".join(
        f'<definedName hue="1" name="{name}">{means}</definedName>'
        for name, means in (blocks | others).items()
    )
    own = '<definedName name="own" localSheetId="0">Calls!$B$1:$B$2</definedName>'
    own += '<definedName name="all" localSheetId="0">Calls!$B$1:$B$2</definedName>'
    own += '<definedName name="both" localSheetId="0">Calls!$B$1:$B$2</definedName>'
    own += '<definedName name="both" localSheetId="1">More!$A$1:$B$2</definedName>'
    own += '<definedName name="far" localSheetId="7">Calls!$A$2:$B$2</definedName>'
    more = '<sheet name="More" sheetId="2" r:id="rId1"/></sheets>'
    sheets = SHEETS.replace("</sheets>", more)
    book = opened(workbook(f"{sheets}<definedNames>{own}{named}</definedNames>"))
    for name in (*blocks, "A:B", "calls!b:a", "1:2"):
        assert book.cells(book.area(name, "Calls")) == WANTED, name
    for name in (*others, "both"):
        with pytest.raises(SourceError, match=f"'{name}' stands for no single block"):
            book.area(name)
    for name in ("own", "Calls!own", "Calls!all"):
        assert book.cells(book.area(name)) == [row[1:] for row in WANTED]
    assert book.cells(book.area("far")) == WANTED[1:]


@pytest.mark.parametrize("header", ["", ' headerRowCount="0"'])
def test_a_filter_of_a_table_puts_its_own_rows_away(header):
    hidden = "".join(f'<row r="{row}" hidden="1"><c><v>{row}</v></c></row>' for row in (3, 4, 5))
    active = '<autoFilter ref="A1:B4"><filterColumn colId="0"/></autoFilter>'
    table = f'<table xmlns="{PLAIN}" name="calls" ref="A1:B4"{header}>{active}</table>'
    relation = f'<Relationship Id="rId1" Type="{RELATED}/table" Target="../tables/t.xml"/>'
    more = {
        "xl/worksheets/_rels/sheet1.xml.rels": f'<Relationships xmlns="{PACKAGE}/relationships">{relation}</Relationships>',
        "xl/tables/t.xml": table,
    }
    book = opened(workbook(rows=ROWS + hidden, more=more))
    filtered = set() if header else {3, 4}
    assert (book.sheets[0].filtered, book.sheets[0].hidden) == (filtered, {3, 4, 5} - filtered)
    assert list(book.tables) == ([] if header else ["calls"])


def test_whole_columns_and_rows_are_blocks_without_an_end():
    assert block_of("B:$F", "calls.csv") == (0, 1, None, 6)
    assert block_of("F30:B2", "calls.csv") == (1, 1, 30, 6)
    assert block_of("2:30", "calls.csv") == (1, 0, 30, None)
    for words in ("0:5", "A0:B5", "Calls!A:B", "B2:F"):
        with pytest.raises(SourceError, match="is no block"):
            block_of(words, "calls.csv")


def test_a_text_that_looks_spelt_comes_back_as_it_was(tmp_path):
    texts = ["a_x0041_", "_x005F_", "_x", "b_x41_"]
    written = table_from({"berth": texts, "calls": [1, 2, 3, 4]})
    written.write(tmp_path / "calls.xlsx")
    assert read_table(tmp_path / "calls.xlsx").to_frame()["berth"].tolist() == texts
