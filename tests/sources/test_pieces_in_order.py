"""Pieces of long files are made side by side, and taken in one after the other."""

from functools import partial
from threading import Event

import pytest

from even_sieve import SourceError
from even_sieve.core.table import column_from
from even_sieve.sources.long_typed import LongFile, Opened, Piece, table_in_pieces
from even_sieve.sources.source_options import SourceOptions

CELLS = [["Pier", 5], ["Mole", 7], ["Pier", 9], ["Dock", 11]]


def opened(make):
    def pieces(names):
        for number, cells in enumerate(CELLS):
            yield Piece(len(cells), 1 + 2 * number, partial(make, number))

    return Opened("calls", "", LongFile(("mark", "twice"), 2 * len(CELLS), pieces))


def test_a_piece_that_takes_long_stands_before_the_next_one():
    later = Event()

    def make(number, name):
        if number == 1:
            later.set()
        # The first piece is made after the second one, on another thread.
        assert number or later.wait(20)
        return column_from(name, CELLS[number])

    table = table_in_pieces([opened(make)], "calls", SourceOptions(asks="mark"))
    assert list(table.column("mark").cells()) == [cell for cells in CELLS for cell in cells]


@pytest.mark.parametrize("wrong", range(len(CELLS)))
def test_a_piece_that_cannot_be_made_is_told_whichever_it_is(wrong):
    def make(number, name):
        if number == wrong:
            raise SourceError("calls", f"piece {number} is damaged")
        return column_from(name, CELLS[number])

    with pytest.raises(SourceError, match=f"piece {wrong} is damaged"):
        table_in_pieces([opened(make)], "calls", SourceOptions())
