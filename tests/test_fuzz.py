"""A short stretch of `make fuzz`, and all that it ever found."""

import json
import random
import zipfile
from io import BytesIO
from pathlib import Path

import pytest

import run
from even_sieve.core.errors import SourceError
from even_sieve.sources.files import read_content
from even_sieve.sources.source_options import SourceOptions

FOUND = sorted((Path(__file__).parent / "found").glob("*.json"))


@pytest.mark.parametrize(
    ("kind", "tries"),
    [("figures", 40), ("damage", 60), ("words", 400), ("made", 15), ("asked", 15), ("calls", 4)],
)
def test_random_tries_go_right(kind, tries):
    base = random.random()
    faults = [(seed, run.attempt(kind, seed)[0]) for seed in (f"{base}-{i}" for i in range(tries))]
    assert [each for each in faults if each[1]] == []


@pytest.mark.parametrize("path", FOUND, ids=[path.stem for path in FOUND])
def test_what_was_found_stays_mended(path):
    found = json.loads(path.read_text(encoding="utf-8"))
    assert run.attempt(found["kind"], found["seed"])[0] == ""


@pytest.mark.parametrize(
    ("old", "new"), [(b'<row r="3"', b'<row r="999999999"'), (b'r="B3"', b'r="XFE3"')]
)
def test_a_row_or_column_that_no_sheet_has_is_refused_at_once(old, new, harbour):
    out = BytesIO()
    with zipfile.ZipFile(harbour / "harbour.xlsx") as parts, zipfile.ZipFile(out, "w") as made:
        for name in parts.namelist():
            made.writestr(name, parts.read(name).replace(old, new, 1))
    with pytest.raises(SourceError, match="beyond the last"):
        read_content(out.getvalue(), "harbour.xlsx", SourceOptions())
