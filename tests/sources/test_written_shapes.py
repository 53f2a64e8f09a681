"""A column in one written shape is read at once to the cells that it has one by one."""

import random

import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from even_sieve import read_table
from even_sieve.core.cells.likeness import (
    all_like_dates,
    all_like_numbers,
    looks_like_date,
    looks_like_number,
)
from even_sieve.core.cells.times import all_like_times, looks_like_time
from even_sieve.core.cells.written import DateOrder, read_ordered_date
from even_sieve.sources import long_csv, long_csv_file, string_columns
from even_sieve.sources.arrow_strings import Strings
from even_sieve.sources.csv import read
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.unpacking import LongAt

pytestmark = pytest.mark.usefixtures("each_way")


def grouped(number, separator):
    return f"{number:,}".replace(",", separator)


DIGITS_FIRST = [
    "%d-A",
    "%de5",
    "%d:30",
    "1,%d",
    "+%d x",
    "2031-01-%d",
    "1.2.%d",
    "%d%%",
    ".%d",
    "%d.",
    "-0%d",
    "--inf",
    "99999999999999%d",
    "-%d.5e-3",
    "+inf%d",
    "%d.5",
    "%d",
]
SHAPES = {
    "comma": (lambda r: f"{r.randrange(-9999, 9999)},{r.randrange(100):02}", {"decimal": ","}),
    "points between thousands": (
        lambda r: f"{grouped(r.randrange(10**7), '.')},{r.randrange(100):02}",
        {"decimal": ","},
    ),
    "commas between thousands": (
        lambda r: (
            f"{r.choice(['', '-', '+'])}{grouped(r.randrange(10**7), ',')}.{r.randrange(100)}"
        ),
        {},
    ),
    "more digits than are kept": (
        lambda r: f"{grouped(r.randrange(10 ** r.randrange(1, 24)), ',')}.{r.randrange(10**6)}",
        {},
    ),
    "currency before": (
        lambda r: f"{r.choice(['$ ', '$', '-€', '£'])}{grouped(r.randrange(10**6), ',')}",
        {},
    ),
    "currency after": (
        lambda r: f"{grouped(r.randrange(10**6), '.')},5{r.choice([' €', '€'])}",
        {"decimal": ","},
    ),
    "spaces between thousands": (
        lambda r: grouped(r.randrange(10**7), r.choice(" \u202f’")) + f",{r.randrange(100):02}",
        {"decimal": ","},
    ),
    "brackets": (
        lambda r: (
            r.choice(["(%s)", "%s", "($ %s)", "-%s", "$(%s)", "(%s) €"])
            % grouped(r.randrange(10**7), ",")
        ),
        {},
    ),
    "mixed separators": (
        lambda r: (
            r.choice(["1 234.567", "1,234,567", "1'234 5", "(-5)", "12 34", "$(7)"])
            + str(r.random())[2:5]
        ),
        {},
    ),
    "digits first": (
        lambda r: r.choice(DIGITS_FIRST).replace("%d", str(r.randrange(10**5))),
        {},
    ),
    "digits first, beside a comma": (
        lambda r: r.choice(["%d-A", "%d,5", "5 €%d", "%dx", "%d.x"]) % r.randrange(10**5),
        {"decimal": ","},
    ),
    "percent": (
        lambda r: f"{r.uniform(-99, 99):.{r.randrange(5)}f}{r.choice(['%', ' %', '%', ''])}",
        {},
    ),
    "times with offsets": (
        lambda r: (
            f"2031-{r.randrange(1, 13):02}-{r.randrange(1, 29):02}{r.choice('T ')}"
            f"{r.randrange(24):02}:{r.randrange(60):02}{r.choice(['', ':05', ':05.25'])}"
            f"{r.choice(['Z', '+01:00', '-0330', '+05'])}"
        ),
        {},
    ),
    "seven decimals of seconds": (
        lambda r: (
            f"2031-{r.randrange(1, 13):02}-{r.randrange(1, 29):02} "
            f"{r.randrange(24):02}:00:59.{r.randrange(10**7):07}"
        ),
        {},
    ),
    "moments of any form": (
        lambda r: (
            f"{r.choice([1, 1900, 2028, 9999])}-{r.randrange(14):02}-{r.randrange(32):02}".zfill(
                10
            ).replace("-", r.choice(["-", "-", ""]))
            + r.choice("tT ")
            + f"{r.randrange(25):02}{r.choice([':', ''])}{r.randrange(61):02}"
            + r.choice(["", ":05", "05", ":61", ":59,5", "59.1234567", ":00.000000000"])
            + r.choice(["", "", "z", " +02:00", "-0330", " +24:00", "+05:61", " UTC"])
        ),
        {},
    ),
    "points first": (lambda r: f"{r.choice(['', '-', '+'])}.{r.randrange(10**6)}", {}),
    "points first, and powers": (
        lambda r: f".{r.randrange(10**6)}{r.choice(['', 'e3', 'E-7'])}",
        {},
    ),
    "exponents": (lambda r: f"{r.uniform(-10, 10):.{r.randrange(15)}e}", {}),
    "exponents here and there": (
        lambda r: r.choice(["1.5", "2e3", "-1E-7", "12345", "0", "3e+05", f"{r.random()}"]),
        {},
    ),
    "large exponents": (lambda r: f"{r.randrange(1, 10**6)}e{r.randrange(-30, 30)}", {}),
    "doubles as they print": (lambda r: repr(r.uniform(-1, 1) * 10 ** r.randrange(8)), {}),
    "doubles below one": (lambda r: f"{r.random():.17f}", {}),
    "doubles, small ones too": (lambda r: repr(r.random() * 10 ** r.randrange(-9, 3)), {}),
    "many digits": (
        lambda r: f"{r.choice(['', '-', '+'])}{r.randrange(10 ** r.randrange(1, 20))}",
        {},
    ),
    "sixteen digits": (lambda r: f"{r.randrange(10**14)}.{r.randrange(400)}", {}),
    "at the edge": (lambda r: f"{r.choice([922, 923])}.{r.randrange(10**16):016}", {}),
    "long ones with exponents": (
        lambda r: f"{r.randrange(10**6)}.{r.randrange(10**12)}e{r.randrange(-5, 5)}",
        {},
    ),
    "codes": (lambda r: f"{r.randrange(10**6):08}", {}),
    "days first": (
        lambda r: f"{r.randrange(1, 29)}.{r.randrange(1, 13)}.{r.randrange(1000, 9999)}",
        {"date_order": "day-month-year"},
    ),
    "months first": (
        lambda r: f"{r.randrange(1, 13):02}/{r.randrange(1, 29):02}/{r.randrange(1000, 9999)}",
        {"date_order": "month-day-year"},
    ),
    "halves of a day": (
        lambda r: (
            f"{r.randrange(1, 14)}/{r.randrange(1, 29):02}/2031{r.choice([' ', ', '])}"
            f"{r.randrange(14)}:{r.randrange(60):02}{r.choice(['', ':05', ':05.250'])}"
            f"{r.choice([' PM', ' AM', 'pm', ' a.m.', chr(0x202F) + 'PM', ' XM', ''])}"
        ),
        {"date_order": "month-day-year"},
    ),
    "years first": (
        lambda r: (
            f"2031{r.choice('/.-')}{r.randrange(1, 13)}/{r.randrange(1, 29)}".replace(
                "/", mark := r.choice("/.-")
            ).replace(".", mark)
            + r.choice(
                ["", " 14:30", " %d:%02d pm", " %d:%02d PM", "T10:00Z", " 10:00+02:00"]
            ).replace("%d:%02d", f"{r.randrange(14)}:{r.randrange(60):02}")
        ),
        {"date_order": "year-month-day"},
    ),
    "no such day": (
        lambda r: f"{r.randrange(1, 33)}-{r.randrange(1, 14)}-2031",
        {"date_order": "day-month-year"},
    ),
    "groups that are off": (
        lambda r: r.choice(["1,23", "1,234", "12,34.5", "1.234,5", "0,123"]) + str(r.randrange(9)),
        {},
    ),
    "plain": (lambda r: f"{r.randrange(10**6) / 100}", {"decimal": ","}),
}
WORDS = ["", "#N/A", "waived", "öffen", "true", "inf", "Infinity", "N/A", "n/a", "#x", "2031-05-04"]
ODD = ["", "", "#N/A", "waived", "12%", "(7)", " 5 ", "1e400", "007", "1.2.3", "٣", "-", "$"]


