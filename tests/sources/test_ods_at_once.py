"""Rows of OpenDocument sheets taken apart all at once, beside one by one."""

import random
import zipfile

import pytest

from even_sieve.sources import ods, ods_pieces
from even_sieve.sources.limits import Limits
from even_sieve.sources.ods_pieces import MadeRows, begin_rows
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.xml_tags import Strange

TEXTS = ["Outer", " Inner ", "", "a &amp; b", "Pärnu", 'say "hi"', "007", "#N/A", "\u00a0"]
NUMBERS = [
    "0", "-0", "5", "12.5", "-7.25", "1E3", "1e-05", "0.30000000000000004", "123456789012345",
    "1234567890123456789.5", "-123456789012345.6", "1.0", "007", ".5", "5.", "+5", " 5", "x", "",
]  # fmt: skip
USUAL = 12
DATES = [
    "2031-05-06",
    "2031-05-06T07:08:09",
    "2031-05-06T00:00:00",
    "0001-01-01",
    "9999-12-31T23:59:59",
]
ODD_DATES = [
    "-0044-03-15", "0000-05-06", "2031-02-30", "2031-05-06T24:00:00", "2031-05-06T07:08:09.5",
    "2031-05-06T07:08", "20310506", "2031-05-06T07:08:60", "2031-05-06 07:08:09", "2031-W05-1",
]  # fmt: skip
FORMULAS = [
    "of:=SUM([.A1:.A3])",
    "of:=[.A1]+[.A3]",
    "of:=SUBTOTAL(9;[.A1:.A9])",
    "of:=[.A1]&amp;[.B1]",
    "",
]
SPACES = (
    "".join(
        f' xmlns:{name}="urn:oasis:names:tc:opendocument:xmlns:{name}:1.0"'
        for name in ("office", "table", "text")
    )
    + ' xmlns:calcext="urn:org:documentfoundation:names:experimental:calc:xmlns:calcext:1.0"'
)


def cell(g, odd):
    kind = g.choice([
        "float", "float", "string", "string", "date", "boolean", "percentage", "currency", "time", "",
    ])  # fmt: skip
    name = f"{kind}-value" if kind in ("date", "boolean", "time") else "value"
    value = {
        "float": g.choice(NUMBERS if g.random() < odd else NUMBERS[:USUAL]),
        "date": g.choice(DATES if g.random() < 0.9 else ODD_DATES),
        "boolean": g.choice(["true", "FALSE"]), "percentage": "0.125", "currency": "7.25",
        "time": "PT01H02M03S",
    }.get(kind)  # fmt: skip
    held = [f'office:value-type="{kind}"'] if kind else []
    held += [] if value is None else [f'office:{name}="{value}"']
    if kind == "string" and g.random() < 0.3:  # what is stored, mostly what is shown
        held += [f'office:string-value="{g.choice(TEXTS[:4])}"'.replace('say "hi"', "")]
    held += ['office:currency="EUR"'] if kind == "currency" and g.random() < 0.8 else []
    held += [f'table:formula="{g.choice(FORMULAS)}"'] if g.random() < 0.15 else []
    held += [f'table:number-columns-repeated="{g.choice([1, 2, 3])}"'] if g.random() < 0.1 else []
    held += (
        [f'calcext:value-type="{g.choice([kind, "error"])}"'] if kind and g.random() < 0.2 else []
    )
    held += ['table:style-name="ce1"'] if g.random() < 0.3 else []
    if g.random() < 0.2:
        g.shuffle(held)
    if g.random() < odd:
        held += [
            g.choice(['office:value="3"', "x='1'", '  y="2"', 'table:number-columns-repeated="0"'])
        ]
    text = g.choice([*TEXTS, "a  b", "&#65;"] if g.random() < odd else TEXTS)
    tag = g.choice(["table-cell"] * 9 + ["covered-table-cell"])
    head = " ".join([f"<table:{tag}", *held])
    if not text or (kind != "string" and g.random() < 0.5):
        return head + g.choice(["/>", " />"])
    return f"{head}><text:p>{text}</text:p></table:{tag}>"


def rows(g):
    found, odd = [], g.choice([0, 0, 0.05])
    for _ in range(g.randint(1, 9)):
        cells = "".join(cell(g, odd) for _ in range(g.randint(0, 7)))
        said = g.choice(["", "", ' table:visibility="collapse"', ' table:number-rows-repeated="3"'])
        blank = '<table:table-cell table:number-columns-repeated="90"/>' * g.randint(0, 1)
        found.append(f"<table:table-row{said}>{cells}{blank}</table:table-row>")
    return g.choice(["", "\n"]).join(found)


def sheet_of(content, path):
    body = f'<office:spreadsheet><table:table table:name="a">{content}</table:table></office:spreadsheet>'
    with zipfile.ZipFile(path, "w") as archive:
        whole = f"<office:document-content{SPACES}><office:body>{body}</office:body></office:document-content>"
        archive.writestr("content.xml", whole)
    try:
        found = ods.open_workbook(path.read_bytes(), "calls.ods", SourceOptions()).sheets[0]
    except Exception as error:
        return repr(error)
    shown = sorted(found.shown._runs.items())
    return repr((found.rows, found.hidden, found.filtered, sorted(found.subtotals.items()), shown))


@pytest.mark.parametrize("part", range(4))
def test_all_at_once_is_the_same_as_one_by_one(part, tmp_path, monkeypatch):
    seed, usual = random.randrange(10**9), ods_pieces.cells_of
    path, taken = tmp_path / "calls.ods", 0

    def giving_up(content):
        raise Strange

    for case in range(40):
        content = rows(random.Random(f"{seed}/{case}"))
        monkeypatch.setattr(ods_pieces, "cells_of", usual)
        found = sheet_of(content, path)
        try:
            taken += isinstance(begin_rows(Limits())(content.encode()), MadeRows)
        except Exception:
            assert "cannot be read" in found
        monkeypatch.setattr(ods_pieces, "cells_of", giving_up)
        assert found == sheet_of(content, path), (seed, case, content)
    assert taken > 20, "most of these are written in a usual way"
