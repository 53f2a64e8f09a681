"""What criteria cost, beside idiomatic pandas in the same run, counted from loaded tables.

    *ship9* on vessels; 20 alternatives with wildcards; a criteria range of 200 rows;
    and one cell of growing length against a hopeless pattern.

Each pair must find the same number of rows, or the run stops.

    python bench/criteria.py [ROWS]
"""

import sys
import time
from collections.abc import Callable
from functools import partial

import numpy as np
import pandas as pd

from even_sieve.core.criteria import Criteria, criteria_from_range, parse_criteria
from even_sieve.core.criteria.operands import Pattern, Wild, read_letters
from even_sieve.core.criteria.operands.wildcards import matcher
from even_sieve.core.measures import parse_measure
from even_sieve.core.query import Query
from even_sieve.core.table import Table, column_from_codes
from even_sieve.core.tally import tally
from ten_million import THREADS

ROUNDS = 5
RANGE_ROWS = 200


class Calls:
    """Vessel calls of 5,000 vessels, as a table and as a data frame of plain strings."""

    def __init__(self, rows: int) -> None:
        rng = np.random.default_rng(9)
        self.vessels = [f"{'ABCDE'[i % 5]}{i % 97} ship{i} of the roads" for i in range(5000)]
        codes = rng.integers(0, len(self.vessels), rows, dtype=np.uint16)
        dues = rng.integers(1_000, 500_000, rows)
        self.frame = pd.DataFrame({"vessel": np.array(self.vessels, dtype=object)[codes]})
        self.frame["dues"] = dues / 100
        columns = (
            column_from_codes("vessel", self.vessels, codes),
            column_from_codes("dues", (np.arange(500_000) / 100).tolist(), dues),
        )
        self.table = Table(columns, rows)

    def range_rows(self) -> list[tuple[str, int]]:
        """Return the rows of a criteria range: a vessel, and the dues that it must reach."""
        chosen = self.vessels[:: len(self.vessels) // RANGE_ROWS][:RANGE_ROWS]
        return [(vessel, 10 * i) for i, vessel in enumerate(chosen)]


def count(table: Table, criteria: Criteria) -> int:
    found = tally(Query.of(where=criteria, threads=THREADS), table, [parse_measure("rows")])
    return int(found[0].value)  # type: ignore[arg-type]


def twenty(calls: Calls) -> tuple[Criteria, Callable[[], int]]:
    parts = [f"ship{i}1" for i in range(20)]
    text = " | ".join(f"*{part}*" for part in parts)
    vessel = calls.frame["vessel"]
    return parse_criteria(f"vessel = {text}"), lambda: int(
        vessel.str.contains("|".join(parts)).sum()
    )


def laid_out(calls: Calls) -> tuple[Criteria, Callable[[], int]]:
    rows = calls.range_rows()
    criteria = criteria_from_range(["vessel", "dues"], [[v, f">= {d}"] for v, d in rows]).criteria
    wanted = pd.DataFrame(rows, columns=["vessel", "least"])

    def with_pandas() -> int:
        joined = calls.frame.merge(wanted, on="vessel")
        return int((joined["dues"] >= joined["least"]).sum())

    return criteria, with_pandas


def timed(work: Callable[[], int]) -> tuple[float, int]:
    times, found = [], work()
    for _ in range(ROUNDS):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return float(np.median(times)), found


def compare(name: str, calls: Calls, criteria: Criteria, other: Callable[[], int]) -> None:
    own, found = timed(lambda: count(calls.table, criteria))
    seconds, theirs = timed(other)
    if found != theirs:
        sys.exit(f"{name}: {found} rows, pandas {theirs}")
    print(
        f"  {name:<28} {own * 1000:8.1f} ms  pandas {seconds * 1000:8.1f} ms  {own / seconds:6.3f}"
    )


def _ask(matches: Callable[[str], bool], cell: str) -> int:
    return int(matches(cell))


def one_long_cell() -> None:
    """Print the time a cell takes against hopeless patterns, and how it grows with the cell."""
    for pattern in ("a*" * 20 + "b", "a*" * 20 + "ab*b", "*a?a?a?b*" * 3):
        read = read_letters(pattern)
        if not isinstance(read, Pattern):
            sys.exit("this is no pattern")
        matches = matcher([part for part in read.parts if isinstance(part, str | Wild)])
        times = []
        for length in (250_000, 500_000, 1_000_000):
            cell = "a" * length
            times.append(timed(partial(_ask, matches, cell))[0])
        shown = "  ".join(f"{seconds * 1e6:9.1f} µs" for seconds in times)
        print(f"  {pattern[:12]}…{pattern[-4:]:<6} {shown}")


def main(rows: int) -> None:
    calls = Calls(rows)
    vessel = calls.frame["vessel"]
    print(f"{rows:,} rows, {THREADS} threads, median of {ROUNDS} rounds; last: even-sieve / pandas")
    compare(
        "vessel = *ship9*", calls, parse_criteria("vessel = *ship9*"),
        lambda: int(vessel.str.contains("ship9", regex=False).sum()),
    )  # fmt: skip
    compare(
        "vessel = B* (a beginning)", calls, parse_criteria("vessel = B*"),
        lambda: int(vessel.str.startswith("B").sum()),
    )  # fmt: skip
    compare("20 alternatives", calls, *twenty(calls))
    compare(f"a range of {RANGE_ROWS} rows", calls, *laid_out(calls))
    print("one cell of 250,000, 500,000 and 1,000,000 letters a, against hopeless patterns:")
    one_long_cell()


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 2_000_000)
