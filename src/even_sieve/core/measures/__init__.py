"""Measures: requests, the cells they use, mergeable states, and finished figures."""

from even_sieve.core.measures.cells import BlockCells, Selected
from even_sieve.core.measures.combined import COMBINED, parse_measures
from even_sieve.core.measures.forms import KINDS
from even_sieve.core.measures.kinds import MEASURES
from even_sieve.core.measures.measure import Figure, Gathered, Measure, Need, is_error
from even_sieve.core.measures.ranks import Target
from even_sieve.core.measures.request import (
    Keep,
    MeasureRequest,
    parse_keep,
    parse_measure,
)
from even_sieve.core.measures.states import Counts, State
from even_sieve.core.measures.wanted import Bucket, Wanted

__all__ = [
    "COMBINED",
    "KINDS",
    "MEASURES",
    "BlockCells",
    "Bucket",
    "Counts",
    "Figure",
    "Gathered",
    "Keep",
    "Measure",
    "MeasureRequest",
    "Need",
    "Selected",
    "State",
    "Target",
    "Wanted",
    "is_error",
    "parse_keep",
    "parse_measure",
    "parse_measures",
]
