"""Cells as tokens that text sources read back."""

from collections.abc import Callable, Iterator
from decimal import Decimal
from itertools import islice

import numpy as np

from even_sieve.core.cells import Cell, Kind
from even_sieve.core.table import Column
from even_sieve.core.table.arrays import BLOCK, spans
from even_sieve.core.table.lanes import Array, DateLane, FixedLane, Lane, TextLane
from even_sieve.documents.values import plain_text
from even_sieve.sources.arrow_strings import Strings

#: How a text begins that a spreadsheet would run as a formula.
_RUNS = (*"=+-@＝＋－＠", "\t", "\r")


def token(cell: Cell, decimals: int = 0) -> str:
    """Return the token of a cell: all digits, with the column's decimals; `true` for yes.

    >>> token(12.5, 2), token(438.0), token(True), token(None)
    ('12.50', '438', 'true', '')
    """
    if isinstance(cell, str):
        return cell
    if isinstance(cell, bool):
        return "true" if cell else "false"
    if decimals and isinstance(cell, float | Decimal):
        return f"{Decimal(repr(cell)) if isinstance(cell, float) else cell:.{decimals}f}"
    return plain_text(cell).removesuffix(".0") if isinstance(cell, float) else plain_text(cell)


def tokens_of(column: Column, spell: Callable[[Cell, int], str]) -> Iterator[list[str]]:
    """Yield the tokens of a column, so many rows at a time; `spell` gives that of a cell.

    Where all cells are of one kind, or blank, most are told without a cell being made.

    >>> from even_sieve.core.table import column_from
    >>> list(tokens_of(column_from("dues", [12.5, None, -0.25]), token))
    [['12.50', '', '-0.25']]
    """
    kinds, decimals = set(column.counts) - {Kind.BLANK}, column.decimals
    at_once = _at_once(column.lanes[kinds.pop()], decimals, spell) if len(kinds) == 1 else None
    cells = column.cells() if at_once is None else iter(())
    for rows in spans(column.length, BLOCK):
        if at_once is None:
            yield [spell(cell, decimals) for cell in islice(cells, rows.stop - rows.start)]
            continue
        found = at_once(rows)
        if column.states is not None:
            for place in np.flatnonzero(column.states[rows] == Kind.BLANK).tolist():
                found[place] = ""
        yield found


def _at_once(
    lane: Lane, decimals: int, spell: Callable[[Cell, int], str]
) -> Callable[[slice], list[str]] | None:
    """Return what gives the tokens of some rows of a lane; None where each cell is to be made."""
    values: Array = lane.values
    if isinstance(lane, FixedLane) and lane.scale == decimals:
        if not decimals:
            return lambda rows: list(map(str, values[rows].tolist()))
        unit = 10**decimals

        def fixed(rows: slice) -> list[str]:
            own = values[rows]
            parts = zip(
                (own < 0).tolist(),
                *(each.tolist() for each in np.divmod(np.abs(own), unit)),
                strict=True,
            )
            return [f"{'-' * below}{whole}.{part:0{decimals}}" for below, whole, part in parts]

        return fixed
    if isinstance(lane, TextLane):
        texts = lane.spellings
        if isinstance(texts, Strings) and len(texts) > BLOCK:
            return lambda rows: [spell(each, decimals) for each in texts.many(values[rows])]
        if len(texts) <= len(values):
            words = [spell(each, decimals) for each in texts]
            return lambda rows: [words[code] for code in values[rows].tolist()]
    if isinstance(lane, DateLane) and not lane.has_time:
        return lambda rows: values[rows].astype("datetime64[D]").astype(np.str_).tolist()
    return None


def harmless(text: str, cell: Cell) -> str:
    """Return a text cell's token with an apostrophe before it if it would run as a formula."""
    return f"'{text}" if isinstance(cell, str) and text.startswith(_RUNS) else text
