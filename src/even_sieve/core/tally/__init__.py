"""Tallies: figures with their accounts, worked out in one pass over a table."""

from even_sieve.core.tally.account import BUCKETS, Account
from even_sieve.core.tally.agreement import Recheck, Rechecks
from even_sieve.core.tally.answers import Breakdown, Tallies, Tally
from even_sieve.core.tally.breakdown import break_down, tally_or_break_down
from even_sieve.core.tally.bridge import Bridge, BridgeStep, make_bridge
from even_sieve.core.tally.composite_arithmetic import as_shown
from even_sieve.core.tally.composite_figures import OF_NO_LINE
from even_sieve.core.tally.counting import matching_rows
from even_sieve.core.tally.defence import Defence, explain, figures_of, has_error, recheck
from even_sieve.core.tally.evaluate import tally
from even_sieve.core.tally.explain import Explanation, Explanations
from even_sieve.core.tally.funnel import Funnel, FunnelStep, make_funnel
from even_sieve.core.tally.keyed_lines import ALL_VALUES, Line, key_columns_of, keys_of, values_of
from even_sieve.core.tally.layout import Layout
from even_sieve.core.tally.lines import (
    Added,
    Counted,
    Heading,
    LineRows,
    LineSet,
    Together,
    make_lines,
)
from even_sieve.core.tally.listing import Choice, Listing, list_rows
from even_sieve.core.tally.plan import Plan
from even_sieve.core.tally.rehearsal import rehearse
from even_sieve.core.tally.verdicts import verdicts

__all__ = [
    "ALL_VALUES",
    "BUCKETS",
    "OF_NO_LINE",
    "Account",
    "Added",
    "Breakdown",
    "Bridge",
    "BridgeStep",
    "Choice",
    "Counted",
    "Defence",
    "Explanation",
    "Explanations",
    "Funnel",
    "FunnelStep",
    "Heading",
    "Layout",
    "Line",
    "LineRows",
    "LineSet",
    "Listing",
    "Plan",
    "Recheck",
    "Rechecks",
    "Tallies",
    "Tally",
    "Together",
    "as_shown",
    "break_down",
    "explain",
    "figures_of",
    "has_error",
    "key_columns_of",
    "keys_of",
    "list_rows",
    "make_bridge",
    "make_funnel",
    "make_lines",
    "matching_rows",
    "recheck",
    "rehearse",
    "tally",
    "tally_or_break_down",
    "values_of",
    "verdicts",
]
