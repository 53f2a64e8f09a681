"""Columns of many different strings, read a piece at a time, or by several threads."""

from dataclasses import replace
from typing import Any

import pyarrow as pa

from even_sieve.core.table import Column
from even_sieve.core.table.growing import Growing
from even_sieve.sources.bulk_strings import read_piece, trim
from even_sieve.sources.column_piece import Piece, column_of_piece
from even_sieve.sources.side_by_side import side_by_side
from even_sieve.sources.tokens import TokenReader


class Cells:
    """A column of many different strings, `most` rows at the most, that comes piece by piece.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> cells = Cells(3)
    >>> for texts in (["12.50"], ["Pier", "7"]):
    ...     cells.add(strings_of(texts))
    >>> list(cells.column("dues").cells())
    [12.5, 'Pier', 7.0]
    """

    def __init__(self, most: int, blank_as: tuple[str, ...] = ()) -> None:
        self._blank_as = blank_as
        self._reader = TokenReader(blank_as)
        self._others = Growing("", most)
        self._words: list[Any] = []
        self.trimmed = 0

    def add(self, strings: Any) -> None:
        """Take in the next rows, an Arrow array without nulls."""
        strings, trimmed = trim(strings)
        self.trimmed += trimmed
        reader = TokenReader(self._blank_as)
        self.take(read_piece(strings, self._blank_as, reader), reader)

    def take(self, piece: Piece, reader: TokenReader) -> None:
        """Take in the next rows, which that reader has read."""
        self._reader.merge(reader)
        lanes, states = piece.but_for_texts()
        self._others.add(Column("", piece.length, lanes, states))
        if piece.words is not None:
            self._words.append(piece.words)

    def merge(self, other: "Cells") -> None:
        """Take in the rows that another one has, which come after those that are here."""
        self.trimmed += other.trimmed
        self.take(other._piece(), other._reader)

    def cut(self) -> "Cells":
        """Return itself without the room for rows that did not come."""
        piece = self._piece()
        made = Cells(piece.length, self._blank_as)
        made.trimmed = self.trimmed
        made.take(piece, self._reader)
        return made

    def _piece(self) -> Piece:
        """Return all rows as one piece."""
        lanes, states = self._others.gathered()
        words = pa.concat_arrays(self._words) if self._words else None
        self._words.clear()
        return Piece(len(states), lanes, states, words)

    def apart(self) -> tuple[Piece, TokenReader]:
        """Return the cells of all rows, texts as they are, and what read them."""
        return self._piece(), self._reader

    def read(self, name: str) -> tuple[Column, TokenReader]:
        """Return the cells of all rows as a column, and what read them, to go on with."""
        column = column_of_piece(name, self._piece(), ())
        return replace(column, trimmed=self.trimmed), self._reader

    def column(self, name: str) -> Column:
        """Return the cells of all rows as a column."""
        return column_of_piece(name, self._piece(), self._reader.notices(name))


def read_in_bulk(name: str, strings: Any) -> Column:
    """Return the column of strings, an Arrow array without nulls and without outer white space."""
    piece, reader = read_apart(strings)
    return column_of_piece(name, piece, reader.notices(name))


def read_apart(strings: Any) -> tuple[Piece, TokenReader]:
    """Return the cells of such strings, its texts as they are, and what read them.

    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> piece, _ = read_apart(strings_of(["12", "Quay"]))
    >>> piece.words.to_pylist(), piece.states.tolist()
    (['Quay'], [0, 2])
    """

    def read(rows: slice) -> tuple[Piece, TokenReader]:
        reader = TokenReader()
        return read_piece(strings[rows], (), reader), reader

    stretches = side_by_side(read, len(strings))
    if len(stretches) == 1:
        return stretches[0]
    cells = Cells(len(strings))
    for piece, reader in stretches:
        cells.take(piece, reader)
    return cells.apart()
