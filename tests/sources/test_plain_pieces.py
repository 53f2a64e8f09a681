"""What is read at once, for all of it is plain, is what the general way reads; quotes in pieces."""

import random

import pytest

from even_sieve.core.cells import Kind
from even_sieve.sources import bulk_strings, quotes
from even_sieve.sources.arrow_buffers import strings_of
from even_sieve.sources.column_piece import column_of_piece
from even_sieve.sources.dialect import Dialect
from even_sieve.sources.quotes import pair_up
from even_sieve.sources.tokens import TokenReader

pytestmark = pytest.mark.usefixtures("by_passes")

CHANCE = random.Random()
SHAPES = {
    "whole": lambda: str(CHANCE.randrange(-(10**6), 10**6)),
    "money": lambda: f"{CHANCE.randrange(10**7) / 100:.2f}",
    "few": lambda: f"{CHANCE.choice(['', '+', '-'])}{CHANCE.choice(['0.5', '7.', '0', '12'])}",
    "many digits": lambda: f"{CHANCE.randrange(10**15)}.{CHANCE.randrange(10**4)}",
    "days": lambda: f"203{CHANCE.randrange(10)}-0{CHANCE.randrange(1, 10)}-1{CHANCE.randrange(10)}",
    "times": lambda: f"2031-05-06{CHANCE.choice('T ')}0{CHANCE.randrange(10)}:30:5{CHANCE.randrange(10)}",
    "midnights": lambda: f"2031-05-1{CHANCE.randrange(10)}T00:00",
}  # fmt: skip
ODD = ["", "", ".5", "05", "1.2.3", "2031-02-30", "2031-13-01", "1-2", "--1", "+", ".", "2031/05-06", "20310-5-06",
       "2031-05-06T25:00:00", "2031-05-06x10:00:00", "waived", "inf", "#N/A", "1e3", "9" * 20]  # fmt: skip


def read(tokens):
    reader = TokenReader()
    piece = bulk_strings.read_piece(strings_of(tokens), (), reader)
    column = column_of_piece("dues", piece, ())
    return list(column.cells()), column.counts, reader.offsets


@pytest.mark.parametrize("shape", SHAPES)
def test_what_is_plain_is_read_as_the_general_way_reads_it(shape, monkeypatch):
    taken = []

    def all_at_once(*given):
        taken.append(own(*given))
        return taken[-1]

    own = bulk_strings._put_of_one_kind
    for turn in range(40):
        tokens = [SHAPES[shape]() for _ in range(CHANCE.randrange(1, 60))]
        if turn % 2:
            tokens.insert(CHANCE.randrange(len(tokens)), "")
        for _ in range(CHANCE.choice([0, 0, 1, 2])):
            tokens[CHANCE.randrange(len(tokens))] = CHANCE.choice(ODD)
        monkeypatch.setattr(bulk_strings, "_put_of_one_kind", all_at_once)
        found = read(tokens)
        monkeypatch.setattr(bulk_strings, "_put_of_one_kind", lambda *_: False)
        assert found == read(tokens), tokens
    assert shape == "many digits" or sum(taken) >= 5, "the fast way is hardly taken"


def test_a_whole_piece_that_no_calendar_has_is_left_as_text():
    cells, counts, _ = read(["2031-13-01"] * 700)
    assert counts == {Kind.TEXT: 700}
    assert cells[0] == "2031-13-01"


def test_quotes_pair_up_alike_however_the_file_is_cut(monkeypatch):
    for _ in range(300):
        text = "".join(CHANCE.choices('a"",\r\n', k=CHANCE.randrange(24)))
        if CHANCE.random() < 0.5:
            fields = ["".join(CHANCE.choices('a",\n', k=3)).replace('"', '""') for _ in range(6)]
            text = ",".join(f'"{each}"' for each in fields)
        whole = pair_up(text.encode(), Dialect())
        inside, good = False, True
        for at, letter in enumerate(text):  # each quote by itself
            if letter == '"':
                beside = text[at - 1 : at] if not inside else text[at + 1 : at + 2]
                good = good and (beside or "\n") in '",\r\n'
                inside = not inside
        assert whole is (good and not inside), text
        for size in (1, 2, 3, 7):
            monkeypatch.setattr(quotes, "_BLOCK", size)
            assert pair_up(text.encode(), Dialect()) is whole, (size, text)
        monkeypatch.undo()
