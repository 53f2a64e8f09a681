"""Files of every format made by hand, sound but odd: other writers' ways of the same format.

What is read is gone through: profiled, counted (every account adds up), written as another format
and read again, where the same cells must stand.
"""

import io
import json
import re
import tempfile
import zipfile
from dataclasses import replace
from datetime import UTC, datetime
from decimal import Decimal
from fractions import Fraction
from functools import cache
from pathlib import Path
from xml.sax.saxutils import escape, quoteattr

import pyarrow as pa
import pyarrow.feather as feather
import pyarrow.parquet as parquet
from hypothesis import strategies as st

from even_sieve import read_table
from even_sieve.core.errors import SieveError
from even_sieve.sources.files import read_content
from even_sieve.sources.source_options import SourceOptions
from trying import examples

_EXAMPLES = 10
_NUMBERS = ["0", "-1", "12.50", "1e5", "1E-7", "1e308", "1e309", "NaN", "inf", "007", "1,5", "1.234,56", "1 234", "1'234", "kr 5", "(5.00)",
            "5 %", "5%", "-0", "+3", ".5", "5.", "9" * 17, "9" * 40, "0.1" * 3, "1_000", "½", "١٢", "0x1F", "1e", "−4", "$1,250.00"]  # fmt: skip
_DATES = ["2031-01-05", "2031-01-05 10:20", "2031-01-05T10:20:30Z", "2031-01-05T10:20:30.123456789+02:00", "05.01.2031", "1/5/2031", "31/12/31",
          "9999-12-31", "0001-01-01", "2031-02-30", "2031-W05", "20310105", "10:20", "Jan 5, 2031"]  # fmt: skip
_WORDS = ["Outer", "Ä", "ﬁn", "total", "Subtotal", "hidden", "=SUM(A1)", "+5a", "@x", "#N/A", "#REF!", "#x", "yes", "TRUE", "", " ", "\u00a0x", "a\tb",
          "a\nb", 'say "hi"', "'", "\u202eabc", "\x1b[2J", "x" * 300, "😀", "null", "None"]  # fmt: skip
_TEXT = st.one_of(st.sampled_from(_NUMBERS), st.sampled_from(_DATES), st.sampled_from(_WORDS), st.text(max_size=6))  # fmt: skip
_COLUMN = st.one_of(
    st.lists(_TEXT, max_size=12),
    st.lists(st.sampled_from(_NUMBERS), max_size=12),
    st.lists(st.sampled_from(_DATES), max_size=12),
    st.lists(st.sampled_from(["1.50", "2", ""]), max_size=12),
)
_GRID = st.tuples(
    st.lists(st.sampled_from(["zone", "dues", "Dues", "", " a ", "arrived", "1", "x\ny", "total", "é" * 40]), min_size=1, max_size=5),
    st.lists(_COLUMN, min_size=1, max_size=5),
).map(lambda each: [each[0][: len(each[1])], *map(list, zip(*each[1], strict=False))])  # fmt: skip


@st.composite
def _csv(draw):
    grid = draw(_GRID)
    comma, end = draw(st.sampled_from([",", ";", "\t", "|"])), draw(st.sampled_from(["\n", "\r\n", "\r"]))  # fmt: skip
    quote_all = draw(st.booleans())
    special = {comma, '"', "\n", "\r"}
    lines = [
        comma.join(
            '"' + cell.replace('"', '""') + '"' if quote_all or special & set(cell) else cell
            for cell in row
        )
        for row in grid
    ]
    if draw(st.integers(0, 4)) == 0:
        lines.insert(draw(st.integers(0, len(lines))), draw(st.sampled_from(["", comma * 3, "Dues of 2031", '"', "sep=;"])))  # fmt: skip
    text = end.join(lines) + draw(st.sampled_from(["", end, end * 2, "\x1a"]))
    encoding = draw(st.sampled_from(["utf-8", "utf-8-sig", "utf-16", "cp1252", "latin-1", "mac-roman", "cp437"]))  # fmt: skip
    return "calls.csv", text.encode(encoding, errors="replace")


@st.composite
def _lines(draw):
    names, *rows = draw(_GRID)
    odd = st.one_of(st.none(), st.booleans(), st.integers(), st.floats(), st.lists(st.integers(), max_size=2), st.just({"a": 1}))  # fmt: skip
    made = []
    for row in rows:
        cells = [draw(odd) if draw(st.integers(0, 3)) == 0 else cell for cell in row]
        made.append(json.dumps(dict(zip(names, cells, strict=False)), ensure_ascii=draw(st.booleans())))  # fmt: skip
    if draw(st.integers(0, 4)) == 0:
        made.insert(0, draw(st.sampled_from(["", "[]", "{}", '{"zone": 1, "zone": 2}', "1", '{"zone": 1e999}', "null", '{"":""}', "[[1]]"])))  # fmt: skip
    return "calls.jsonl", "\n".join(made).encode(errors="surrogatepass")


