"""Columns whose texts are numbers or dates because somebody says so."""

import random
from datetime import date, datetime, time

import openpyxl
import pytest
from hypothesis import given
from hypothesis import strategies as st
from odf.opendocument import OpenDocumentSpreadsheet
from odf.table import CalculationSettings, NullDate, Table, TableCell, TableRow
from odf.text import P

from even_sieve import CallError, UnknownColumn, read_table, table_from
from even_sieve.core.cells.dates import micros
from even_sieve.core.cells.said import date_said, number_said
from even_sieve.core.table import column_from_cells, table_from_columns
from even_sieve.sources.as_said import as_said
from even_sieve.sources.said_in_bulk import counted_said
from even_sieve.sources.source_options import SourceOptions

pytestmark = pytest.mark.usefixtures("each_way")


@pytest.fixture
def book(tmp_path):
    """A workbook in which somebody typed numbers and dates as texts."""
    made = openpyxl.Workbook()
    sheet = made.active
    sheet.append(["dues", "code", "arrived", "left"])
    sheet.append(["$1,250.00", "007", "2031-01-05", "05.02.2031"])
    sheet.append([20.5, "012", 20310106, "31.12.2031"])
    sheet.append(["waived", "x", "soon", None])
    sheet.append(["(80.25)", 7, None, "31.31.2031"])
    made.save(tmp_path / "calls.xlsx")
    return tmp_path / "calls.xlsx"


def test_texts_of_a_workbook_are_read_and_what_cannot_be_is_counted(book):
    table = read_table(
        book, as_number=["dues", "code"], as_date=("arrived", "left"), date_order="day-month-year"
    )
    assert table.column("dues") == [1250, 20.5, "waived", -80.25]
    assert table.column("code") == [7, 12, "x", 7]
    assert table.column("arrived") == [date(2031, 1, 5), date(2031, 1, 6), "soon", None]
    assert table.column("left") == [date(2031, 2, 5), date(2031, 12, 31), None, "31.31.2031"]
    assert table.tally("sum of dues", "max of arrived")[0].value == 1190.25
    told = [each.text for each in table.tally("sum of dues").notices]
    assert told == [
        "column 'dues' read as numbers: 2 cells turned; 1 cell cannot be read and stayed text: 'waived'"
    ]
    found = read_table(book, as_date="dues").tally("rows").notices
    assert found == ()  # of columns that nobody asks for nothing is told
    (told,) = [
        each
        for each in read_table(book, as_date="dues").tally("max of dues").notices
        if each.counts
    ]
    assert told.counts["left"] == 4  # 20.5 is no date, and is counted as the texts are
    with pytest.raises(CallError, match="no such order"):
        read_table(book, as_date="left", date_order="day first")
    assert table.tally("rows", where="dues > 1000")[0].value == 1


def test_only_what_is_there_can_be_said_of(book):
    with pytest.raises(UnknownColumn, match="dues"):
        read_table(book, as_number="duse")
    assert read_table(book, as_number="dues", decimal=",").column("dues")[0] == "$1,250.00"


@given(
    st.lists(
        st.one_of(st.integers(-(10**9), 10**9), st.none(), st.sampled_from(["x", "1 2 3", "12a"]))
    )
)
def test_written_out_numbers_come_back_and_nothing_is_lost(cells):
    texts = [str(each) if isinstance(each, int) else each for each in cells]
    table = as_said(table_from_columns({"dues": texts}), SourceOptions.of(as_number="dues"))
    read = list(table.columns[0].cells())
    for before, after in zip(cells, read, strict=True):
        assert after == before or (isinstance(before, str) and before == "1 2 3")


def test_days_counted_are_read_from_the_day_that_the_workbook_names(tmp_path):
    days = [47853, 47853.75, 2031, 310105, 99999.9999999999, "5 May 2031"]
    files = []
    for epoch in (openpyxl.utils.datetime.WINDOWS_EPOCH, openpyxl.utils.datetime.MAC_EPOCH):
        made = openpyxl.Workbook()
        made.epoch = epoch
        for row in [["arrived"], *([each] for each in days)]:
            made.active.append(row)
        files.append(tmp_path / f"calls {epoch.year}.xlsx")
        made.save(files[-1])
    first, later = (read_table(each, as_date="arrived") for each in files)
    assert first.column("arrived") == [
        datetime(2031, 1, 5), datetime(2031, 1, 5, 18), 2031, 310105, datetime(2173, 10, 14),
        datetime(2031, 5, 5),
    ]  # fmt: skip
    assert later.column("arrived")[:2] == [datetime(2035, 1, 6), datetime(2035, 1, 6, 18)]
    (told,) = first.tally("max of arrived").notices
    assert "4 cells turned, numbers as days since 1899-12-30: 47853 is 2031-01-05;" in told.text
    assert "2 cells cannot be read and stayed as they were: '2031', '310105'" in told.text
    both = read_table(files, as_date="arrived").column("arrived")
    assert both == 2 * [*days[:5], date(2031, 5, 5)]  # one column has one day 0, or none
    derived = read_table(files[1]).derive("day = date of arrived")
    found = derived.tally("rows", where="day >= 2035-01-06")
    assert found[0].value == 3
    told = "column 'day': 'arrived' holds numbers as days since 1904-01-01: 47853 is 2035-01-06"
    assert told in [each.text for each in found.notices]


