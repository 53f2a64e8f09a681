"""Measures: requests, the cells they use, mergeable states, and finished figures."""

from even_sieve.core.measures import (  # noqa: F401
    arithmetic,
    counts,
    extremes,
    mode,
    order,
    percentiles,
    places,
    spread,
)
from even_sieve.core.measures.cell_filter import Bucket, CellFilter
from even_sieve.core.measures.cells import BlockCells, Selected
from even_sieve.core.measures.composites import COMPOSITES, parse_measures
from even_sieve.core.measures.measure import (
    MEASURES,
    Figure,
    Gathered,
    Measure,
    Need,
    is_error,
)
from even_sieve.core.measures.ranked import Target
from even_sieve.core.measures.request import (
    Keep,
    MeasureRequest,
    parse_keep,
    parse_measure,
)
from even_sieve.core.measures.signatures import KINDS
from even_sieve.core.measures.states import Counts, State

__all__ = [
    "COMPOSITES",
    "KINDS",
    "MEASURES",
    "BlockCells",
    "Bucket",
    "CellFilter",
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
    "is_error",
    "parse_keep",
    "parse_measure",
    "parse_measures",
]