def _packed(parts):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        for name, text in parts.items():
            made.writestr(name, text)
    return out.getvalue()


def _clean(text):
    return escape("".join(each for each in text if each >= " " and each not in "\ufffe\uffff"))


_MAIN = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
_REL = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
_PKG = "http://schemas.openxmlformats.org/package/2006"


@st.composite
def _sheet_cell(draw, place, text):
    """One cell as one of many writers would put it."""
    way = draw(st.integers(0, 9))
    at = f' r="{place}"' if draw(st.integers(0, 5)) else ""
    value = _clean(text)
    if way < 3:
        return f'<c{at} t="inlineStr"><is><t xml:space="preserve">{value}</t></is></c>'
    if way == 3:
        return f'<c{at} t="str"><f>A1&amp;""</f><v>{value}</v></c>'
    if way == 4:
        return f'<c{at} t="e"><v>{draw(st.sampled_from(["#N/A", "#DIV/0!", "#x", ""]))}</v></c>'
    if way == 5:
        return f'<c{at} t="b"><v>{draw(st.sampled_from(["0", "1", "2", "true", ""]))}</v></c>'
    if way == 6:
        return f'<c{at} t="s"><v>{draw(st.integers(-1, 3))}</v></c>'
    if way == 7:
        return f'<c{at} t="d"><v>{draw(st.sampled_from(_DATES))}</v></c>'
    style = draw(st.integers(0, 4))
    number = draw(st.sampled_from(["45000", "45000.5", "0", "60", "-1", "2958465", "2958466", "1e9", "1.10", "12.300000000000001", "", "x"]))  # fmt: skip
    return f'<c{at} s="{style}"><v>{number}</v></c>'


@st.composite
def _xlsx(draw):
    grid = draw(_GRID)
    rows = []
    for number, row in enumerate(grid, 1):
        cells = "".join(draw(_sheet_cell(f"{chr(65 + at)}{number}", cell)) if number > 1 else
                        f'<c r="{chr(65 + at)}1" t="inlineStr"><is><t>{_clean(cell)}</t></is></c>' for at, cell in enumerate(row))  # fmt: skip
        hidden = draw(st.sampled_from(["", "", ' hidden="1"', ' ht="0" customHeight="1"', ' outlineLevel="1"']))  # fmt: skip
        rows.append(f'<row r="{number}"{hidden}>{cells}</row>')
    merged = draw(st.sampled_from(["", '<mergeCells><mergeCell ref="A1:B1"/></mergeCells>', '<autoFilter ref="A1:B9"/>']))  # fmt: skip
    system = draw(st.sampled_from(["", '<workbookPr date1904="1"/>']))
    parts = {
        "[Content_Types].xml": f'<Types xmlns="{_PKG}/content-types"><Default Extension="xml" ContentType="application/xml"/></Types>',
        "_rels/.rels": f'<Relationships xmlns="{_PKG}/relationships"><Relationship Id="r1" Type="{_REL}/officeDocument" Target="xl/workbook.xml"/></Relationships>',
        "xl/workbook.xml": f'<workbook xmlns="{_MAIN}" xmlns:r="{_REL}">{system}<sheets><sheet name="calls" sheetId="1" r:id="r1"/></sheets></workbook>',
        "xl/_rels/workbook.xml.rels": f'<Relationships xmlns="{_PKG}/relationships"><Relationship Id="r1" Type="{_REL}/worksheet" Target="worksheets/sheet1.xml"/>'
        f'<Relationship Id="r2" Type="{_REL}/styles" Target="styles.xml"/><Relationship Id="r3" Type="{_REL}/sharedStrings" Target="sharedStrings.xml"/></Relationships>',
        "xl/styles.xml": f'<styleSheet xmlns="{_MAIN}"><numFmts count="1"><numFmt numFmtId="170" formatCode="{draw(st.sampled_from(["dd.mm.yyyy", "[h]:mm", "0.00 &quot;d&quot;", "yyyy", "[Red]0", "@"]))}"/></numFmts>'
        '<cellXfs count="4"><xf numFmtId="0"/><xf numFmtId="14"/><xf numFmtId="170"/><xf numFmtId="9"/></cellXfs></styleSheet>',
        "xl/sharedStrings.xml": f'<sst xmlns="{_MAIN}"><si><t>Outer</t></si><si><r><t>In</t></r><r><t>ner</t></r></si></sst>',
        "xl/worksheets/sheet1.xml": f'<worksheet xmlns="{_MAIN}"><sheetData>{"".join(rows)}</sheetData>{merged}</worksheet>',
    }  # fmt: skip
    for left_out in draw(st.lists(st.sampled_from(["xl/styles.xml", "xl/sharedStrings.xml"]), max_size=1)):  # fmt: skip
        del parts[left_out]
    return "calls.xlsx", _packed(parts)


