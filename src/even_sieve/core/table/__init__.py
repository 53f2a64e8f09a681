"""Tables: columns of mixed cells, marks on rows, and the numbers that the source gave them."""

from even_sieve.core.table.build import column_from_cells, column_from_codes
from even_sieve.core.table.columns import Column
from even_sieve.core.table.from_arrays import column_from
from even_sieve.core.table.marks import Mark
from even_sieve.core.table.profile import ColumnProfile, Finding, Profile, profile
from even_sieve.core.table.repeats import find_subtotals, find_totals
from even_sieve.core.table.table import Table, table_from_columns
from even_sieve.core.table.totals import Suspect, misfit_words

__all__ = [
    "Column",
    "ColumnProfile",
    "Finding",
    "Mark",
    "Profile",
    "Suspect",
    "Table",
    "column_from",
    "column_from_cells",
    "column_from_codes",
    "find_subtotals",
    "find_totals",
    "misfit_words",
    "profile",
    "table_from_columns",
]