@pytest.mark.parametrize("odd", [0.0, 0.02, 0.7])
@pytest.mark.parametrize("shape", SHAPES)
@pytest.mark.parametrize("others", [ODD, WORDS], ids=["odd", "words"])
@pytest.mark.parametrize("blank_as", [[], ["N/A", "-"]], ids=["", "blanks"])
def test_a_written_shape_is_read_as_one_by_one(shape, odd, others, blank_as):
    make, how = SHAPES[shape]
    options = SourceOptions.of(**how, blank_as=blank_as)
    rng = random.Random(f"{shape}{odd}{random.random()}")
    found = [rng.choice(others) if rng.random() < odd else make(rng) for _ in range(5000)]
    found[:2] = ["", make(rng)]
    compare_with_one_by_one(found, options)


def compare_with_one_by_one(found, options):
    column = string_columns.column_from_strings("x", pa.array(found, pa.string()), options)
    coded = pa.array(found, pa.string()).dictionary_encode()
    slow = string_columns.column_of_tokens(
        "x", coded.dictionary.to_pylist(), coded.indices.to_numpy(), options
    )
    assert list(column.cells()) == list(slow.cells())
    assert [type(cell) for cell in column.cells()] == [type(cell) for cell in slow.cells()]
    assert (column.counts, column.trimmed, column.decimals) == (
        slow.counts,
        slow.trimmed,
        slow.decimals,
    )
    assert column.conventions == slow.conventions
    assert (column.notices, column.shown) == (slow.notices, slow.shown)


