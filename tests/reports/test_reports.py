"""Reports: the file is checked, its blocks are the commands' own results, the page is whole."""

import json
import os
import re
import subprocess
import sys
import time
import zipfile
from datetime import date
from fractions import Fraction
from html.parser import HTMLParser

import jsonschema
import openpyxl
import pytest
from click.testing import CliRunner

from even_sieve import Query, Report, read_table, recheck
from even_sieve.cli.main import main
from even_sieve.core.errors import ParameterError, SieveError
from even_sieve.core.tally import BUCKETS
from even_sieve.demo.make import REPORT, write_files
from even_sieve.renderers.workbook import write_workbook
from even_sieve.reports.changes import changes
from even_sieve.reports.model import ReportError, ReportFile

SMALL = """
title = "Calls <b> & more"
{more}
[source]
file = "calls.csv"
[[blocks]]
kind = "figures"
measures = ["rows", "sum of dues"]
{block}
"""
RUN = "from even_sieve.cli.main import main; main()"
# What is added at the top, what to the block, and what is said.
FAULTS = [
    ("", 'mesures = ["rows"]', "blocks 1: no key 'mesures' here; did you mean 'measures'?"),
    ("where = 3", "", "where: input should be a valid string, not 3"),
    ("fiscal_start = 13", "", "fiscal_start: input should be less than or equal to 12, not 13"),
    ("as_of = 'today'", "", "as_of: input should be a valid date, not 'today'"),
    ("tilte = 'x'", "", "no key 'tilte' here; did you mean 'title'?"),
    ("", '[[blocks]]\nkind = "pie"', "blocks 2: a block needs a kind: figures, breakdown, lines, bridge, rows"),
    ("", '[[blocks]]\nkind = "breakdown"\nmeasures = ["rows"]\nby = []',
     "blocks 2, by: list should have at least 1 item after validation, not 0, not []"),
    ("", '[[blocks]]\nkind = "bridge"', "blocks 2: the key 'measure' is missing"),
    ("", '[[blocks]]\nkind = "rows"\nlimit = 0',
     "blocks 2, limit: input should be greater than or equal to 1, not 0"),
    ("", '[[blocks]]\nkind = "lines"\nmeasures = ["rows"]\nlines = [{ label = "a" }]',
     "blocks 2, lines 1: an entry is a heading, or a label with either where or sum, not {'label': 'a'}"),
    ("", '[[blocks]]\nkind = "lines"\nmeasures = ["rows"]\nlines = [{ label = "a", sums = ["b"] }]',
     "blocks 2, lines 1: no key 'sums' here; did you mean 'sum'?"),
    ("", '[outputs]\npdf = "a.pdf"', "outputs: no key 'pdf' here; known are html, markdown, json"),
    ("", '[[blocks]]\nkind = "breakdown"\nmeasures = ["rows"]\nby = ["a", "b", "c"]\nchart = "a.svg"',
     "blocks 2: a chart goes along two axes at the most: leave out one of by"),
    ("", '[[blocks]]\nkind = "bridge"\nmeasure = "rows"\nchart = "a.pdf"',
     "blocks 2, chart: a name that ends in .png or .svg is needed, not 'a.pdf'"),
    ("", '[outputs]\nworkbook = "a.csv"', "outputs, workbook: a name that ends in .ods or .xlsx is needed, not 'a.csv'"),
    ("", '[parameters.a]\nkind = "float"', "parameters, a, kind: input should be 'number', 'date'"),
    ("title = 'twice'", "", "this is no TOML: Cannot overwrite a value"),
]  # fmt: skip
# What a block asks for that cannot be had.
BLOCKS = [
    ('measures = ["sum of duse"]', "blocks 1: measure 'sum of duse': no column 'duse'\nDid you mean 'dues'?"),
    ('measures = ["smu of dues"]', "blocks 1: measure 'smu of dues': no measure 'smu'"),
    ('measures = ["rows"]\nwhere = "zone Outer"', "blocks 1: criteria 'zone Outer', position 1: no comparison"),
    ('measures = ["only of berth"]', "blocks 1: measure 'only of berth': 426 values"),
]  # fmt: skip