@st.composite
def _table_cell(draw, text):
    way = draw(st.integers(0, 6))
    shown = f"<text:p>{_clean(text)}</text:p>"
    if way < 3:
        said = 'office:value-type="string"'
    elif way == 3:
        said = f'office:value-type="float" office:value="{draw(st.sampled_from(["1", "1.50", "1e309", "NaN", "", "-0"]))}"'  # fmt: skip
    elif way == 4:
        said = f'office:value-type="date" office:date-value={quoteattr(draw(st.sampled_from(_DATES)))}'  # fmt: skip
    elif way == 5:
        said = draw(st.sampled_from(['office:value-type="boolean" office:boolean-value="maybe"', 'office:value-type="percentage" office:value="0.5"',
                                     'office:value-type="currency" office:currency="XTS" office:value="5"', 'office:value-type="time" office:time-value="PT25H"', "",
                                     'table:formula="of:=1/0" office:value-type="string" office:string-value=""']))  # fmt: skip
    else:
        said = f'table:number-columns-repeated="{draw(st.sampled_from(["2", "0", "-1", "x", "16384"]))}"'  # fmt: skip
    return f"<table:table-cell {said}>{shown}</table:table-cell>"


@st.composite
def _ods(draw):
    names, *rows = draw(_GRID)
    made = ["".join(f'<table:table-cell office:value-type="string"><text:p>{_clean(name)}</text:p></table:table-cell>' for name in names)]  # fmt: skip
    made += ["".join(draw(_table_cell(cell)) for cell in row) for row in rows]
    said = st.sampled_from(["", "", ' table:visibility="collapse"', ' table:visibility="filter"', ' table:number-rows-repeated="3"'])  # fmt: skip
    body = "".join(f"<table:table-row{draw(said)}>{cells}</table:table-row>" for cells in made)
    spaces = " ".join(f'xmlns:{name}="urn:oasis:names:tc:opendocument:xmlns:{name}:1.0"' for name in ("office", "table", "text"))  # fmt: skip
    content = (
        f"<office:document-content {spaces}><office:body><office:spreadsheet>"
        f'<table:table table:name="calls">{body}</table:table>'
        "</office:spreadsheet></office:body></office:document-content>"
    )
    kind = "application/vnd.oasis.opendocument.spreadsheet"
    return "calls.ods", _packed({"mimetype": kind, "content.xml": content})


_TYPES = [
    (pa.int8(), st.integers(-128, 127)), (pa.uint64(), st.integers(0, 2**64 - 1)), (pa.int64(), st.integers(-(2**63), 2**63 - 1)),
    (pa.float32(), st.floats(width=32)), (pa.float64(), st.floats()), (pa.float16(), st.floats(width=16)), (pa.bool_(), st.booleans()),
    (pa.string(), _TEXT), (pa.large_string(), _TEXT), (pa.binary(), st.binary(max_size=4)), (pa.null(), st.none()),
    (pa.decimal128(12, 3), st.decimals(-10**8, 10**8, places=3)), (pa.decimal256(50, 0), st.integers(-(10**49), 10**49).map(Decimal)),
    (pa.date32(), st.dates()), (pa.date64(), st.dates()), (pa.timestamp("ns"), st.datetimes(datetime(1700, 1, 1), datetime(2200, 1, 1))),
    (pa.timestamp("us", "Europe/Oslo"), st.datetimes(datetime(1900, 1, 1), timezones=st.just(UTC))), (pa.timestamp("s"), st.datetimes()),
    (pa.time64("us"), st.times()), (pa.duration("ms"), st.timedeltas(max_value=datetime(2031, 1, 1) - datetime(1970, 1, 1))),
    (pa.list_(pa.int32()), st.lists(st.integers(0, 9), max_size=3)), (pa.struct([("a", pa.int32())]), st.just({"a": 1})),
    (pa.dictionary(pa.int8(), pa.string()), st.sampled_from(["Outer", "inner", ""])),
]  # fmt: skip


