"""Measures over ten million rows of one selection, beside one sum, NumPy and pandas.

Twelve measures beside one sum; exact sums of doubles and of fixed point beside NumPy's
plain sum; the median beside NumPy's partition; the usual statistics beside pandas. Half
of the rows are selected.

    python bench/measures.py [ROWS]
"""

import os
import sys
from functools import partial

import numpy as np
import pandas as pd

from even_sieve.core.criteria import parse_criteria
from even_sieve.core.measures import parse_measure
from even_sieve.core.query import Query
from even_sieve.core.table import Column, Table
from even_sieve.core.table.coded_lanes import text_lane
from even_sieve.core.table.lanes import FixedLane, FloatLane, Lane
from even_sieve.core.tally import tally
from timing import typical

THREADS = os.cpu_count() or 1
ROUNDS = 5
TWELVE = (
    "rows", "numbers of {}", "filled of {}", "blanks of {}", "errors of {}", "sum of {}",
    "average of {}", "min of {}", "max of {}", "range of {}", "variance of {}", "deviation of {}",
)  # fmt: skip
WHERE = parse_criteria("zone = Outer")


def column(name: str, lane: Lane) -> Column:
    return Column(name, len(lane.values), {lane.kind: lane}, None)


def in_numpy(values: np.ndarray, mask: np.ndarray, rank: int) -> float:
    return float(np.partition(values[mask], rank)[rank])


def in_pandas_by(frame: pd.DataFrame, method: str) -> object:
    return getattr(frame.loc[frame["zone"] == "Outer", "dues"], method)()


def main(rows: int) -> None:
    rng = np.random.default_rng(5)
    zone = rng.integers(0, 2, rows, dtype=np.uint8)
    cents = rng.integers(1_000, 5_000_000, rows, dtype=np.int64)
    depth = rng.lognormal(2.0, 0.5, rows)
    table = Table(
        (
            column("zone", text_lane(["Outer", "Inner"], zone)),
            column("dues", FixedLane(cents, 2)),
            column("depth", FloatLane(depth)),
        ),
        rows,
    )
    mask = zone == 0
    used = int(mask.sum())

    def ours(*measures: str, threads: int = THREADS) -> float:
        asked = [parse_measure(each) for each in measures]
        return typical(lambda: tally(Query.of(where=WHERE, threads=threads), table, asked), ROUNDS)

    print(f"{rows:,} rows, {used:,} selected, {THREADS} threads; median of {ROUNDS}")
    for name in ("dues", "depth"):
        one = ours(f"sum of {name}")
        twelve = ours(*(each.format(name) for each in TWELVE))
        print(f"  {name:<6} one sum {one:.4f} s; twelve measures / one sum {twelve / one:6.2f}")
    counting = ours("rows", threads=1)
    alone = ours("sum of depth", threads=1) - counting
    print(f"  exact sum of doubles, one thread: {alone / used * 1e9:6.2f} ns a selected value")
    plain = typical(lambda: cents[mask].sum(), ROUNDS)
    alone = ours("sum of dues", threads=1)
    print(f"  exact sum of fixed point / NumPy's mask and sum: {alone / plain:6.2f}")
    for name, values in (("dues", cents), ("depth", depth)):
        median = ours(f"median of {name}")
        partition = typical(partial(in_numpy, values, mask, used // 2), ROUNDS)
        print(f"  median of {name:<5} / NumPy's partition: {median / partition:6.2f}")
    frame = pd.DataFrame({"zone": np.where(mask, "Outer", "Inner"), "dues": cents / 100})
    frame["zone"] = frame["zone"].astype("category")

    def in_pandas() -> object:
        some = frame.loc[frame["zone"] == "Outer", "dues"]
        return some.agg(["count", "sum", "mean", "min", "max", "var", "std", "median"])

    eight = ("numbers", "sum", "average", "min", "max", "variance", "deviation", "median")
    whole = ours(*(f"{each} of dues" for each in eight))
    print(f"  eight statistics / pandas: {whole / typical(in_pandas, ROUNDS):6.2f}")
    for kind, theirs in (("distinct", "nunique"), ("mode", "mode")):
        spent = ours(f"{kind} of dues")
        other = typical(partial(in_pandas_by, frame, theirs), ROUNDS)
        print(f"  {kind} / pandas: {spent / other:6.2f}")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 10_000_000)
