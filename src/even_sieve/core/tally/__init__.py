"""Tallies: figures with their accounts, worked out in one pass over a table."""

from even_sieve.core.tally.account import BUCKETS, Account
from even_sieve.core.tally.ask import Options, break_down, has_error, matching_rows, tally
from even_sieve.core.tally.results import Breakdown, Line, Tallies, Tally

__all__ = [
    "BUCKETS",
    "Account",
    "Breakdown",
    "Line",
    "Options",
    "Tallies",
    "Tally",
    "break_down",
    "has_error",
    "matching_rows",
    "tally",
]