@pytest.fixture
def folder(tmp_path):
    """A folder with the demo's files."""
    write_files(tmp_path)
    return tmp_path


def small(folder, more="", block=""):
    file = folder / "small.toml"
    file.write_text(SMALL.format(more=more, block=block))
    return file


@pytest.mark.parametrize(("more", "block", "message"), FAULTS)
def test_a_fault_in_the_file_names_its_key(folder, more, block, message):
    file = small(folder, more, block)
    with pytest.raises(ReportError) as caught:
        Report.from_file(file)
    assert str(caught.value).startswith(f"{file}: {message}")
    assert caught.value.exit_status == 2


@pytest.mark.parametrize(("block", "message"), BLOCKS)
def test_a_block_that_cannot_be_worked_out_is_named(folder, block, message):
    file = small(folder)
    file.write_text(file.read_text().replace('measures = ["rows", "sum of dues"]', block))
    with pytest.raises(SieveError) as caught:
        Report.from_file(file).run()
    assert str(caught.value).startswith(f"{file}: {message}")


@pytest.mark.parametrize(
    ("more", "message"),
    [
        ('[derived]\nx = "dues +"', "derived, x: derive 'x': 'dues +', position 7: a number or"),
        ('[[look_ups]]\nfile = "tarif.csv"\non = ["class"]', "look_ups 1: "),
        (
            '[marks]\nhidden = ["zone = Outer", "zoen = Outer"]',
            "marks, hidden 2: criteria 'zoen = Outer'",
        ),
        ('[marks]\nby = "zoen"', "marks, by: no column 'zoen'"),
    ],
)
def test_what_comes_before_the_blocks_is_named_too(folder, more, message):
    file = small(folder, "", more)
    with pytest.raises(SieveError) as caught:
        Report.from_file(file).run()
    assert str(caught.value).startswith(f"{file}: {message}")


def test_every_fault_is_told_at_once_and_a_missing_file_too(folder):
    with pytest.raises(ReportError) as caught:
        Report.from_file(small(folder, "where = 3\nkeep = 4"))
    assert [key for key, _ in caught.value.faults] == ["where", "keep"]
    with pytest.raises(SieveError, match="there is no such file"):
        Report.from_file(folder / "none.toml")


def test_the_harbours_report_gives_the_figures_of_the_table(folder):
    results = Report.from_file(folder / REPORT).run({"quarter": "2031-Q2"})
    calls = read_table(folder / "harbour.ods")
    where = "arrived in 2031-Q2"
    figures = results.figures()
    assert figures["sum of dues"] == calls.tally("sum of dues", where=where)[0].value
    assert figures["year"] == calls.tally("sum of dues")[0].value
    glance, months, weeks, vessels, lines_of, bridge, rows, berth = (
        done.result for done in results.blocks
    )
    assert glance["rows"].value == 105
    lines = calls.tally("sum of dues", by="zone", across="arrived by month", where=where)
    assert [line.key for line in months.lines] == [line.key for line in lines.lines]
    assert (len(vessels.lines), vessels.rest.key[0].split()[1]) == (5, "others")
    open_, late, both = (lines_of[label] for label in ("open", "late", "all not settled"))
    assert both.amounts[1] == open_.tallies[1].exact + late.tallies[1].exact
    assert lines_of["paid less not settled"].amounts[0] == (
        lines_of["paid"].tallies[0].value - both.amounts[0]
    )
    assert bridge.tally.value == figures["sum of dues"]
    assert figures["quarter in the year"] == float(Fraction("43412.58") / Fraction("168658.33"))
    assert weeks.lines[-1].tallies[3].value == figures["sum of dues"]
    assert (berth.matching, berth.rows_in_table) == (0, 108)
    assert Report.from_file(folder / REPORT).run().blocks[7].result.matching == 5
    assert (
        open_.tallies[0].value
        == calls.tally("rows", where=[where, "dues is number and status = open"])[0].value
    )
    assert all(row[4] >= 1000 for row in rows.rows)
    assert results.where == "arrived in 2031-Q2"
    for answer in (glance, months):
        assert len(recheck(Query(), results.table, answer)) > 3


