"""A breakdown of a million rows by 10,000 labels, beside one plain sum and beside pandas.

python bench/labels.py [ROWS] [LABELS]
"""

import sys

import numpy as np
import pandas as pd

from even_sieve.core.cells import Kind
from even_sieve.core.measures import parse_measure
from even_sieve.core.query import Query
from even_sieve.core.table import Column, Table
from even_sieve.core.table.coded_lanes import text_lane
from even_sieve.core.table.lanes import FixedLane
from even_sieve.core.tally import Layout, break_down, tally
from timing import typical

ROUNDS = 9


def main(rows: int, labels: int) -> None:
    rng = np.random.default_rng(6)
    codes = rng.integers(0, labels, rows).astype(np.min_scalar_type(labels - 1))
    cents = rng.integers(1, 1_000_000, rows)
    words = [f"L{i:06}" for i in range(labels)]
    label = Column("label", rows, {Kind.TEXT: text_lane(words, codes)}, None)
    dues = Column("dues", rows, {Kind.NUMBER: FixedLane(cents, 2)}, None)
    table = Table((label, dues), rows)
    request = [parse_measure("sum of dues")]
    frame = pd.DataFrame(
        {"label": pd.Categorical.from_codes(codes, pd.Index(words)), "dues": cents / 100}
    )
    plain = typical(lambda: tally(Query(), table, request), ROUNDS)
    by = Layout(("label",))
    lines = typical(lambda: break_down(Query(), table, request, by), ROUNDS)
    every = typical(
        lambda: [
            line.tallies[0].value
            for line in break_down(Query(), table, request, Layout(("label",)))
        ],
        ROUNDS,
    )
    kinds = ("sum of dues", "average of dues", "median of dues", "rows")
    asked = [parse_measure(each) for each in kinds]
    framed = typical(lambda: break_down(Query(), table, asked, by).to_frame(), 3)
    printed = typical(lambda: str(break_down(Query(), table, request, by)), 3)
    columns = frame.groupby("label", observed=True)["dues"]
    four = typical(lambda: columns.agg(["sum", "mean", "median", "size"]), 3)
    grouped = typical(lambda: frame.groupby("label", observed=True)["dues"].sum(), ROUNDS)
    print(f"{rows:,} rows, {labels:,} labels; median of {ROUNDS}")
    print(f"  breakdown / one plain sum {lines / plain:6.2f}")
    print(f"  breakdown / pandas        {lines / grouped:6.2f}")
    print(f"  four measures to a frame / pandas {framed / four:6.2f} ({framed:.2f} s)")
    print(f"  printed                   {printed:6.2f} s")
    print(f"  with every line made      {every / plain:6.2f} of one plain sum")


if __name__ == "__main__":
    sizes = [int(each) for each in sys.argv[1:]]
    main(sizes[0] if sizes else 1_000_000, sizes[1] if len(sizes) > 1 else 10_000)
