"""Cells: their kinds, error cells, text equality, and reading one from plain text."""

from even_sieve.core.cells.cell import Cell, CellError, Kind, error_from_token
from even_sieve.core.cells.dates import Moment, format_date, read_date
from even_sieve.core.cells.text import (
    all_like_dates,
    all_like_numbers,
    fold,
    looks_like_date,
    looks_like_number,
    read_number,
    texts_found,
)

__all__ = [
    "Cell",
    "CellError",
    "Kind",
    "Moment",
    "all_like_dates",
    "all_like_numbers",
    "error_from_token",
    "fold",
    "format_date",
    "looks_like_date",
    "looks_like_number",
    "read_date",
    "read_number",
    "texts_found",
]
