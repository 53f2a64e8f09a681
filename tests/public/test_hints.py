"""What a hint tells to write works when it is written, and speaks of the table's own columns."""

import re
import shlex
import sqlite3
from datetime import date

import pytest
from click.testing import CliRunner

from even_sieve import LookUp, NotOneValue, SieveError, read_table, table_from
from even_sieve.cli.main import main
from even_sieve.core.measures.signatures import KINDS
from even_sieve.sources.source_options import SourceOptions

CALLS = table_from({
    "paid in": [120.5, 80, 7], "tons": [1, 2, 3], "day": [date(2031, 1, 5), None, date(2031, 2, 1)],
})  # fmt: skip
OTHER = table_from({"paid in": [120.5], "rate": [2]})


def measure(words):
    return CALLS.tally(words)


def asked(words):
    return CALLS.tally("rows", where=words)


def by(words):
    text = words.removeprefix("by=").strip("'")
    return CALLS.tally("rows", by=text.removeprefix("by ").strip("'"))


def derived(words):
    return CALLS.derive(words if "=" in words else f"made = {words}")


#: What is written wrongly, and how what the hint says is written in its place.
WRONG = [
    *((kind, measure) for kind, form in KINDS.items() if form.column),
    *((f"{kind} of tons", measure) for kind, form in KINDS.items() if form.number or form.weight),
    *((f"{kind} x of tons", measure) for kind, form in KINDS.items() if form.number),
    ("all", measure), ("= sum of tons", measure), ("ratio of rows", measure), ("ratio of rows to x", measure),
    ("difference of all of tons and rows", measure), ("count of tons", measure), ("sum", measure),
    ("", asked), ("tons > 1 and", asked), ("tons in 3..x", asked), ("day in 2031-Q7", asked),
    ("tons >", asked), ("tons = @", asked), ("tons between 5", asked), ("(tons > 1", asked),
    ("tons in bands x", by), ("tons as ", by), ("tons as a | ", by),
    ("x", derived), ("x = 5", derived), ("x = a if tons > 1, b", derived), ("x = round(tons, 99)", derived),
]  # fmt: skip


@pytest.mark.parametrize(("words", "write"), WRONG)
def test_what_a_hint_says_works(words, write):
    with pytest.raises(SieveError) as caught:
        write(words)
    hint = str(caught.value).partition("\n")[2]
    said = re.search(r"Write(?: for example)?: (.+)", hint)
    if said is None:  # other advice: what is accepted, or what was meant
        assert (
            re.match(
                r"(Accepted|It can be|Did you mean|The|Write (numbers|filled) of|Write (a|the) |Join|For cells|A period is written)",
                hint,
            )
            or not hint
        )
        return
    examples = [said[1]] if write is not asked or " " in said[1].split(",")[0] else [
        f"tons in {each}" if "-" not in each else f"day in {each}" for each in said[1].split(", ")
    ]  # fmt: skip
    for each in examples:
        try:
            write(each)
        except NotOneValue:  # as it should be: there are several
            assert each.startswith("only")
    assert "dues" not in said[1]
    assert "zone" not in said[1]


@pytest.mark.parametrize(("call", "again"), [
    (lambda: CALLS.tally("rows", top=2), lambda said: by(said)),
    (lambda: CALLS.tally("rows", by=[]), lambda said: by(said)),
    (lambda: CALLS.look_up(OTHER, on=[]), lambda said: CALLS.look_up(OTHER, on=said.removeprefix("on "))),
    (lambda: LookUp.of(OTHER, None), lambda said: LookUp.of(OTHER, said.removeprefix("on "))),
    (lambda: CALLS.tally("rows", as_of="soon"), lambda said: CALLS.tally("rows", as_of=said)),
    (lambda: SourceOptions.of(date_order="odd"), lambda said: SourceOptions.of(date_order=said.split(", ")[0])),
    (lambda: CALLS.tally("rows", by="day by month", sort="x"), None),
])  # fmt: skip
def test_what_the_hint_of_a_call_says_works(call, again):
    with pytest.raises(SieveError) as caught:
        call()
    said = re.search(r"Write(?: for example| one of)?: (.+)", str(caught.value))
    if again is None:
        assert "Sort by label or 'rows'" in str(caught.value)
    else:
        again(said[1])


