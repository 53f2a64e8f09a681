"""Quotes that open and close fields beside quotes that are letters, told by the bytes."""

import random
import re

import numpy as np
import pytest

from even_sieve import read_table
from even_sieve.core.errors import SourceError
from even_sieve.sources import csv_lines, files, quotes
from even_sieve.sources.csv_records import records_of
from even_sieve.sources.dialect import Dialect
from even_sieve.sources.octets import whole_lines
from even_sieve.sources.quotes import Marks, refuse_by_lines


def lines_of(text):
    return len(re.findall("\r\n|\r|\n", text))


def one_by_one(text):
    """Return the places of quotes that open or close, and what is wrong: byte by byte."""
    found, opened, at = [], None, 0
    while at < len(text):
        if text[at] == '"' and opened is None:
            if at == 0 or text[at - 1] in ",\r\n":
                found.append(at)
                opened = at
        elif text[at] == '"' and text[at + 1 : at + 2] == '"':
            at += 1
        elif text[at] == '"':
            found.append(at)
            if text[at + 1 : at + 2] not in ("", ",", "\r", "\n"):
                return found, f"close in line {lines_of(text[:at]) + 1}", opened
            opened = None
        at += 1
    return found, None if opened is None else "are not closed", opened


def some_text(g):
    signs = g.choice(['ab" ,\n', '"",\n', 'a"\n\n\n,', 'ab"\r\n,,', 'aaaaaaaaa\n,"'])
    return "".join(g.choice(signs) for _ in range(g.randrange(40)))


def drawn(count, monkeypatch):
    """Yield seeds, and what draws by them; bytes are looked at a few at a time."""
    for _ in range(count):
        seed = random.randrange(10**9)
        g = random.Random(seed)
        for module in (quotes, csv_lines):
            monkeypatch.setattr(module, "_BLOCK", g.choice([1, 3, 8, 100]))
        yield seed, g


def test_quotes_are_told_by_runs_as_they_are_one_by_one(monkeypatch):
    broken = 0
    for seed, g in drawn(4000, monkeypatch):
        text = some_text(g)
        found, fact, opened = one_by_one(text)
        places, inside, where = [], False, None
        for start, some in whole_lines(text.encode(), len(text), quotes._BLOCK):
            marks = Marks.of(np.frombuffer(some, dtype=np.uint8), Dialect(), inside)
            places += (marks.places + start).tolist()
            inside = marks.inside
            if marks.broken is not None:
                where = start + marks.broken
                break
        assert places == found, (seed, text)
        assert (where is not None) == (fact is not None and "close in" in fact), (seed, text)
        if fact is None:
            refuse_by_lines(text.encode(), "x", Dialect())
            continue
        broken += 1
        with pytest.raises(SourceError) as caught:
            refuse_by_lines(text.encode(), "x", Dialect(), 10)
        line = lines_of(text[:opened]) + 11
        assert f"row {line}: the quotes that open at " in str(caught.value), (seed, text)
        assert fact.split(" in ")[0] in str(caught.value), (seed, text)
    assert broken > 100


def test_lines_of_rows_are_told_though_quotes_stand_as_letters(monkeypatch):
    told = 0
    for seed, g in drawn(1500, monkeypatch):
        text = "a,b\n" + some_text(g)
        if one_by_one(text)[1] is not None or not text[4:].strip("\r\n"):
            continue
        columns = g.choice([1, 2])
        records = list(records_of(text.encode(), Dialect()))
        starts = [number for number, record in records if record or columns == 1]
        with monkeypatch.context() as patch:
            patch.setattr(csv_lines, "records_of", None)  # the bytes tell
            numbers, _ = csv_lines.row_numbers(text.encode(), len(starts) - 1, Dialect(), columns)
        if isinstance(numbers, int):
            numbers = numbers + np.arange(len(starts) - 1)
        assert numbers.tolist() == starts[1:], (seed, text)
        told += '"' in text
    assert told > 100


@pytest.mark.parametrize("long", [False, True])
@pytest.mark.parametrize("end", ["\n", "\r\n", "\r"])
def test_lines_that_end_as_they_do_are_counted_alike(tmp_path, monkeypatch, end, long):
    """Titles, a blank line, a line end in quotes, and an error: all name the same lines."""
    if long:
        monkeypatch.setattr(files, "_LONG", 1)
    path = tmp_path / "calls.csv"
    lines = ["Dues of the year,,", "", "call,zone,dues", '1,"Outer', 'north",5', "", '2,5" pipe,7']
    path.write_bytes((end.join(lines) + end).encode())
    table = read_table(path)
    assert table.row_numbers == (4, 7)
    assert "the names of the columns were taken from line 3" in str(table.notices[0].text)
    path.write_bytes((end.join([*lines, '3,"open,8']) + end).encode())
    with pytest.raises(SourceError, match='row 8: the quotes that open at "open,8 are not closed'):
        read_table(path)
    path.write_bytes((end.join([*lines, "3,8"]) + end).encode())
    with pytest.raises(SourceError, match="row 8: 2 fields, too few"):
        read_table(path)
    path.write_bytes(end.join(["zone", '"Outer', 'north"', "", "Inner", ""]).encode())
    assert read_table(path).row_numbers == (2, 4, 5)