def test_the_day_that_an_open_document_counts_from_is_taken(tmp_path):
    document, table = OpenDocumentSpreadsheet(), Table(name="calls")
    settings = CalculationSettings()
    settings.addElement(NullDate(datevalue="1904-01-01"))
    document.spreadsheet.addElement(settings)
    for kind, told in (("string", {}), ("float", {"value": "46391"}), ("float", {"value": "1.5"})):
        row, cell = TableRow(), TableCell(valuetype=kind, **told)
        cell.addElement(P(text="arrived"))
        row.addElement(cell)
        table.addElement(row)
    document.spreadsheet.addElement(table)
    document.save(tmp_path / "calls.ods")
    read = read_table(tmp_path / "calls.ods", as_date="arrived")
    assert read.column("arrived") == [date(2031, 1, 5), 1.5]


def test_a_date_asked_of_numbers_that_may_be_days_counted_is_told():
    table = table_from({"arrived": [47853, None, 47860.25], "tons": [950, 47853, None]})
    told = [each.text for each in table.tally("rows", where="arrived >= 2031-01-07").notices]
    hint = "if its numbers are dates, of which 47853 is 2031-01-05: --as-date arrived"
    assert any(hint in each for each in told)
    told = [each.text for each in table.tally("rows", where="tons >= 2031-01-07").notices]
    assert not any("--as-date" in each for each in told)


def test_many_days_counted_are_read_as_one_by_one():
    seed = random.randrange(10**6)
    g = random.Random(seed)
    for places in (0, 3, 6, 11):
        numbers = [round(g.uniform(9_000, 101_000), places) for _ in range(3_000)]
        some = [*numbers, 20310105, -47853, 9_999.9999999999, 99_999.9999999999]
        fast = counted_said(some, date(1904, 1, 1))
        slow = [date_said(each, None, date(1904, 1, 1)) for each in some]
        midnights = [micros(a) == micros(b) if isinstance(a, date) else a == b
                     for a, b in zip(slow, fast.column.cells(), strict=True)]  # fmt: skip
        assert all(midnights), seed
        assert fast.turned.tolist() == [isinstance(each, date) for each in slow]


@given(st.lists(st.datetimes(datetime(1000, 1, 1), datetime(9999, 12, 31))))
def test_written_out_dates_come_back(moments):
    texts = [each.isoformat() for each in moments]
    table = as_said(table_from_columns({"arrived": texts}), SourceOptions.of(as_date="arrived"))
    read = list(table.columns[0].cells())
    midnight = time()  # days alone are dates
    assert [
        each if isinstance(each, datetime) else datetime.combine(each, midnight) for each in read
    ] == moments


@pytest.mark.parametrize(("cells", "total", "mixed"), [
    (["1,250.00 EUR", "€ 7", "(5 EUR)", "waived"], 1252, False), (["kr 12", "-3 kr."], 9, False),
    (["5 EUR", "7 USD"], 12, True), (["$5", "€7"], 12, True), (["NOR 5", "7"], 7, False),
])  # fmt: skip
def test_amounts_with_a_currency_are_numbers_if_one_says_so(tmp_path, cells, total, mixed):
    lines = "\n".join(f'{row},"{cell}"' for row, cell in enumerate(cells))
    (tmp_path / "fees.csv").write_text(f"row,fee\n{lines}\n")
    table = read_table(tmp_path / "fees.csv", as_number=["fee"])
    assert table.tally("sum of fee")[0].value == total
    told = [each.text for each in table.core.notices if "they count as alike" in each.text]
    assert bool(told) == mixed


def test_texts_that_became_dates_are_told_to_look_like_some_no_longer(tmp_path):
    (tmp_path / "calls.csv").write_text(
        "arrived\n12/31/2031 2:30 PM UTC\n01/01/2032 12:15 AM UTC\n"
    )
    order = {"date_order": "month-day-year"}
    before = read_table(tmp_path / "calls.csv", **order).core.columns[0].notices
    after = read_table(tmp_path / "calls.csv", as_date="arrived", **order).core.columns[0].notices
    assert [each.code for each in before] == ["text-that-looks-like-dates"]
    assert [each.code for each in after] == ["read-as-said"]


