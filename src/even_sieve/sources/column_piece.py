"""Some rows of a column of strings as they were read, and the column that they make."""

from dataclasses import dataclass, field
from typing import Any

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.notices import Notice
from even_sieve.core.table import Column
from even_sieve.core.table.build import assemble
from even_sieve.core.table.growing import join_columns
from even_sieve.core.table.lanes import Array, Lane
from even_sieve.sources.text_lanes import text_lane_later
from even_sieve.sources.woven import spread


@dataclass
class Piece:
    """Some rows of a column: lanes of all kinds but text, states, and the texts themselves.

    `words` is an Arrow array of the texts alone, in the order of their rows; None without any.
    `apart` are rows, blank so far, whose cells do not go into these lanes, and their columns.
    """

    length: int
    lanes: dict[Kind, Lane]
    states: Array
    words: Any = None
    apart: list[tuple[Array, Column]] = field(default_factory=list)

    def put(self, kind: Kind, lane: Lane, rows: Array) -> None:
        """Add a lane made for some rows alone."""
        if len(rows) < self.length:
            lane = spread(lane, rows, self.length)
        self.lanes[kind] = lane
        self.states[rows] = kind

    def but_for_texts(self) -> tuple[dict[Kind, Lane], Array]:
        """Return the lanes of all kinds but text, and the states; what was apart is among them."""
        if not self.apart:
            return dict(self.lanes), self.states
        texts = self.states == Kind.TEXT
        states = np.where(texts, np.uint8(Kind.BLANK), self.states)
        column = assemble("", self.length, self.lanes, states)
        order = np.arange(self.length)
        rows = np.concatenate([own for own, _ in self.apart])
        order[rows] = np.arange(len(rows)) + self.length
        joined = join_columns("", (column, *(apart for _, apart in self.apart))).take(order)
        full = np.full(self.length, joined.only_kind, dtype=np.uint8)
        states = full if joined.states is None else joined.states
        states[texts] = Kind.TEXT
        return dict(joined.lanes), states


def column_of_piece(name: str, piece: Piece, notices: tuple[Notice, ...]) -> Column:
    """Return the column that a piece holds, its texts made into a lane."""
    lanes, states = piece.but_for_texts()
    if piece.words is not None:
        all_rows = len(piece.words) == piece.length
        lanes[Kind.TEXT] = text_lane_later(piece.words, None if all_rows else piece.states)
    return assemble(name, piece.length, lanes, states, notices)