def test_parameters_are_checked(folder):
    report = Report.from_file(folder / REPORT)
    with pytest.raises(ParameterError, match="'2030-Q1' is not accepted\nAccepted are: 2031-Q1"):
        report.run({"quarter": "2030-Q1"})
    with pytest.raises(ParameterError, match="no such parameter\nDid you mean 'quarter'"):
        report.run({"quartr": "2031-Q1"})
    file = small(folder, 'where = "zone = {zone}"', "[parameters.zone]\nallowed_from = 'zone'")
    assert Report.from_file(file).run({"zone": "roads"}).figures()["rows"] == 50 + 5
    with pytest.raises(ParameterError, match="'Moon' is not accepted\nAccepted are: Outer, "):
        Report.from_file(file).run({"zone": "Moon"})


KINDS = """
[parameters.from]
kind = "date"
default = 2031-01-01
[parameters.share]
kind = "number"
default = 0.1
[parameters.zones]
kind = "text"
default = ["Outer", "Roads"]
[parameters.when]
kind = "period"
default = "previous quarter"
[parameters.paid]
kind = "yes or no"
"""


@pytest.mark.parametrize(
    ("name", "value", "message"),
    [
        ("from", "2031-02", "'2031-02' is no date\nWrite for example 2031-03-31"),
        ("share", "a lot", "'a lot' is no number\nWrite for example 500 or 12.5"),
        ("when", "soon", "'soon' is no period"),
        ("paid", "5", "'5' is no yes or no"),
    ],
)
def test_a_parameter_of_a_kind_takes_nothing_else(folder, name, value, message):
    report = Report.from_file(small(folder, "", KINDS))
    with pytest.raises(ParameterError) as caught:
        report.run({name: value})
    assert message in str(caught.value)


def test_parameters_of_all_kinds_go_into_criteria_and_a_list_stands_for_any(folder):
    where = 'where = "zone = {zones} and arrived >= {from} and arrived in {when} and not dues < {share}"'
    file = small(folder, f"{where}\nas_of = 2031-05-05", KINDS)
    calls = read_table(folder / "calls.csv")
    asked = "zone = Outer | Roads and arrived in 2031-Q1 and not dues < 0.1"
    results = Report.from_file(file).run()
    assert results.figures()["rows"] == calls.tally("rows", where=asked)[0].value > 0
    assert results.parameters["zones"] == "Outer | Roads"
    assert results.parameters["paid"] == "(blank)"
    alone = Report.from_file(file).run({"zones": "Roads", "when": ""}).figures()["rows"]
    assert (
        alone
        == calls.tally("rows", where="zone = Roads and arrived >= 2031-01-01 and not dues < 0.1")[
            0
        ].value
    )


def test_criteria_have_names_and_stand_inside_others(folder):
    block = """
[criteria]
counted = "dues is number"
"large and late" = "{counted} and dues > {floor} and status = late"
[parameters.floor]
default = 500
[[blocks]]
kind = "figures"
where = "not {large and late}"
measures = ["late = rows where {Large and late} regardless of everything"]
"""
    results = Report.from_file(small(folder, 'where = "{counted}"', block)).run()
    calls = read_table(folder / "calls.csv")
    assert results.figures()["rows"] == calls.tally("rows", where="dues is number")[0].value
    late = calls.tally("rows", where="dues > 500 and status = late")[0].value
    assert results.figures()["late"] == late > 0
    assert dict(results.made_from())["criteria counted"] == "dues is number"
    for text, message in (
        ('a = "{a}"', "parameter 'a': its criteria ask for themselves"),
        ('a = "zone Outer"', "criteria, a: criteria 'zone Outer', position 1: no comparison"),
        ('a = "zone = {b}"\nb = "dues > 1"', "parameter 'b': it holds criteria, and no value"),
    ):
        with pytest.raises(SieveError) as caught:
            Report.from_file(small(folder, 'where = "{a}"', f"[criteria]\n{text}")).run()
        assert message in str(caught.value)
    twice = '[criteria]\na = "dues > 1"\n[parameters.A]\ndefault = 1'
    with pytest.raises(ReportError, match="'a' is both a parameter and criteria"):
        Report.from_file(small(folder, "", twice))


