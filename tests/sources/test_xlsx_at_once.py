"""Cells of sheets taken apart all at once, beside one by one."""

import random
from datetime import date, datetime
from io import BytesIO
from xml.etree.ElementTree import ParseError, fromstring

import pytest

from even_sieve.sources import xlsx_pieces, xlsx_rows, xlsx_texts, xlsx_xml
from even_sieve.sources.limits import Limits
from even_sieve.sources.xlsx_at_once import cells_of
from even_sieve.sources.xlsx_sheet import SheetReader
from even_sieve.sources.xlsx_values import Values, moment_of
from even_sieve.sources.xml_tags import Strange

NS = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
TEXTS = [
    "Outer",
    " Inner ",
    "",
    "a &amp; b",
    "Pärnu",
    "日本",
    'say "hi"',
    "1 > 0",
    "a\nb",
    "007",
    "&#65;",
]
FORMULAS = ["SUM(A1:A3)", "SUBTOTAL(9,A1:A9)", "aggregate(9,5,B1:B9)", "A1+B1", "A1&lt;5", ""]
OF_FORMULA = ["", "", ' t="shared" si="0"', ' t="shared" ref="A1:A9" si="1"', ' t="array" ref="A1"']
NUMBERS = [
    "0", "-0", "1E3", "1e-5", "60", "61.5", "1", "0.999999999", "2958465.9", "1e400", "43831.5",
    "47853", "123456789012345678901", "12345678.25", "-5", ".5", "+5", "1_0", "nan", " 7", "x",
]  # fmt: skip
USUAL = 12


def cell(g, place, odd):
    kind = g.choice([""] * 5 + ["n", "s", "str", "inlineStr", "b", "e", "d"])
    attributes = [f'r="{place}"'] if place else []
    attributes += [f's="{g.randint(0, 5)}"'] if g.random() < 0.6 else []
    attributes += [f't="{kind}"'] if kind else []
    if g.random() < odd:
        g.shuffle(attributes)
        attributes += g.choice([[], ['cm="1"'], ['s="01"'], ["t='s'"], ['r="A1"']])
    text = g.choice(TEXTS)
    value = {
        "s": g.randint(0, 2), "b": g.randint(0, 1), "e": g.choice(["#N/A", "#SPILL!"]), "str": text,
        "d": g.choice(["2031-05-06", "2031-05-06T07:08:09"]),
    }.get(kind, g.choice(NUMBERS if g.random() < odd else NUMBERS[:USUAL]))  # fmt: skip
    inside = f"<is><t>{text}</t></is>" if kind == "inlineStr" else f"<v>{value}</v>"
    inside = g.choice([inside] * 8 + ["", "<v/>", "<v></v>"])
    if g.random() < 0.15:
        inside = f"<f{g.choice(OF_FORMULA)}>{g.choice(FORMULAS)}</f>{inside}"
    head = " ".join(["<c", *attributes])
    return f"{head}>{inside}</c>" if inside else head + g.choice(["/>", " />"])


def sheet(g):
    rows, number, placed, odd = [], 0, g.random() < 0.8, g.choice([0, 0, 0.1])
    for _ in range(g.randint(1, 9)):
        number += g.choice([1, 1, 1, 4])
        columns = [c for c in "ABCDEZ" if g.random() < 0.8] + ["AB"] * (g.random() < 0.5)
        cells = [cell(g, f"{each}{number}" * placed, odd) for each in columns]
        said = f' r="{number}"' if placed else ""
        said += g.choice(
            [
                "",
                ' spans="1:9"',
                ' ht="15" hidden="1"',
                ' hidden="true"',
                ' ht="0" customHeight="1"',
                ' ht="0.50"',
            ]
        )
        rows.append(f"<row{said}>{''.join(cells)}</row>" if cells else f"<row{said}/>")
    text = "".join(rows)
    if g.random() < 0.2:
        text = text.replace("/c><c", "/c>\n  <c").replace("</row>", "\n</row>\n")
    return f'<worksheet xmlns="{NS}"><sheetData>{text}</sheetData></worksheet>'.encode()


def read(content, epoch):
    values = Values(["Outer", " x ", ""], {1, 2}, {2}, epoch, {3: "€", 4: "percent"})
    try:
        found = SheetReader("calls", values, Limits(), lambda _: None).read("a", BytesIO(content))
    except Exception as error:
        return repr(error)
    return repr((found.rows, found.hidden, found.subtotals, sorted(found.shown._runs.items())))


