"""The kinds of measure by name."""

from even_sieve.core.measures.arithmetic import (
    Average,
    Deviation,
    Numbers,
    ProductOf,
    Share,
    Sum,
    Variance,
    WeightedAverage,
)
from even_sieve.core.measures.counts import (
    Blanks,
    DistinctOrBlank,
    DistinctValues,
    Errors,
    Filled,
    Rows,
)
from even_sieve.core.measures.extremes import Greatest, Least, Range
from even_sieve.core.measures.measure import Measure
from even_sieve.core.measures.order import Largest, Median, Mode, Percentile, Quartile, Smallest
from even_sieve.core.measures.places import First, Last, Only

MEASURES: dict[str, type[Measure]] = {
    each.kind: each
    for each in (
        Rows, Numbers, Filled, Blanks, Errors, DistinctValues, DistinctOrBlank, Sum, ProductOf,
        Average, WeightedAverage, Least, Greatest, Largest, Smallest, Range, Median, Mode,
        Percentile, Quartile, Variance, Deviation, Only, First, Last, Share,
    )
}  # fmt: skip