STRAYS = [
    "#N/A", "waived", "1,2", "12 (p)", "2031-02-30", "31.04.2031", "05.04.2031 10:00", "yes", "1e400",
    "1e-320", "9" * 20, "1,234,567,890,123,456,789", "12.5-", "—", "2031-01-05T10:00+02:00", "٣", "€",
    "5%", "(7", "1_000", "007", "$5", "€ 1e5", "1e5%", "12,5 €", "£1,234.50", "1’000", "(5 %)", ".5",
    "3/4/2031 2:30 PM", "(-5)", "2031/5/6", "4a", "1,5e3",
]  # fmt: skip


@pytest.mark.parametrize("how", [{}, {"decimal": ","}, {"date_order": "day-month-year"}])
@pytest.mark.parametrize("shape", SHAPES)
def test_one_odd_cell_among_many_is_read_as_one_by_one(shape, how):
    make, own = SHAPES[shape]
    rng = random.Random(f"{shape}{how}{random.random()}")
    found = [make(rng) for _ in range(4200)]
    for stray in rng.sample(STRAYS, rng.choice([1, 1, 2])):
        found[rng.randrange(len(found))] = stray
    compare_with_one_by_one(found, SourceOptions.of(**{**own, **how}))


HOW = {
    "date_order": [None, None, "day-month-year", "month-day-year", "year-month-day"],
    "decimal": [None, ".", ","],
    "blank_as": [[], [], ["–", "N/A"], ["ß"], ["-"], ["999", "k. A."], ["ss", "K. a.", " "]],
}  # fmt: skip


