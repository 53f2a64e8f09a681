"""Cells as tokens that text sources read back."""

from decimal import Decimal

from even_sieve.core.cells import Cell
from even_sieve.documents.values import plain_text

#: How a text begins that a spreadsheet would run as a formula.
RUNS = (*"=+-@＝＋－＠", "\t", "\r")


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


def harmless(text: str, cell: Cell) -> str:
    """Return a text cell's token with an apostrophe before it if it would run as a formula."""
    return f"'{text}" if isinstance(cell, str) and text.startswith(RUNS) else text