@st.composite
def _typed(draw):
    count = draw(st.integers(0, 8))
    columns, names = [], []
    for number in range(draw(st.integers(0, 4))):
        kind, values = draw(st.sampled_from(_TYPES))
        cells = draw(st.lists(st.one_of(st.none(), values), min_size=count, max_size=count))
        columns.append(pa.array(cells, kind))
        names.append(draw(st.sampled_from([f"c{number}", "dues", ""])))
    table = pa.table(columns, names=names)
    out = io.BytesIO()
    if draw(st.booleans()):
        try:
            parquet.write_table(table, out, compression=draw(st.sampled_from(["none", "snappy", "zstd", "gzip"])))  # fmt: skip
        except (pa.ArrowException, ValueError, OverflowError):
            return "calls.parquet", b"PAR1"
        return "calls.parquet", out.getvalue()
    if draw(st.booleans()):
        feather.write_feather(table, out, compression=draw(st.sampled_from(["uncompressed", "lz4"])))  # fmt: skip
    else:
        with pa.ipc.new_stream(out, table.schema) as stream:
            stream.write_table(table)
    return "calls.arrow", out.getvalue()


FILES = st.one_of(_csv(), _lines(), _xlsx(), _ods(), _typed())
_SAID = st.fixed_dictionaries({}, optional={
    "decimal": st.sampled_from([",", "."]), "date_order": st.sampled_from(["day-month-year", "month-day-year"]),
    "header": st.integers(1, 3), "sideways": st.just(True), "blank_as": st.just(["NA", "null"]),
})  # fmt: skip


def check(name):
    """Raise what is not the product's own error; a name makes so many files."""
    examples(name, st.tuples(FILES, _SAID, st.sampled_from(["csv", "jsonl", "parquet", "xlsx", "ods"])), _try, _EXAMPLES)  # fmt: skip


check.tries = _EXAMPLES


@cache
def _folder():
    return Path(tempfile.mkdtemp())


def _try(example):
    (name, content), said, ending = example
    try:
        table = read_content(content, name, SourceOptions.of(**said))
    except SieveError as error:
        assert str(error).strip(), "an error without words"
        return
    _count(_public(table))
    _again(_public(table), ending)


def _public(table):
    from even_sieve import Table

    return Table(table)


def _count(table):
    str(table.profile())
    table.to_frame()
    for name in table.names:
        quoted = '"' + name.replace('"', '""') + '"'
        for kind in ("filled", "blanks", "errors", "numbers", "distinct"):
            (found,) = table.tally(f"{kind} of {quoted}")
            counts = found.account.as_dict()
            assert counts["rows"] == len(table), "another number of rows"
            assert sum(counts.values()) == 2 * counts["rows"], "the account does not add up"


def _again(table, ending):
    """Write the table without its marks and read it again: each cell must be the same.

    CSV does not say which cells are text, JSON which are dates, Parquet has one type a column, an .xlsx rounds times
    to milliseconds, and no header is found where a name is missing.
    """
    if not all(name.strip() for name in table.names):
        return
    table, path = _public(replace(table.core, marks=None)), _folder() / f"again.{ending}"
    try:
        table.write(path, leave_formulas=ending == "csv")
    except SieveError:
        return
    rows = _rows(table)
    try:
        again = _rows(read_table(path))
    except SieveError:
        assert not rows, f"{ending}: what was written cannot be read"
        return
    if ending in ("csv", "jsonl", "parquet") or (ending == "xlsx" and _has_micros(table)):
        assert len(again) == len(rows), f"{ending}: {len(again)} rows and not {len(rows)}"
    elif ending == "ods":  # it has one kind of line end
        assert again == _one_line_end(rows), f"ods: {_first_other(rows, again)}"
    else:
        assert again == rows, f"{ending}: {_first_other(rows, again)}"


_LINE_END = re.compile(r"\r\n?")


def _one_line_end(rows):
    return [
        tuple(_LINE_END.sub("\n", cell) if isinstance(cell, str) else cell for cell in row)
        for row in rows
    ]


def _has_micros(table):
    cells = (cell for name in table.names for cell in table.column(name))
    return any(isinstance(cell, datetime) and cell.microsecond % 1000 for cell in cells)


def _rows(table):
    """The rows in which anything stands, as they are shown."""
    columns = ([_shown(cell) for cell in table.column(name)] for name in table.names)
    return [row for row in zip(*columns, strict=True) if any(row)]


def _shown(cell):
    if isinstance(cell, float):
        return str(Fraction(repr(cell)))
    if isinstance(cell, int | Decimal) and not isinstance(cell, bool):
        return str(Fraction(cell))
    return "" if cell is None else str(cell)


def _first_other(rows, again):
    if len(rows) != len(again):
        return f"{len(again)} rows and not {len(rows)}"
    return next(f"{b} and not {a}" for a, b in zip(rows, again, strict=True) if a != b)
