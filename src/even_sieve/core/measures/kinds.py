"""The kinds of measure by name."""

from even_sieve.core.measures.arithmetic import Average, Numbers, Sum
from even_sieve.core.measures.counts import Blanks, DistinctValues, Errors, Filled, Rows
from even_sieve.core.measures.extremes import Greatest, Least
from even_sieve.core.measures.measure import Measure

MEASURES: dict[str, type[Measure]] = {
    each.kind: each
    for each in (
        Rows, Numbers, Filled, Blanks, Errors, DistinctValues, Sum, Average, Least, Greatest
    )
}  # fmt: skip
