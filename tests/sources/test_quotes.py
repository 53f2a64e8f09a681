"""Quotes that open and close fields beside quotes that are letters, told by the bytes."""

import random

import numpy as np
import pytest

from even_sieve.core.errors import SourceError
from even_sieve.sources import csv_lines, quotes
from even_sieve.sources.csv_records import records_of
from even_sieve.sources.dialect import Dialect
from even_sieve.sources.quotes import Marks, refuse_by_lines, whole_lines


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
                return found, f"close in line {text.count(chr(10), 0, at) + 1}", opened
            opened = None
        at += 1
    return found, None if opened is None else "are not closed", opened


def some_text(g):
    signs = g.choice(['ab" ,\n', '"",\n', 'a"\n\n\n,', 'ab"\r\n,,', 'aaaaaaaaa\n,"'])
    return "".join(g.choice(signs) for _ in range(g.randrange(40)))


def test_quotes_are_told_by_runs_as_they_are_one_by_one(monkeypatch):
    broken = 0
    for _ in range(4000):
        seed = random.randrange(10**9)
        g = random.Random(seed)
        monkeypatch.setattr(quotes, "_BLOCK", g.choice([1, 3, 8, 100]))
        text = some_text(g)
        found, fact, opened = one_by_one(text)
        places, inside, where = [], False, None
        for start, octets in whole_lines(text.encode(), len(text)):
            marks = Marks.of(octets, Dialect(), inside)
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
        line = text.count("\n", 0, opened) + 11
        assert f"row {line}: the quotes that open at " in str(caught.value), (seed, text)
        assert fact.split(" in ")[0] in str(caught.value), (seed, text)
    assert broken > 100


def test_lines_of_rows_are_told_though_quotes_stand_as_letters(monkeypatch):
    told = 0
    for _ in range(1500):
        seed = random.randrange(10**9)
        g = random.Random(seed)
        monkeypatch.setattr(quotes, "_BLOCK", g.choice([1, 3, 8, 100]))
        text = "a,b\n" + some_text(g)
        if one_by_one(text)[1] is not None or "\r" in text or not text[4:].strip("\n"):
            continue
        starts = [number for number, record in records_of(text.encode(), Dialect()) if record]
        monkeypatch.setattr(csv_lines, "records_of", None)  # the bytes tell
        numbers, _ = csv_lines.row_numbers(text.encode(), len(starts) - 1, Dialect(), 2)
        monkeypatch.undo()
        if isinstance(numbers, int):
            numbers = numbers + np.arange(len(starts) - 1)
        assert numbers.tolist() == starts[1:], (seed, text)
        told += '"' in text
    assert told > 100
