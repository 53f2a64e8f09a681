"""Numbers that a source shows as percent, or with a sign of currency, are shown so again."""

import openpyxl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from even_sieve import combine, read_table, shown_as, table_from
from even_sieve.public.reading import table_from_bytes
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.string_columns import column_of_tokens


def csv(*cells, header="rate"):
    rows = "\n".join(f'{number},"{cell}"' for number, cell in enumerate(cells))
    return table_from_bytes(f"number,{header}\n{rows}\n".encode(), "calls.csv")


@pytest.mark.parametrize(("cells", "shown", "total"), [
    (["12.5%", "7 %", ""], "percent", "19.5 %"), (["12.25%", "0.5%"], "percent", "12.75 %"),
    (["5%", "7"], "", "7.05"), (["€ 5.50", "€7", ""], "€", "€12.50"), (["$5", "€7"], "", "12"),
    (["¥1,200", "¥5"], "¥", "¥1,205"), (["(€5.00)", "€7.25"], "€", "€2.25"), (["5", "7"], "", "12"),
])  # fmt: skip
def test_what_all_numbers_of_a_text_column_have_is_kept(cells, shown, total):
    table = csv(*cells)
    assert table.core.column("rate").shown == shown
    found = table.tally("sum of rate", "rows", "share of rate", "variance of rate")
    lines = [line.split(maxsplit=3) for line in str(found).splitlines()]
    assert ["sum", "of", "rate", total] in lines
    assert ["rows", str(len(cells))] in lines
    assert table.listing().shown == ("", shown)


def test_figures_of_percent_are_percent_where_they_are_of_its_units():
    table = csv("12.5%", "7%")
    found = str(
        table.tally(
            "average of rate",
            "difference of max of rate and min of rate",
            "ratio of max of rate to min of rate",
        )
    )
    for part in ("9.75 %", "5.5 %", "1.79"):
        assert part in found
    with shown_as({"rate": "ungrouped"}):
        assert "19.5%" in str(table.tally("sum of rate"))
    with shown_as({"sum of rate": "EUR"}):
        assert "€0.20" in str(table.tally("sum of rate"))
    mixed = table_from({"rate": [0.5, "waived"]})
    assert "waived" in str(mixed.tally("last of rate"))


def test_percent_is_kept_over_blanks_parts_and_files(tmp_path):
    long = csv(*(f"{number % 90}.5%" for number in range(70_000)), "", "7%")
    assert long.core.column("rate").shown == "percent"
    assert long.sift("rate is filled").core.column("rate").shown == "percent"
    part, other = csv("12.5%", ""), csv("7")
    assert combine([part, part]).core.column("rate").shown == "percent"
    assert combine([part, other]).core.column("rate").shown == ""
    for name, cell in (("a", "5%"), ("b", "7%")):
        (tmp_path / f"{name}.csv").write_text(f"rate\n{cell}\n")
    assert read_table(tmp_path).core.column("rate").shown == "percent"


@pytest.mark.parametrize("ending", ["xlsx", "ods"])
def test_workbooks_keep_percent(tmp_path, ending):
    file = tmp_path / f"rates.{ending}"
    csv("12.5%", "7%", "").write(file)
    assert read_table(file).core.column("rate").shown == "percent"
    assert "19.5 %" in str(read_table(file).tally("sum of rate"))
    if ending == "xlsx":
        book = openpyxl.load_workbook(file)
        sheet = book["rows"]
        assert sheet["B2"].number_format == '0.0" "%'
        sheet["B4"] = 3
        book.save(file)
        assert read_table(file).core.column("rate").shown == ""


@given(
    st.lists(
        st.sampled_from(["5%", "7.5 %", "€3", "€ 1,200.50", "$4", "12", "(€7)", "0.5%"]),
        min_size=1,
        max_size=12,
    )
)
def test_both_ways_of_reading_tell_the_same(cells):
    whole = csv(*cells).core.column("rate")
    tokens = list(dict.fromkeys(cells))
    import numpy as np

    codes = np.array([tokens.index(cell) for cell in cells], dtype=np.uint8)
    assert column_of_tokens("rate", tokens, codes, SourceOptions()).shown == whole.shown


@pytest.mark.parametrize(("shown", "kept"), [
    (["#,##0.00 [$€-407]"] * 2, "€"), (['_-* #,##0.00 "€"_-;-* #,##0.00 "€"_-'] * 2, "€"),
    (['"EUR" 0.00', "0.00 [$EUR]"], "EUR"), (["[$kr-414] 0", "[$kr-414] 0.00"], "kr"), (["[$-407]0.00"] * 2, ""),
    (['"£"#,##0.00', "0.00"], ""), (['0.00 "kg"', '0 "t"'], ""), (["[Red]\\$0"] * 2, "$"), ([44, 44], ""),
    (["$0", "0.00 €"], "mixed"),
])  # fmt: skip
def test_workbooks_keep_the_currency_of_their_cells(tmp_path, shown, kept):
    book = openpyxl.Workbook()
    book.active.append(["berth", "fee"])
    for row, code in enumerate(shown, 2):
        book.active.append([f"A{row}", 10.5])
        cell = book.active.cell(row, 2)
        cell.number_format = openpyxl.styles.numbers.BUILTIN_FORMATS.get(code, code)
    book.save(tmp_path / "fees.xlsx")
    table = read_table(tmp_path / "fees.xlsx")
    told = [notice for notice in table.core.notices if "currency signs, $ and €" in notice.text]
    assert (table.core.column("fee").shown, len(told)) == (
        kept.removeprefix("mixed"),
        kept == "mixed",
    )


def test_criteria_are_written_as_a_workbook_shows_its_numbers(tmp_path):
    book = openpyxl.Workbook()
    rows = [["share", "fee", "tons"], [0.25, 1250.5, 1250.5], [0.3, 5, 5]]
    for row in rows:
        book.active.append(row)
    for row in ("2", "3"):
        book.active[f"A{row}"].number_format = "0%"
        book.active[f"B{row}"].number_format = '"€" #,##0.00'
    book.save(tmp_path / "fees.xlsx")
    table = read_table(tmp_path / "fees.xlsx")
    for where in ("share = 25%", "share in 20%..26%", "fee = € 1,250.50", "fee > 1,000"):
        found = table.tally("rows", where=where)
        assert (found[0].value, table.recheck(found)[0].again) == (1, 1), where
    assert table.tally("rows", where="tons = 1,250.50")[0].value == 0  # and it is told


def test_a_currency_of_an_open_document_is_kept(tmp_path):
    from odf.opendocument import OpenDocumentSpreadsheet
    from odf.table import Table, TableCell, TableRow
    from odf.text import P

    def cell(text, **more):
        made = TableCell(**more)
        made.addElement(P(text=text))
        return made

    document = OpenDocumentSpreadsheet()
    sheet = Table(name="fees")
    rows = [["berth", "fee", "mixed"], ["A", "EUR", "EUR"], ["B", "EUR", "USD"]]
    for number, row in enumerate(rows):
        made = TableRow()
        for place, each in enumerate(row):
            how = {"valuetype": "currency", "currency": each, "value": "10.5"}
            made.addElement(cell(each, **(how if number and place else {"valuetype": "string"})))
        sheet.addElement(made)
    document.spreadsheet.addElement(sheet)
    document.save(tmp_path / "fees.ods")
    table = read_table(tmp_path / "fees.ods")
    assert [column.shown for column in table.core.columns] == ["", "EUR", ""]
    assert "EUR and USD: they count as alike" in table.core.notices[0].text
