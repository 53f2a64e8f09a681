"""Whole command lines at random over the demo's files: an exit status of ours, and clean output."""

import contextlib
import io
import tempfile
from functools import cache
from pathlib import Path

from hypothesis import strategies as st

import sentences
from even_sieve.cli.entry import run
from even_sieve.demo.make import write_files
from trying import examples

_NAMES = {"zone": "zone", "dues": "dues", "arrived": "arrived", "paid": "status", "berth no": "berth", "a,b": "tonnage", "ß": "class"}  # fmt: skip
_FILES = st.sampled_from(["calls.csv", "tariff.csv", "harbour.xlsx", "harbour.ods", "none.csv", ".", "harbour.ods!wanted"])  # fmt: skip
_MAY = {
    "--where": sentences.CRITERIA, "--hidden": sentences.CRITERIA, "--subtotal": st.one_of(sentences.CRITERIA, st.just("found")),
    "--hidden-rows": sentences.ROWS, "--subtotal-rows": sentences.ROWS, "--derive": sentences.DERIVED, "--look-up": sentences.LOOK_UP,
    "--set": st.tuples(st.sampled_from("xy"), sentences.CELL).map("=".join), "--keep": st.sampled_from(["hidden", "errors,blanks", "x"]),
    "--marks": st.sampled_from(["status", "zone", "x"]), "--delimiter": st.sampled_from([",", ";", "tab", "é", "", '"', "\n"]),
    "--encoding": st.sampled_from(["utf-8", "utf-16", "latin-1", "x", "idna", "hex"]), "--decimal": st.sampled_from([",", "."]),
    "--date-order": st.sampled_from(["day-month-year", "month-day-year"]), "--sheet": st.sampled_from(["1", "2", "99", "calls", "x"]),
    "--cells": st.sampled_from(["A1:C5", "B2:B2", "C5:A1", "A0", "XFE1:XFF2", "tariff"]), "--header": st.sampled_from(["1", "3", "99999"]),
    "--leave-out-top": st.sampled_from(["0", "1", "99999"]), "--leave-out-foot": st.sampled_from(["0", "1", "99999"]),
    "--blank-as": st.sampled_from(["NA", "", "0"]), "--as-of": st.sampled_from(["2031-05-01", "0001-01-01", "9999-12-31", "x"]),
    "--fiscal-start": st.sampled_from(["1", "12", "13"]), "--at-most": st.sampled_from(["cells=10", "unpacked=1KiB", "columns=2", "x=1"]),
    "--criteria": st.sampled_from(["tariff.csv", "harbour.ods!wanted", "none.csv"]), "--strict": None, "--sideways": None,
}  # fmt: skip
_OF_TALLY = {"--by": sentences.AXIS, "--across": sentences.AXIS, "--sort": sentences.MEASURE, "--top": st.sampled_from(["1", "0"]),
             "--explain": None, "--recheck": None, "--format": st.sampled_from(["json", "csv", "markdown", "table"])}  # fmt: skip
_OF_ROWS = {"--columns": st.sampled_from(["zone", "zone,dues", "x"]), "--sort": sentences.AXIS, "--limit": st.sampled_from(["1", "5"]),
            "--all": None}  # fmt: skip


def _options(may):
    made = [
        st.just((name,))
        if value is None
        else sentences.bent(value).map(lambda each, name=name: (f"{name}={each}",))
        for name, value in may.items()
    ]
    return st.lists(st.one_of(made), max_size=4).map(lambda found: [w for each in found for w in each])  # fmt: skip


_MEASURES = st.lists(sentences.bent(sentences.MEASURE), max_size=2)
_BRIDGED = st.one_of(sentences.MEASURE, sentences.CRITERIA.map(lambda each: f"sum of dues where {each}")).map(lambda each: [each])  # fmt: skip
CALLS = st.one_of(
    st.tuples(st.just(["tally"]), _FILES.map(lambda each: [each]), _MEASURES, _options({**_MAY, **_OF_TALLY})),
    st.tuples(st.just(["bridge"]), _FILES.map(lambda each: [each]), _BRIDGED, _options(_MAY)),
    st.tuples(st.just(["rows"]), _FILES.map(lambda each: [each]), _options({**_MAY, **_OF_ROWS})),
    st.tuples(st.just(["check"]), _FILES.map(lambda each: [each]), _options(_MAY)),
).map(lambda parts: [_in_demo(word) for part in parts for word in part])  # fmt: skip


def _in_demo(word):
    for name, other in _NAMES.items():
        word = word.replace(name, other)
    return word


@cache
def _folder():
    folder = Path(tempfile.mkdtemp())
    write_files(folder)
    return folder


def check(name):
    """Raise where a command ends in another way than the documents say."""
    with contextlib.chdir(_folder()):
        examples(name, CALLS, _call, 10)


check.tries = 10


def _call(words):
    out, told = (io.TextIOWrapper(io.BytesIO(), encoding="utf-8") for _ in range(2))
    status = None
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(told):
        try:
            run(words)
        except SystemExit as ended:
            status = ended.code
    for each in (out, told):
        each.flush()
    shown = [each.buffer.getvalue().decode() for each in (out, told)]
    assert status in (0, 1, 2), f"{words}: {status} {shown[1][:300]}"
    assert status == 0 or shown[1].startswith(("even-sieve: ", "Usage: ", "Error: ")), shown[1]
    assert not {"\x1b", "\x00", "\u202e"} & set(shown[0] + shown[1]), f"{words}: not clean"