@pytest.mark.parametrize("part", range(6))
def test_all_at_once_is_the_same_as_one_by_one(part, monkeypatch):
    taken = []

    def counting(content):
        taken.append(0)
        found = cells_of(content)
        taken[-1] = 1
        return found

    def giving_up(content):
        raise Strange

    seed = random.randrange(10**9)
    for case in range(150):  # 66 % are, give or take 3: of fewer it might be half by chance
        g = random.Random(f"{seed}/{case}")
        content, epoch = sheet(g), g.choice([datetime(1899, 12, 30), datetime(1904, 1, 1)])
        monkeypatch.setattr(xlsx_xml, "PIECE", g.choice([1 << 22, 300]))
        monkeypatch.setattr(xlsx_pieces, "cells_of", counting)
        found = read(content, epoch)
        monkeypatch.setattr(xlsx_pieces, "cells_of", giving_up)
        assert found == read(content, epoch), (seed, case, content)
    assert sum(taken) > len(taken) / 2, "most of these are written in a usual way"


@pytest.mark.parametrize(
    "row",
    [
        '<row r="1" spans="1:2" x14ac:dyDescent="0.25"><c r="A1" s="3" t="s"><v>0</v></c></row>',
        '<row r="1"><c t="s" r="A1"><v>0</v></c><c r="XFD1"/></row>',
        '<row r="1"><c r="A1" t="inlineStr"><is><t xml:space="preserve"> Outer</t></is></c></row>\n',
        '<row r="1"><c r="A1" t="str"><f t="shared" si="0"/><v>Outer</v></c></row>',
        "<row><c/><c><v>1</v></c></row><row/>",
    ],
)
def test_usual_ways_of_writing_are_taken_at_once(row):
    assert len(cells_of(row.encode()).row) == row.count("<c ") + row.count("<c>") + row.count("<c/")


def test_moments_of_many_numbers_are_those_of_each():
    g = random.Random(7)
    numbers = [g.uniform(1, 90_000) for _ in range(300)] + [61, 47853, 47853.9999999999, 2958465]
    cells = "".join(f'<c s="1"><v>{number!r}</v></c>' for number in numbers)
    content = f'<worksheet xmlns="{NS}"><sheetData><row>{cells}</row></sheetData></worksheet>'
    epoch = datetime(1899, 12, 30)
    values = Values([], {1}, set(), epoch)
    found = SheetReader("calls", values, Limits(), lambda _: None).read(
        "a", BytesIO(content.encode())
    )
    assert found.rows[0] == [moment_of(number, epoch) for number in numbers]
    assert found.rows[0][-1] == date(9999, 12, 31)


ITEMS = [
    "<si><t>Outer</t></si>", "<si><t>a &amp; b</t></si>", '<si><t xml:space="preserve"> x </t></si>',
    "<si><t/></si>", "<si/>", "<si><r><t>Ou</t></r><r><rPr><b/></rPr><t>ter</t></r></si>", "<si><t></t></si>",
    '<si><t>Kai</t><rPh sb="0" eb="1"><t>no</t></rPh></si>', "<si><t>a\r\nb&#10;c</t></si>", "\n<si><t>日本</t></si>",
]  # fmt: skip


@pytest.mark.parametrize("after", ["", "\n", "<!-- </si> -->", "<extLst/>"])
def test_shared_texts_are_those_of_a_parser(after, monkeypatch):
    for case in range(30):
        g = random.Random(f"{after}/{case}")
        some = g.choice([ITEMS[:3], ITEMS])
        items = "".join(g.choice(some) for _ in range(g.randint(0, 30)))
        content = (
            f'<?xml version="1.0"?>\r\n<sst xmlns="{NS}" count="3">{items}{after}</sst>'.encode()
        )
        monkeypatch.setattr(xlsx_texts, "_PIECE", g.choice([60, 400, 1 << 20]))
        wanted = [xlsx_rows.text_of(each) for each in fromstring(content) if each.tag[-3:] == "}si"]
        assert xlsx_texts.shared_texts(BytesIO(content)) == wanted, content
    with pytest.raises(ParseError):
        xlsx_texts.shared_texts(BytesIO(content[:-9]))