def first_row(sheet):
    """Return the first row below the header, which follows the one blank row."""
    return next(row for row in range(1, 20) if sheet.cell(row, 1).value is None) + 2


@pytest.mark.parametrize("ending", ["xlsx", "ods"])
def test_the_workbook_of_a_report_has_real_numbers_and_marks(folder, ending):
    report = Report.from_file(folder / REPORT)
    results = report.run()
    for file in (folder / f"a.{ending}", folder / f"b.{ending}"):
        write_workbook(results.document(), file)
    assert (folder / f"a.{ending}").read_bytes() == (folder / f"b.{ending}").read_bytes()
    path = folder / f"a.{ending}"
    months = read_table(path, sheet="Dues by zone and month").mark(by="mark")
    assert months.tally("sum of total")[0].value == results.figures()["sum of dues"]
    assert months.tally("sum of 2031-01", where="zone = Outer")[0].value == 4546.16
    assert months.names[0] == "zone"
    if ending == "xlsx":
        book = openpyxl.load_workbook(path)
        lines = book["Dues by zone and month"]
        bold = [row[0].font.bold for row in lines.iter_rows()]
        assert bold == [True, False, False, True, *[False] * 4, True]
        assert [lines["A1"].value, lines["A4"].value, lines["A9"].value] == [
            "Dues by zone and month", "zone", "total"
        ]  # fmt: skip
        assert lines["B5"].number_format == "#,##0.00"
        assert (lines.freeze_panes, lines.print_title_rows) == ("A5", "$4:$4")
        assert lines.print_area == "'Dues by zone and month'!$A$1:$E$9"
        assert [lines[each].alignment.horizontal for each in ("A4", "B4")] == ["left", "right"]
        assert (lines["B9"].font.size, lines["B9"].font.bold) == (lines["B8"].font.size, True)
        assert lines.column_dimensions["B"].width > len("11,106.55") * 1.2
        assert [lines.column_dimensions[each].hidden for each in "EF"] == [False, True]
        shares = book["The vessels that pay most"]
        assert shares["A3"].value.startswith("note: share of dues: the lines are rounded")
        cell = shares.cell(first_row(shares), 4)
        assert (cell.number_format, round(cell.value, 4)) == ('0.0" "%', 0.1683)
        weeks = book["Calls by week"]._charts[0]
        assert (weeks.tagname, len(weeks.series)) == ("lineChart", 1)
        assert weeks.series[0].val.numRef.f == "'Calls by week'!$B$5:$B$17"
        (zones,) = lines._charts  # a line a zone, months along it
        assert [each.val.numRef.f for each in zones.series][3] == (
            "'Dues by zone and month'!$B$8:$D$8"
        )
        assert zones.series[3].tx.strRef.f == "'Dues by zone and month'!A8"
        steps = next(sheet for sheet in book if sheet.title.startswith("From the bare"))
        (bars,) = steps._charts  # what is taken away hangs where what is left ends
        assert (bars.grouping, bars.series[0].graphicalProperties.noFill) == ("stacked", True)
        assert bars.series[2].cat.strRef.f == f"'{steps.title}'!$A$5:$A$11"
        left = [steps.cell(row, 5).value for row in range(5, 11)]
        for row, before in enumerate(left[:-1], 6):
            below, taken = steps.cell(row, 6).value, steps.cell(row, 8).value
            assert (below, round(below + taken, 2)) == (steps.cell(row, 5).value, before)
    glance = read_table(path, sheet="The quarter at a glance")
    assert (
        dict(zip(glance.column("figure"), glance.column("value"), strict=True)) == results.figures()
    )
    settled = read_table(path, sheet="What is settled and what is not").mark(by="mark")
    assert settled.tally("sum of rows")[0].value == 61 + 4 + 18 + 11
    berth = read_table(path, sheet="The mole berth, row by row").mark(by="mark")
    assert berth.tally("rows")[0].account.hidden == 5
    assert berth.tally("rows", where="verdict = matches")[0].value == 3
    accounts = read_table(path, sheet="accounts")
    buckets = accounts.names[5:13]
    assert buckets == tuple(each.replace("_", " ") for each in BUCKETS)
    for row in range(len(accounts)):
        assert accounts.column("rows")[row] == sum(accounts.column(each)[row] for each in buckets)
    assert accounts.tally("rows", where="line = open")[0].value == 2
    made = read_table(path, sheet="made from")
    assert [*zip(made.column("made from"), made.column("text"), strict=True)][3] == (
        "as of",
        "2031-12-31",
    )