_SAID = {
    "numbers": (
        number_said,
        ["{n:,}.{c:02} EUR", "kr {n}", "{n}.{c}-", "'{n}", '="{n}.{c}"', "%{n}", "-%{n}.{c}", "\u200e{n}\u200b", "={n}", '="{n}', "({n})", "{n} %", "{n:07}", "1,0{c},000", "{n} t", "Quay {n}",
         "{n}e3", "٤{c}", "{n}.{c}{n}{n}", "€          0{n}.5", "-{c}.{n}", "{n}.—", "true", "waived"],
    ),
    "dates": (
        date_said,
        ["{d}-Aug-{y}", "{d}/{m}/{y} {h}:{c:02} PM", "{y}{m:02}{d:02}", "{y}-{m:02}-{d:02} {h}:{c:02} am",
         "{y}-{m:02}-{d:02}T{h:02}:{c:02}:09 UTC", "{y}-{m:02}-{d:02} UTC", "August {d}, {y} {h}:{c:02}",
         "{y}年{m}月{d}日 {h}:{c:02}", "{d}.{m}.{y}, {h}.{c:02}", "{y}-{m:02}-{d:02}T{h:02}{c:02}+02:00", "soon",
         "{n}", "{d} Maj {y}", "٤{c}", "{d}/{m}/{y} {h}:{c:02}:05.25\u202fpm", "{y}-{m:02}-{d:02}T24:00"],
    ),
}  # fmt: skip


@pytest.mark.parametrize("order", ["day-month-year", "month-day-year", "year-month-day", None])
@pytest.mark.parametrize("what", _SAID)
def test_many_texts_are_read_as_each_is_by_itself(what, order):
    read, forms = _SAID[what]
    rng = random.Random(seed := random.randrange(10**9))
    some = rng.choices(rng.sample(forms, rng.choice([1, 4, len(forms)])), k=4000)
    ends = {"n": 10**7, "c": 75, "d": 33, "m": 14, "y": 2100, "h": 27}
    texts = [each.format(**{k: rng.randrange(end) for k, end in ends.items()}) for each in some]
    mark = "," if order == "day-month-year" else "."
    texts = list(dict.fromkeys(each.strip() for each in texts)) + [None, "12"] * rng.randrange(2)
    how = {"as_number": "x", "decimal": mark} if what == "numbers" else {"as_date": "x"}
    table = table_from_columns({"x": texts})
    made = as_said(table, SourceOptions.of(**how, **({"date_order": order} if order else {})))
    by = mark if what == "numbers" else order
    wanted = [each if each is None else read(each, by) for each in texts]
    found = list(made.columns[0].cells())
    assert found == list(column_from_cells("x", wanted).cells()), seed
    (told,) = [each for each in made.columns[0].notices if each.code == "read-as-said"]
    turned = [each for each, cell in zip(texts, wanted, strict=True) if each is not cell]
    kept = [each for each, cell in zip(texts, wanted, strict=True) if cell is each and each]
    assert told.counts == {"turned": len(turned), "left": len(kept)}


@pytest.mark.parametrize(
    ("said", "rows"),
    [("= 980,00", 1), ("= 980.00", 1), ("= € 12", 1), ("> 1.000,00", 1), ("< 0", 1)],
)
def test_criteria_are_read_as_the_texts_were(tmp_path, said, rows):
    path = tmp_path / "fees.csv"
    path.write_text("fee;call\n1.250,50;1\n980,00-;2\n980,00;3\nkr 12;4\nwaived;5\n")
    (found,) = read_table(path, as_number="fee", decimal=",").tally("count", where=f"fee {said}")
    assert found.value == rows


def test_how_a_number_or_a_date_is_written_is_told(tmp_path):
    path = tmp_path / "fees.csv"
    path.write_text("fee,paid\nkr 12,5 May 2031\nwaived,open\n")
    table = read_table(path, as_number="fee", as_date="paid")
    for said, told in (("fee = kr 12.50", "a number is written 12.5"),
                       ("paid = 5 May 2031", "a date is written 2031-05-05"),
                       ('fee = "12"', "leave the quotes off")):  # fmt: skip
        found = table.tally("count", where=said)
        assert found[0].value == 0
        assert any(told in notice.text for notice in found.notices)
    path.write_text("fee;paid\nkr 1,234;5 May 2031\nwaived;open\n")
    table = read_table(path, as_number="fee", decimal=",")
    assert any(
        "written 1,234" in each.text
        for each in table.tally("count", where="fee = kr 1,234").notices
    )
    assert table.tally("count", where="fee = 1,234")[0].value == 1


@pytest.mark.parametrize("count", [5, 3000])
def test_numbers_beyond_a_double_said_in_texts_are_errors(tmp_path, count):
    texts = [f"{n}e400" if n % 2 else f"{n}.5" for n in range(1, count)]
    (tmp_path / "calls.jsonl").write_text("".join(f'{{"fee": "{text}"}}\n' for text in texts))
    found = read_table(tmp_path / "calls.jsonl", as_number="fee").tally("sum of fee")[0]
    own = [float(text) for text in texts if "e" not in text]
    assert (found.value, found.account.error) == (sum(own), len(texts) - len(own))
    derived = read_table(tmp_path / "calls.jsonl").tally("sum of due", derive="due = number of fee")
    assert (derived[0].value, derived[0].account.error) == (found.value, found.account.error)
