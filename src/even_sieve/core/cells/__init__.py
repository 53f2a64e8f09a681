"""Cells: their kinds, error cells, text equality, and reading one from plain text."""

from even_sieve.core.cells.cell import Cell, CellError, Kind, error_from_token
from even_sieve.core.cells.dates import Moment, format_date, read_date
from even_sieve.core.cells.likeness import (
    Places,
    all_like_dates,
    all_like_numbers,
    looks_like_date,
    looks_like_number,
    texts_found,
)
from even_sieve.core.cells.text import fold, read_number
from even_sieve.core.cells.times import all_like_times, looks_like_time, out_of_order, seconds_said

__all__ = [
    "Cell",
    "CellError",
    "Kind",
    "Moment",
    "Places",
    "all_like_dates",
    "all_like_numbers",
    "all_like_times",
    "error_from_token",
    "fold",
    "format_date",
    "looks_like_date",
    "looks_like_number",
    "looks_like_time",
    "out_of_order",
    "read_date",
    "read_number",
    "seconds_said",
    "texts_found",
]