def test_a_report_is_written_as_csv_a_file_a_block(folder):
    file = small(folder, "", '[outputs]\ncsv = "calls-report.csv"')
    report = Report.from_file(file)
    out = folder / "made" / "here"
    assert report.write(report.run(), out) == [out / "calls-report-1.csv"]
    assert (out / "calls-report-1.csv").read_text().splitlines()[1].startswith("rows,438.0,438,0,")
    (folder / "taken").write_text("")
    with pytest.raises(SieveError, match="the folder cannot be made: File exists"):
        report.write(report.run(), folder / "taken")


def test_marks_look_ups_and_derived_columns_are_made_in_their_order(folder):
    block = """
[marks]
subtotal = ["vessel = Month total*"]
hidden = ["rate > 0.1"]
[[look_ups]]
file = "tariff.csv"
on = "class"
bring = { "a ton" = "rate" }
[derived]
due = "round(rate * tonnage, 2)"
[[blocks]]
kind = "figures"
measures = ["sum of due", "max of rate"]
"""
    file = folder / "small.toml"
    text = SMALL.format(more="", block=block).replace('on = "class"', 'on = ["class"]')
    file.write_text(text)
    results = Report.from_file(file).run()
    calls = read_table(folder / "calls.csv").mark(subtotal="vessel = Month total*")
    tariff = read_table(folder / "tariff.csv")
    calls = calls.look_up(tariff, on="class", bring={"a ton": "rate"})
    calls = calls.derive("due = round(rate * tonnage, 2)").mark(hidden="rate > 0.1")
    wanted = calls.tally("rows", "sum of dues", "sum of due", "max of rate")
    assert results.figures() == {each.name: each.value for each in wanted}


class Page(HTMLParser):
    """What stands on a page: its tags, the attributes that lead elsewhere, its texts."""

    def __init__(self, text):
        super().__init__()
        self.tags, self.leads, self.texts, self.open = [], [], [], []
        self.feed(text)

    def handle_starttag(self, tag, attrs):
        self.tags.append(tag)
        self.leads += [value for name, value in attrs if name in ("src", "href", "srcset")]
        if tag not in ("meta", "br"):
            self.open.append(tag)

    def handle_endtag(self, tag):
        assert self.open.pop() == tag

    def handle_data(self, data):
        self.texts.append(data.strip())


def test_the_page_is_whole_in_itself_and_every_figure_opens(folder):
    results = Report.from_file(folder / REPORT).run()
    text = results.to_html()
    page = Page(text)
    assert page.open == []
    assert page.leads == [f"#block-{number}" for number in range(1, 9)]
    assert not {"script", "link", "img", "iframe"} & set(page.tags)
    assert text.count("url(") == text.count("url(#")
    figures = 9 + 5 * 4 + 14 * 4 + 7 * 3 + 6 * 2 + 6
    accounts = 3  # one a breakdown
    assert page.tags.count("svg") == page.tags.count("figure") == 4
    assert page.tags.count("details") == page.tags.count("summary") == figures + accounts
    assert "36,421.69" in page.texts
    assert page.tags.count("h1") == 1
    assert page.tags.count("section") == 9
    assert "found at: 36" in page.texts
    assert any(text.startswith("used: rows 4, 5, 7–10, 13–18") for text in page.texts)
    assert "the lines 'open', 'late'" in page.texts


