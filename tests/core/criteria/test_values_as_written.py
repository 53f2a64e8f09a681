"""Values in criteria are read as the file's own cells are; what cannot be put in order is refused."""

from datetime import datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from even_sieve import read_table, table_from
from even_sieve.core.cells.written import DateOrder, read_ordered_date, read_written_number
from even_sieve.core.errors import CallError
from even_sieve.core.recheck.reading import day_as_written, number_as_written

OFFICE = (
    "Schiff;Betrag;Anteil;Ankunft\n"
    'Reiher;1.234,56;10%;05.01.2031\nMöwe;50,00;25%;06.01.2031 14:30\n"Alk";49,99;7%;31.03.2031\n'
    "Tölpel;1.000,00;100%;01.04.2031\n"
)


@pytest.fixture(scope="module")
def office(tmp_path_factory):
    path = tmp_path_factory.mktemp("office") / "hafen.csv"
    path.write_text(OFFICE, encoding="cp1252")
    return read_table(path, decimal=",", date_order="day-month-year")


MATCHING = [
    ("Betrag < 50,00", (4,)), ("Betrag > 1.000", (2,)), ("Betrag >= 1.000,00", (2, 5)),
    ("Betrag = 50,00 | 1.000", (3, 5)), ("Betrag in 49,99..1.000", (3, 4, 5)), ("Betrag > 49.995", ()),
    ("Betrag > 49.5", (2, 3, 4, 5)), ("Betrag = 50", (3,)), ("Ankunft = 05.01.2031", (2,)),
    ("Ankunft > 05.01.2031 and Ankunft <= 31.03.2031", (3, 4)), ("Ankunft = 06.01.2031 14:30", (3,)),
    ("Ankunft in 06.01.2031..31.03.2031", (3, 4)), ("Ankunft in 2031-Q1", (2, 3, 4)), ('Betrag = "50,00"', ()),
]  # fmt: skip


@pytest.mark.parametrize(("where", "rows"), MATCHING)
def test_a_value_is_what_the_file_would_read(office, where, rows):
    assert office.sift(where).row_numbers == rows
    found = office.tally("rows", where=where)
    assert office.recheck(found)[0].value == len(rows)
    assert office.mark(hidden=where).tally("rows")[0].value == 4 - len(rows)
    assert office.tally("rows", where=str(found.where))[0].value == len(rows)


def test_parameters_ranges_bands_and_ladders_read_alike(office):
    assert office.tally("rows", where="Betrag >= {b}", parameters={"b": "1.000,00"})[0].value == 2
    assert office.tally("rows", where="Ankunft in {q}", parameters={"q": "2031-Q1"})[0].value == 3
    assert office.tally("rows", where={"Betrag": "< 50,00"})[0].value == 1
    bands = office.tally("rows", by="Betrag in bands 49,995; 1.000")
    assert [line.tallies[0].value for line in bands] == [1, 1, 2]
    sized = office.derive("size = small if Betrag < 50,00, else large")
    assert sized.column("size") == ["large", "large", "small", "large"]


def test_a_value_that_could_be_read_in_two_ways_is_told(office):
    (notice,) = [n for n in office.tally("rows", where="Betrag > 1.000").notices
                 if n.code == "value-read-as-the-file-writes"]  # fmt: skip
    assert notice.text == (
        "Betrag > 1.000: '1.000' was read as 1000, as column 'Betrag' writes numbers, and not as 1.000"
    )