def test_a_table_of_hints_reads_files(tmp_path):
    (tmp_path / "calls.csv").write_text("fee\n3\n")
    with pytest.raises(SieveError, match="Did you mean 'fee'"):
        read_table(tmp_path / "calls.csv").tally("sum of feee")


#: A call that is off, and the call that its hint leads to, made from the words of the hint.
LEADING = [
    ("tally fees.csv rows --top 2", lambda said: f"tally fees.csv rows {said.replace('COLUMN', 'fee')} --top 2"),
    ("tally fees.csv rows --set least", lambda said: f"tally fees.csv rows {said.replace('NAME=VALUE', 'least=3')} --where 'fee > {{least}}'"),
    ("tally fees.csv rows --keep all", lambda said: f"tally fees.csv rows --keep '{said}'"),
    ("tally fees.csv rows --to out.xyz", lambda said: f"tally fees.csv rows --to out{said.split(', ')[0]}"),
    ("tally fees.csv rows --delimiter ab", lambda said: f"tally fees.csv rows --delimiter '{said[0]}'"),
    ("tally fees.csv rows --encoding utf9", lambda said: f"tally fees.csv rows --encoding {said.split(', ')[0]}"),
    ("tally fees.csv rows --memory lots", lambda said: f"tally fees.csv rows --memory {said.split(', ')[0]}"),
    ("tally fees.csv rows --show 'fee=x'", lambda said: f"tally fees.csv 'sum of fee' --show 'fee={said.split(', ')[0]}'"),
    ("tally fees.csv rows --locale xx", lambda said: f"tally fees.csv rows --locale {said}"),
    ("tally fees.csv --and more.csv rows", lambda said: f"tally fees.csv --and more.csv rows {said}"),
    ("tally fees.csv rows --derive x", lambda said: f"tally fees.csv rows --derive '{said}'"),
    ("tally fees.csv rows --look-up x", lambda said: f"tally fees.csv rows --look-up '{said.replace('tariff.csv', 'more.csv').replace('class', 'berth')}'"),
    ("tally fees.csv rows --sheet 1", lambda said: f"tally fees.csv rows {said.split(', ')[0]} ';'"),
    ("tally fees.db rows", lambda said: f"tally fees.db!{said.split(', ')[0]} rows"),
    ("tally feez.csv rows", lambda said: f"tally {said.split(chr(39))[1]} rows"),
    ("tally fees.csv rows --where 'fee >'", lambda said: f"tally fees.csv rows --where 'fee {said}'"),
    ("rows fees.csv --columns zz", lambda said: f"rows fees.csv --columns {said.split(', ')[0]}"),
    ("tally book.ods rows --cells x", lambda said: f"tally book.ods rows --cells {said.split()[-1]}"),
]  # fmt: skip


@pytest.mark.parametrize(("words", "again"), LEADING)
def test_what_a_hint_of_the_command_line_says_works(tmp_path, monkeypatch, words, again):
    monkeypatch.chdir(tmp_path)
    (tmp_path / "fees.csv").write_text("berth,fee,day\nA,1.5,2031-01-05\nB,80,2031-01-06\n")
    (tmp_path / "more.csv").write_text("berth,rate\nA,1.5\nB,2\n")
    table_from({f"c{n}": [f"{n}-{k}" for k in range(40)] for n in range(8)}).write(
        tmp_path / "book.ods"
    )
    with sqlite3.connect("fees.db") as base:
        base.executescript("create table one (x int); create table two (x int);")
        base.execute("insert into one values (1)")
    off = CliRunner().invoke(main, shlex.split(words))
    assert off.exit_code in (1, 2)
    said = re.split(
        r": |Did you mean |such as |read by |are for example |Accepted are ",
        off.stderr.strip().splitlines()[-1],
    )[-1]
    found = CliRunner().invoke(main, shlex.split(again(said)))
    assert found.exit_code == 0, f"{again(said)}: {found.stderr}"