def test_everything_on_the_page_is_escaped(folder):
    (folder / "calls.csv").write_text('vessel,dues\n"<script>x</script>",5\n')
    block = '[[blocks]]\nkind = "breakdown"\nmeasures = ["rows"]\nby = ["vessel"]\ntitle = "<i>"'
    page = Page(Report.from_file(small(folder, "", block)).run().to_html())
    assert "script" not in page.tags
    assert "i" not in page.tags
    assert {"<script>x</script>", "Calls <b> & more", "<i>"} <= set(page.texts)


def test_the_same_inputs_give_the_same_bytes_and_say_what_they_were(folder):
    report = Report.from_file(folder / REPORT)
    first, second = report.run(), report.run()
    for make in ("to_html", "to_markdown", "to_json"):
        assert getattr(first, make)() == getattr(second, make)()
    made = dict(first.made_from())
    assert made["parameter quarter"] == "2031-Q1"
    assert made["as of"] == "2031-12-31"
    assert made["harbour.ods"].split(", SHA-256 ")[1] == first.inputs[1].digest
    assert len(first.inputs) == 3
    assert str(folder) not in first.to_html() + first.to_markdown() + first.to_json()
    plain = json.loads(first.to_json())
    assert [block["kind"] for block in plain["blocks"]] == [
        "figures", "breakdown", "breakdown", "breakdown", "lines", "bridge", "rows", "rows"
    ]  # fmt: skip
    assert "## Large calls" in first.to_markdown()


def test_files_have_the_same_bytes_however_python_orders_its_sets(folder, tmp_path):
    written = []
    for seed in ("1", "2"):
        out = tmp_path / seed
        subprocess.run(
            [sys.executable, "-c", RUN, "run", str(folder / REPORT), "--to", str(out)],
            env={**os.environ, "PYTHONHASHSEED": seed}, check=True, capture_output=True,
        )  # fmt: skip
        written.append({file.name: file.read_bytes() for file in out.rglob("*") if file.is_file()})
    assert any(name.endswith(".xlsx") for name in written[0])
    assert written[0] == written[1]


def test_figures_that_moved_are_told_with_the_difference(folder):
    block = """
[[blocks]]
kind = "breakdown"
title = "Zones"
measures = ["sum of dues"]
by = ["zone"]
[[blocks]]
kind = "rows"
where = "dues > 0"
[[blocks]]
kind = "bridge"
measure = "rows"
[[blocks]]
kind = "lines"
measures = ["rows"]
lines = [{ label = "a", where = "dues > 5" }, { label = "b", sum = ["-a"] }]
"""
    calls = folder / "calls.csv"
    calls.write_text("zone,dues\nOuter,10\nInner,5.5\n")
    file = small(folder, "", block)
    before = Report.from_file(file).run()
    calls.write_text("zone,dues\nOuter,12\nNorth,x\nOuter,1\n")
    told = [move.text() for move in changes(before, Report.from_file(file).run())]
    assert told == [
        "figures 1, rows: 2 → 3 (+1)",
        "figures 1, sum of dues: 15.5 → 13 (-2.5)",
        "Zones, North, sum of dues: – → 0",
        "Zones, Outer, sum of dues: 10 → 13 (+3)",
        "Zones, total, sum of dues: 15.5 → 13 (-2.5)",
        "bridge 4, all rows: 2 → 3 (+1)",
        "bridge 4, rows: 2 → 3 (+1)",
        "lines 5, a, rows: 2 → 1 (-1)",
        "lines 5, b, rows: -2 → -1 (+1)",
        "Zones, Inner, sum of dues: 5.5 → –",
    ]
    assert changes(before, before) == []