@pytest.mark.parametrize("turn", range(24))
def test_shapes_beside_one_another_are_read_as_one_by_one_whatever_is_said(turn):
    seed = random.randrange(10**9)
    rng = random.Random(seed)
    makes = [SHAPES[name][0] for name in rng.sample(list(SHAPES), rng.randrange(1, 4))]
    makes.append(
        lambda r: r.choice([*WORDS, *ODD, *STRAYS, "–", "SS", "ß", "ſs", "\u212a. A.", "Ké", "999"])
    )
    shares = rng.choices([1, 20, 200], k=len(makes))
    found = [make(rng) for make in rng.choices(makes, shares, k=4500)]
    compare_with_one_by_one(found, SourceOptions.of(**{k: rng.choice(v) for k, v in HOW.items()}))


@pytest.mark.parametrize("how", [
    {"decimal": ","}, {"date_order": "day-month-year"}, {"date_order": "year-month-day"},
    {"blank_as": ["–", "0"]}, {"decimal": ",", "date_order": "month-day-year", "blank_as": ["999"]},
])  # fmt: skip
@pytest.mark.parametrize("shape", SHAPES)
def test_no_column_is_read_one_by_one_because_of_what_is_said(shape, how, monkeypatch):
    def one_by_one(*given):
        raise AssertionError("read one by one")

    monkeypatch.setattr(string_columns, "column_of_tokens", one_by_one)
    make, own = SHAPES[shape]
    rng = random.Random(f"{shape}{how}")
    found = [make(rng) for _ in range(5000)]
    for cell in ["waived", "#N/A", "", "2031-02-30", "5,5", "007"] * rng.randrange(2):
        found[rng.randrange(5000)] = cell
    if len(set(found)) > 2000:  # of others each different one is read
        column = string_columns.column_from_strings(
            "x", pa.array(found), SourceOptions.of(**{**own, **how})
        )
        assert column.length == len(found)


@pytest.mark.parametrize(
    ("shape", "stray"),
    [("thousands", "#N/A"), ("brackets", "5%"), ("percent", "1.2.3"), ("comma", "—"), ("comma", "5%"),
     ("exponents", "1_000"), ("sixteen digits", "5%"), ("currency", "2031-13-01 10:00")],
)  # fmt: skip
def test_one_odd_cell_has_no_column_read_one_by_one(shape, stray, monkeypatch):
    def one_by_one(*given):
        raise AssertionError("read one by one")

    made = [name for name in SHAPES if shape in name]
    make, how = SHAPES[made[0]]
    rng = random.Random(shape)
    found = [make(rng) for _ in range(6000)]
    found[4321] = stray
    monkeypatch.setattr(string_columns, "column_of_tokens", one_by_one)
    column = string_columns.column_from_strings("x", pa.array(found), SourceOptions.of(**how))
    assert column.length == len(found)


@pytest.mark.parametrize(
    "shape", ["comma", "commas between thousands", "exponents", "days first", "codes"]
)
def test_a_long_file_in_pieces_is_the_same(shape, tmp_path, monkeypatch):
    make, how = SHAPES[shape]
    rng = random.Random(shape)
    lines = "".join(f"{i}\t{make(rng)}\n" for i in range(9000))
    path = tmp_path / "calls.tsv"
    path.write_text(f"n\tx\n{lines}")
    monkeypatch.setattr(long_csv_file, "_PIECE", 50_000)
    options = SourceOptions.of(**how)
    pieces, whole = (
        long_csv.read([LongAt(path, "", "x")], "x", options),
        read(path.read_bytes(), "x", options),
    )
    assert list(pieces.column("x").cells()) == list(whole.column("x").cells())
    assert pieces.column("x").notices == whole.column("x").notices


