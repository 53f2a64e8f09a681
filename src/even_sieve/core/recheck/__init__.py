"""The same tally once more: slowly, row by row, in plain Python, by code of its own.

It takes the table's cells and the words of the criteria, which it reads by itself, and shares
nothing with the fast way: neither the reading, the matching, the arithmetic nor the accounts.
Criteria built in Python have no words; their nodes are taken as they are.
"""

from even_sieve.core.recheck.composite import join_again
from even_sieve.core.recheck.row_by_row import BUCKETS, Again, Question, RowByRow
from even_sieve.core.recheck.words import read_again, read_given_again

__all__ = [
    "BUCKETS",
    "Again",
    "Question",
    "RowByRow",
    "join_again",
    "read_again",
    "read_given_again",
]
