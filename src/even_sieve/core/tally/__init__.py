"""Tallies: figures with their accounts, worked out in one pass over a table."""

from even_sieve.core.tally.account import BUCKETS, Account
from even_sieve.core.tally.agreement import Recheck
from even_sieve.core.tally.answers import ALL_VALUES, Breakdown, Line, Tallies, Tally
from even_sieve.core.tally.breakdown import Layout, break_down
from even_sieve.core.tally.bridge import Bridge, make_bridge
from even_sieve.core.tally.calendar import period_before
from even_sieve.core.tally.call import Call, Options
from even_sieve.core.tally.composite_arithmetic import as_shown
from even_sieve.core.tally.composite_figures import OF_NO_LINE
from even_sieve.core.tally.counting import matching_rows
from even_sieve.core.tally.evaluate import has_error, tally
from even_sieve.core.tally.explain import Explanation
from even_sieve.core.tally.funnel import Funnel, make_funnel
from even_sieve.core.tally.lines import (
    Added,
    Counted,
    Heading,
    LineSet,
    Together,
    Wanted,
    make_lines,
)
from even_sieve.core.tally.verdicts import verdicts

__all__ = [
    "ALL_VALUES",
    "BUCKETS",
    "OF_NO_LINE",
    "Account",
    "Added",
    "Breakdown",
    "Bridge",
    "Call",
    "Counted",
    "Explanation",
    "Funnel",
    "Heading",
    "Layout",
    "Line",
    "LineSet",
    "Options",
    "Recheck",
    "Tallies",
    "Tally",
    "Together",
    "Wanted",
    "as_shown",
    "break_down",
    "has_error",
    "make_bridge",
    "make_funnel",
    "make_lines",
    "matching_rows",
    "period_before",
    "tally",
    "verdicts",
]