def test_a_watched_report_runs_again_when_a_file_changes(folder):
    (folder / "calls.csv").write_text("zone,dues\nOuter,10\n")
    file = small(folder, '[outputs]\njson = "out.json"\n')
    words = [sys.executable, "-c", RUN, "run", str(file), "--watch"]
    watching = subprocess.Popen(words, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    try:
        for line in watching.stdout:
            if line.startswith("watching"):
                break
        time.sleep(1)  # until the files are being looked at
        (folder / "calls.csv").write_text("zone,dues\nOuter,12\n")
        assert watching.stdout.readline() == "calls.csv changed: 1 figure moved\n"
        assert watching.stdout.readline() == "  figures 1, sum of dues: 10 → 12 (+2)\n"
        (folder / "out.json").unlink()
        (folder / "out.json").mkdir()
        (folder / "calls.csv").write_text("zone,dues\nOuter,13\n")
        assert "out.json: the file cannot be written" in watching.stderr.readline()
        (folder / "out.json").rmdir()
        (folder / "calls.csv").rename(folder / "away")
        assert "there is no such file" in watching.stderr.readline()
        (folder / "calls.csv").write_text("zone,dues\nOuter,14\n")
        assert "1 figure moved" in watching.stdout.readline()
        assert watching.stdout.readline() == "  figures 1, sum of dues: 12 → 14 (+2)\n"
        assert (folder / "out.json").is_file()
    finally:
        watching.kill()
        watching.communicate()


def test_without_a_date_of_its_own_a_report_is_as_of_today(folder):
    assert Report.from_file(small(folder)).run().as_of == date.today()


def test_the_command_line_runs_checks_and_writes(folder, monkeypatch):
    monkeypatch.chdir(folder)
    call = CliRunner()
    done = call.invoke(main, ["run", REPORT, "--set", "quarter=2031-Q3", "--to", "out"])
    assert (done.exit_code, done.stderr) == (0, "")
    assert done.stdout.startswith("Harbour dues by quarter\n\nThe quarter at a glance ─")
    assert re.search(r" sum of dues +42,737\.90\n", done.stdout)
    assert "parameter quarter: 2031-Q3\n" in done.stdout
    written = [line for line in done.stdout.splitlines() if line.startswith("written: ")]
    assert written == [
        f"written: out/{name}"
        for name in ("harbour.html", "harbour.md", "harbour.json", "harbour-report.xlsx",
                     "zones.svg", "weeks.png", "vessels.svg", "bridge.svg")
    ]  # fmt: skip
    assert len(list((folder / "out").iterdir())) == 8
    checked = call.invoke(main, ["run", REPORT, "--check-only"])
    assert checked.stdout == "harbour.toml: 8 blocks, all can be worked out\n"
    assert not (folder / "harbour.html").exists()
    wrong = call.invoke(main, ["run", REPORT, "--set", "quarter"])
    assert (wrong.exit_code, wrong.stderr) == (
        2, "even-sieve: parameter 'quarter': no value is given\nWrite: --set NAME=VALUE\n"
    )  # fmt: skip


OUTPUTS = [
    ('html = "calls.csv"', "calls.csv: the output would be written over"),
    ('json = "small.toml"', "small.toml: the output would be written over"),
    ('html = "a.html"\nmarkdown = "./a.html"', "a.html: two outputs have this name"),
    ('html = "../a.html"', "outputs: '../a.html' lies outside of the folder"),
]


@pytest.mark.parametrize(("outputs", "said"), OUTPUTS)
def test_an_output_is_never_an_input_nor_outside_nor_written_twice(
    harbour, tmp_path, outputs, said
):
    for name in ("calls.csv",):
        (tmp_path / name).write_bytes((harbour / name).read_bytes())
    before = (tmp_path / "calls.csv").read_bytes()
    report = SMALL.format(more="", block="") + f"[outputs]\n{outputs}\n"
    (tmp_path / "small.toml").write_text(report)
    run = CliRunner().invoke(main, ["run", str(tmp_path / "small.toml")])
    assert (run.exit_code, said in run.output) == (2, True)
    assert (tmp_path / "calls.csv").read_bytes() == before
    assert {each.name for each in tmp_path.iterdir()} == {"calls.csv", "small.toml"}


def test_names_of_outputs_lead_outside_when_the_report_says_so(harbour, tmp_path):
    (tmp_path / "in").mkdir()
    (tmp_path / "in" / "calls.csv").write_bytes((harbour / "calls.csv").read_bytes())
    report = SMALL.format(more="", block="") + '[outputs]\njson = "../a.json"\noutside = true\n'
    (tmp_path / "in" / "small.toml").write_text(report)
    assert CliRunner().invoke(main, ["run", str(tmp_path / "in" / "small.toml")]).exit_code == 0
    assert (tmp_path / "a.json").is_file()


def test_an_answer_is_not_written_over_its_source_and_links_stay_links(
    harbour, tmp_path, monkeypatch
):
    monkeypatch.chdir(tmp_path)
    (tmp_path / "calls.csv").write_bytes((harbour / "calls.csv").read_bytes())
    (tmp_path / "link.csv").symlink_to("calls.csv")
    for call in (["tally", "calls.csv", "rows", "--to", "link.csv"], ["rows", "link.csv", "--to", "./calls.csv"],
                 ["bridge", "calls.csv", "rows", "--criteria", "link.csv", "--chart", "link.csv"]):  # fmt: skip
        run = CliRunner().invoke(main, call)
        assert (run.exit_code, "would be written over" in run.output) == (2, True)
    (tmp_path / "real.csv").write_text("old")
    (tmp_path / "to.csv").symlink_to("real.csv")
    assert CliRunner().invoke(main, ["tally", "calls.csv", "rows", "--to", "to.csv"]).exit_code == 0
    assert (tmp_path / "to.csv").is_symlink()
    assert (tmp_path / "real.csv").read_text().startswith("measure,value")


def test_the_schema_of_the_report_file_accepts_what_is_accepted_and_refuses_what_is_not():
    found = json.loads(CliRunner().invoke(main, ["schema"]).stdout)
    jsonschema.Draft202012Validator.check_schema(found)
    checked = jsonschema.Draft202012Validator(found)
    report = {
        "title": "Dues",
        "source": {"file": "calls.csv"},
        "keep": "hidden",
        "blocks": [{"kind": "figures", "measures": "sum of dues"}, {"kind": "breakdown", "measures": ["rows"], "by": "zone"}],
    }  # fmt: skip
    assert list(checked.iter_errors(report)) == []
    assert ReportFile.model_validate(report).blocks[0].measures == ["sum of dues"]
    for wrong in ({"titel": "Dues"}, {"blocks": []}, {"keep": 5}, {"blocks": [{"kind": "sums"}]}):
        assert list(checked.iter_errors(report | wrong))
        with pytest.raises(ValueError, match="validation error"):
            ReportFile.model_validate(report | wrong)


@pytest.mark.parametrize("ending", ["xlsx", "ods"])
def test_cells_of_a_workbook_are_shown_as_a_report_says(folder, ending):
    said = (
        'locale = "de_DE"\n[shown]\ndues = "EUR"\n"a ton" = \'unit "a ton"\'\n'
        "arrived = 'date \"d MMMM y\"'\n"
    )
    blocks = (
        '[[blocks]]\nkind = "figures"\nmeasures = ["sum of dues", "share of dues", '
        '"a ton = ratio of sum of dues to sum of tonnage", "min of arrived"]\n'
        f'[outputs]\nworkbook = "shown.{ending}"\n'
    )
    file = folder / "shown.toml"
    file.write_text(f'title = "Dues"\n{said}[source]\nfile = "calls.csv"\n{blocks}')
    report = Report.from_file(file)
    (path,) = report.write(report.run(), folder)
    again = read_table(path, sheet="Figures 1")
    assert again.column("value")[1] == 1.0
    if ending == "xlsx":
        sheet = openpyxl.load_workbook(path)["Figures 1"]
        first = first_row(sheet)
        found = [sheet.cell(row, 2).number_format for row in range(first, first + 4)]
        assert found == [
            '#,##0.00"\xa0€"', '0.0" "%', '#,##0.000" a ton"', 'd" "mmmm" "yyyy'
        ]  # fmt: skip
    else:
        content = zipfile.ZipFile(path).read("content.xml").decode()
        assert "<number:currency-symbol>€</number:currency-symbol>" in content
        assert "<number:percentage-style" in content
        used = set(re.findall(r'table-cell [^>]*table:style-name="([^"]*)"', content))
        assert used <= set(re.findall(r'<style:style style:name="([^"]*)"', content))
        assert {"title", "head"} < used
        assert '<number:month number:textual="true" number:style="long"' in content
        assert 'office:value-type="percentage"' in content
        assert "table:print-ranges=\"'Figures 1'.A1:" in content
