"""The same tally once more: slowly, row by row, in plain Python, by code of its own.

It reads the same cells and the same criteria nodes as the fast way, and shares nothing
else with it: neither the matching, nor the arithmetic, nor the accounts.
"""

from even_sieve.core.recheck.composite import join_again
from even_sieve.core.recheck.row_by_row import Again, Question, RowByRow

__all__ = ["Again", "Question", "RowByRow", "join_again"]