POINTS = table_from({"dues": [1200.5, 80, 5000], "arrived": [None] * 3, "zone": ["a", "b", "c"]})
DAYS = table_from({"arrived": [__import__("datetime").date(2031, 1, 5)] * 2, "dues": [1, "waived"]})
MOSTLY = table_from({"arrived": [__import__("datetime").date(2031, 1, 5)] * 2 + ["2031-Q9"]})
REFUSED = [
    (MOSTLY, "arrived in 2031-Q7", "A period is written 2031-Q1, 2031-03 or 2031-W07"),
    (POINTS, "dues >= 5,000", "'5,000' is no number and no date, and column 'dues' holds numbers\nA number is written 5000"),
    (POINTS, "dues > average", "Write a number or a date; for another column write @ before its name"),
    (POINTS, "dues in 5,000..6,000", "A number is written 5000"),
    (DAYS, "arrived < 2031-Q7", "A period is written 2031-Q1, 2031-03 or 2031-W07"),
    (DAYS, "arrived > 31/03/2031", "A date is written 2031-03-31"),
    (DAYS, "arrived = 05-May-2031", "A date is written 2031-05-05"),
    (DAYS, "arrived = May 2031", "A period is written 2031-05"),
    (DAYS, "arrived > 31-Jun-2031", "The calendar has no such day"),
    (DAYS, "arrived <= 03/04/2031", "A date is written 2031-03-04 or 2031-04-03"),
    (DAYS, "arrived in 2031-Q7", "A period is written 2031-Q1, 2031-03 or 2031-W07"),
    (DAYS, "arrived = 2031-Q1 | lst month", "A period is written previous month"),
    (DAYS, "arrived in last year", "A period is written previous year"),
    (DAYS, "arrived >= past 7 days", "A period is written last 7 days"),
    (DAYS, "arrived in YTD", "A period is written year to date"),
    (DAYS, "arrived in march", "A period is written 2031-03, with its year"),
    (DAYS, "arrived in Q3", "A period is written 2031-Q1, 2031-03 or 2031-W07"),
    (DAYS, "arrived in 2031-01-01 to 2031-01-31", "A window is written 2031-01-01..2031-01-31"),
    (DAYS, "arrived = none", "For cells without a value write: is blank"),
    (DAYS, "arrived != 31.02.2031", "The calendar has no such day"),
    (DAYS, "dues < waived", "'waived' is no number and no date"),
]  # fmt: skip


@pytest.mark.parametrize(
    ("where", "hint"),
    [
        ("dues = 80-100", "; a window is written 80..100"),
        ("zone = a, c", "; alternatives are written a | c"),
        ("zone = ''", "; for cells without a value write: is blank"),
        ("zone = a, d", "in column 'zone'"),
    ],
)
def test_what_a_value_seems_to_be_meant_as_is_told(where, hint):
    found = POINTS.tally("rows", where=where)
    texts = [each.text for each in found.notices]
    assert found[0].value == 0
    assert any(text.endswith(hint) for text in texts)


@pytest.mark.parametrize(("table", "where", "message"), REFUSED)
def test_an_order_to_what_is_no_number_and_no_date_is_refused(table, where, message):
    asks = (
        lambda: table.tally("rows", where=where),
        lambda: table.tally(f"rows where {where}"),
        lambda: table.mark(hidden=where),
        lambda: table.derive(f"size = small if {where}, else large"),
    )
    for ask in asks:
        with pytest.raises(CallError) as caught:
            ask()
        assert message in str(caught.value)


_WRITTEN = st.text(st.sampled_from("0123456789.,' -+()%€$"), max_size=9)


@given(_WRITTEN, st.sampled_from([".", ","]))
def test_the_recheck_reads_numbers_as_the_source_does(text, decimal):
    assert number_as_written(text, decimal) == read_written_number(text, decimal)


_DAY = r"[0-9]{1,4}[./-][0-9]{1,2}[./-][0-9]{1,4}"
_CLOCK = r"[ T,]{1,2}[0-9]{1,2}[:.h][0-9]{2}([:.][0-9]{2}([.,][0-9]{1,6})?)?( ?[AaPp][.]?[Mm][.]?)?"


@given(st.from_regex(rf"\A{_DAY}({_CLOCK})?[:.,ap0 ]?\Z"), st.sampled_from(DateOrder))
def test_the_recheck_reads_dates_as_the_source_does(text, order):
    ours, theirs = day_as_written(text, order), read_ordered_date(text, order)
    if theirs is not None and not isinstance(theirs, datetime):
        theirs = datetime(theirs.year, theirs.month, theirs.day)
    assert ours == theirs


def test_a_text_that_some_row_holds_is_asked_for_though_it_seems_a_date():
    assert MOSTLY.tally("rows", where="arrived = 2031-Q9")[0].value == 1