_NEAR_NUMBERS = st.one_of(
    st.text("0123456789.,-/ TeE%()€$krEUR_\n٣ſżé'", max_size=14),
    st.from_regex(r"(kr|EUR|€|zł|\()? ?-?[0-9]{1,3}([ .,'][0-9]{3}){0,2}([.,][0-9]{2})?[)]?( ?(%|EUR|Kč|t))?(e-?[0-9])?", fullmatch=True),
    st.from_regex(r"(-?[0-9]{1,2} days?, )?-?[0-9]{1,2}:[0-9]{2}(:[0-9]{2}([.,][0-9])?)?( ?[ap]\.?m\.?)?", fullmatch=True),
    st.from_regex(r"[0-9]{1,4}(([./-][0-9]{1,2}){2}|\.? (May|août|март)\.? )([0-9]{2}){0,2}([T ,]{1,2}[0-9]{2}:[0-9]{2})?", fullmatch=True),
)  # fmt: skip


@settings(deadline=None)
@given(st.lists(_NEAR_NUMBERS, min_size=1, max_size=20))
def test_texts_that_look_like_numbers_or_dates_are_found_at_once_as_one_by_one(texts):
    together = Strings(pa.array(texts, pa.string()))
    pairs = ((all_like_numbers, looks_like_number), (all_like_dates, looks_like_date),
             (all_like_times, looks_like_time))  # fmt: skip
    for all_like, one in pairs:
        found = list(all_like(together))
        assert found == [at for at, text in enumerate(texts) if one(text)]
        assert all_like(texts) == found


@pytest.mark.parametrize(
    "clock", ["14h30", "14.30", "14:30", "14:30:05", "14.30.05", "14:30 Uhr", "14h", "24h00"]
)
@pytest.mark.parametrize("rows", [3, 9000])
def test_times_of_other_countries_are_read_or_told(tmp_path, clock, rows):
    days = [f"{1 + at % 28}/{1 + at % 12}/{2000 + at % 40} {clock}" for at in range(rows)]
    (tmp_path / "calls.csv").write_text(
        "n,day\n" + "".join(f"{n},{day}\n" for n, day in enumerate(days))
    )
    told = read_table(tmp_path / "calls.csv")
    assert "look like dates" in str(told.tally("rows", "max of day").notices)
    read = read_table(tmp_path / "calls.csv", date_order="day-month-year").column("day")
    wanted = [read_ordered_date(day, DateOrder.DAY_FIRST) or day for day in days]
    assert read == wanted


TIMED = {
    "year-month-day": "203{0}/{1}/{2} ",
    "day-month-year": "{2}.{1}.203{0} ",
    "month-day-year": "{1}/{2}/203{0} ",
}


@pytest.mark.parametrize("decimal", [".", ","])
@pytest.mark.parametrize("beside", [None, "{4} %", "{0}.5", "{0},5", "€ {4}", "Pier {1}"])
@pytest.mark.parametrize("order", TIMED)
@pytest.mark.parametrize("clock", ["{3}h{4:02}", "{3}.{4:02}", "{3}:{4:02} PM"])
def test_times_of_other_countries_are_read_beside_anything(clock, order, beside, decimal):
    options = SourceOptions.of(date_order=order, decimal=decimal)
    chance = random.Random(f"{order}{beside}{decimal}{clock}")
    parts = [
        [chance.randrange(*ends) for ends in ((10,), (1, 13), (1, 29), (24,), (60,))]
        for _ in range(6000)
    ]
    forms = [TIMED[order] + clock, *[beside] * (beside is not None)]
    tokens = [chance.choices(forms, [20, 1][: len(forms)])[0].format(*each) for each in parts]
    cells = read(
        "\n".join(["at;n", *(f"{each};1" for each in tokens)]).encode(), "calls.csv", options
    )
    wanted = [read_ordered_date(each, DateOrder(order)) for each in tokens]
    found = list(cells.column("at").cells())
    assert [cell for cell, day in zip(found, wanted, strict=True) if day] == [
        d for d in wanted if d
    ]
