"""Ten million vessel calls, one question, four ways, and how their times compare.

    (zone = North and arrived in 2031-Q2) or (vessel = B* and tonnage > 5000)

Hidden rows are left out; five measures of dues. Everything is made on the spot and
counted from a loaded table. Each way must give the same figures, or the run stops.

    python bench/ten_million.py [ROWS]
"""

import os
import sys
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from datetime import date
from typing import Any

import numpy as np
import pandas as pd

from even_sieve.core.cells.dates import days_of
from even_sieve.core.criteria import parse_criteria
from even_sieve.core.measures import parse_measure
from even_sieve.core.query import Query
from even_sieve.core.table import Column, Mark, Table
from even_sieve.core.table.coded_lanes import text_lane
from even_sieve.core.table.lanes import DateLane, FixedLane, Lane
from even_sieve.core.tally import tally

CRITERIA = "(zone = North and arrived in 2031-Q2) or (vessel = B* and tonnage > 5000)"
MEASURES = ("sum", "average", "min", "max", "numbers")
ZONES = ["North", "Outer", "Inner", "South", "Roads"]
THREADS = os.cpu_count() or 1
ROUNDS = 9


class Harbour:
    """The same made-up calls as plain arrays, as a data frame and as a table."""

    def __init__(self, rows: int) -> None:
        rng = np.random.default_rng(2031)
        letters = [chr(ord("A") + i) for i in range(26)]
        self.vessels = [f"{letters[i % 26]}{letters[i // 26 % 26]} {i}" for i in range(2000)]
        self.zone = rng.integers(0, len(ZONES), rows, dtype=np.uint8)
        self.vessel = rng.integers(0, len(self.vessels), rows, dtype=np.uint16)
        start = np.datetime64("2031-01-01", "D").astype(np.int32)
        self.arrived = (start + rng.integers(0, 365, rows, dtype=np.int32)).astype(np.int32)
        self.tonnage = rng.integers(100, 20_000, rows, dtype=np.int64)
        self.dues = rng.integers(1_000, 5_000_000, rows, dtype=np.int64)  # hundredths
        self.hidden = rng.random(rows) < 0.02

    def frame(self) -> pd.DataFrame:
        return pd.DataFrame(
            {
                "zone": pd.Categorical.from_codes(self.zone, pd.Index(ZONES)),
                "vessel": pd.Categorical.from_codes(self.vessel, pd.Index(self.vessels)),
                "arrived": self.arrived.astype("datetime64[D]").astype("datetime64[s]"),
                "tonnage": self.tonnage,
                "dues": self.dues / 100,
                "hidden": self.hidden,
            }
        )

    def plain_frame(self) -> pd.DataFrame:
        """The frame as a file gives it: text as strings, not as categories."""
        frame = self.frame()
        for name in ("zone", "vessel"):
            frame[name] = frame[name].astype("str")
        return frame

    def table(self) -> Table:
        lanes: dict[str, Lane] = {
            "zone": text_lane(ZONES, self.zone),
            "vessel": text_lane(self.vessels, self.vessel),
            "arrived": DateLane(self.arrived, False),
            "tonnage": FixedLane(self.tonnage, 0),
            "dues": FixedLane(self.dues, 2),
        }
        columns = tuple(
            Column(name, len(self.zone), {lane.kind: lane}) for name, lane in lanes.items()
        )
        return Table(columns, len(self.zone)).marked(Mark.HIDDEN, self.hidden)


def with_even_sieve(table: Table) -> list[float]:
    requests = [parse_measure(f"{kind} of dues") for kind in MEASURES]
    found = tally(Query.of(where=parse_criteria(CRITERIA), threads=THREADS), table, requests)
    return [float(each.value) for each in found]  # type: ignore[arg-type]


def with_pandas(frame: pd.DataFrame) -> list[float]:
    quarter = (frame["arrived"] >= "2031-04-01") & (frame["arrived"] < "2031-07-01")
    mask = (frame["zone"] == "North") & quarter
    mask |= frame["vessel"].str.startswith("B") & (frame["tonnage"] > 5000)
    dues = frame.loc[mask & ~frame["hidden"], "dues"]
    return [float(x) for x in (dues.sum(), dues.mean(), dues.min(), dues.max(), dues.count())]


def with_numpy(harbour: Harbour) -> list[float]:
    first, after = days_of(date(2031, 4, 1)), days_of(date(2031, 7, 1))
    is_b = np.array([name.startswith("B") for name in harbour.vessels])
    mask = (harbour.zone == 0) & (harbour.arrived >= first) & (harbour.arrived < after)
    mask |= is_b[harbour.vessel] & (harbour.tonnage > 5000)
    dues = harbour.dues[mask & ~harbour.hidden]
    total = int(dues.sum())
    return [total / 100, total / 100 / len(dues), dues.min() / 100, dues.max() / 100, len(dues)]


def just_reading(harbour: Harbour) -> list[float]:
    arrays = (harbour.zone, harbour.vessel, harbour.arrived, harbour.tonnage, harbour.dues)
    half = len(harbour.zone) // 2
    pieces = [part for array in (*arrays, harbour.hidden) for part in (array[:half], array[half:])]
    with ThreadPoolExecutor(2) as pool:
        return [float(each) for each in pool.map(np.max, pieces)]


def timed(ways: dict[str, Callable[[], list[float]]]) -> dict[str, tuple[float, list[float]]]:
    """Return each way's median time in seconds, and what came back; the ways take turns."""
    found = {name: work() for name, work in ways.items()}
    times: dict[str, list[float]] = {name: [] for name in ways}
    for _ in range(ROUNDS):
        for name, work in ways.items():
            start = time.perf_counter()
            work()
            times[name].append(time.perf_counter() - start)
    return {name: (float(np.median(times[name])), found[name]) for name in ways}


def main(rows: int) -> None:
    harbour = Harbour(rows)
    frame, plain, table = harbour.frame(), harbour.plain_frame(), harbour.table()
    ways: dict[str, Callable[[], Any]] = {
        "even-sieve": lambda: with_even_sieve(table),
        "pandas": lambda: with_pandas(plain),
        "pandas, categories": lambda: with_pandas(frame),
        "NumPy by hand": lambda: with_numpy(harbour),
        "reading the bytes": lambda: just_reading(harbour),
    }
    results = timed(ways)
    own, figures = results["even-sieve"]
    print(f"{rows:,} rows, {THREADS} threads, median of {ROUNDS} rounds")
    print(f"{CRITERIA}, hidden rows left out; " + ", ".join(MEASURES) + " of dues")
    for name, (seconds, found) in results.items():
        if name != "reading the bytes" and not np.allclose(found, figures, rtol=1e-12):
            sys.exit(f"{name} gives {found}, even-sieve {figures}")
        print(f"  {name:<20} {seconds * 1000:8.1f} ms   even-sieve / this: {own / seconds:6.3f}")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 10_000_000)
