"""Files of calls read in one process and by two workers, and what clusters would take, on paper.

    python bench/cluster.py [FILES] [ROWS] [SEED]      8 files of 500000 rows if not said

Prints the ratio of both for CSV and, four times as many rows, for Parquet, the costs measured on
the way, and the times of a simulated cluster that has these costs: tasks that end in any order,
workers that are lost, and either one machine that puts the rows of short text files together, or
rows of long files that stay with the workers, who merge in a tree what was gathered.
"""

import heapq
import random
import sys
import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from importlib import import_module
from pathlib import Path
from tempfile import TemporaryDirectory
from types import SimpleNamespace
from typing import Any

import cloudpickle

from even_sieve import read_table
from even_sieve.sources import long_csv
from even_sieve.sources.csv_at_workers import gather_at
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.unpacking import LongAt
from longer import make
from reading import write_calls

distributed: Any = import_module("distributed")
_ASKED = "dues zone"
_QUESTIONS: dict[str, tuple[tuple[str, ...], dict[str, str]]] = {
    "sum and largest under a condition": (
        ("sum of dues", "max of dues"),
        {"where": "zone = Outer"},
    ),
    "median": (("median of dues",), {}),
    "by 10,000 vessels": (("sum of dues",), {"by": "vessel"}),
}
#: Bytes a second between two machines, and the seconds that one message takes at the least.
_NET, _MESSAGE = 1e9, 0.002
#: The rows of a task, and how often a worker is lost in an hour of its work.
_TASK, _LOST = 5_000_000, 0.01


@dataclass(frozen=True)
class Costs:
    """What was measured: seconds and bytes a row."""

    read: float
    put_together: float
    passed: float
    size: float
    read_typed: float = 0.0


def timed(work: Callable[[], Any]) -> tuple[float, Any]:
    """Return the seconds of the better of two runs, and what came of it."""
    best, found = float("inf"), None
    for _ in range(2):
        begun = time.perf_counter()
        found = work()
        best = min(best, time.perf_counter() - begun)
    return best, found


def measured(paths: list[Path], rows: int) -> Costs:
    """Return the costs of a row, of two columns out of twelve."""
    options, sent = SourceOptions(asks=_ASKED), []

    def share(do: Callable[[Any], Any], things: Any) -> list[Any]:
        begun = time.perf_counter()
        found = [do(thing) for thing in things]
        spent.append(time.perf_counter() - begun)
        sent.append(sum(len(cloudpickle.dumps(each)) for each in found))
        return found

    spent: list[float] = []
    at = [LongAt(path, path.name, str(path)) for path in paths]
    none: Any = SimpleNamespace(share=share)
    none.telling = lambda *_: none
    gather = partial(gather_at, none, rows + len(paths), rows)
    runs = []
    for _ in range(2):
        begun = time.perf_counter()
        assert long_csv.read(at, "", options, share, gather) is not None
        runs.append((time.perf_counter() - begun, sum(spent[-2:])))
    whole, read = min(runs)
    made = read_table(paths, asks=_ASKED)
    passed, _ = timed(lambda: made.tally("sum of dues", where="zone = Outer"))
    return Costs(read / rows, max(whole - read, 0.0) / rows, passed / rows, sent[-1] / rows)


def asked_of(path: Path, how: dict[str, Any]) -> list[float]:
    """Return the seconds to read three columns, and those of each question, the second time."""
    read, table = timed(lambda: read_table(path, asks="dues zone vessel", **how))
    found = [read]
    for asked, more in _QUESTIONS.values():
        found.append(timed(partial(table.tally, *asked, **more))[0])
    return found


def simulated(
    costs: Costs, rows: float, workers: int, *, tree: bool, seed: int
) -> tuple[float, float]:
    """Return the seconds until a figure, and the bytes that the one machine must hold.

    Each worker takes the next task as it ends one; one that is lost gives its task back. Without a
    tree every row's cells travel to one machine; with one, states of a few hundred bytes do.
    """
    rng, tasks = random.Random(seed), max(int(rows // _TASK), 1)
    size = rows / tasks
    each = size * (costs.read_typed + costs.passed if tree else costs.read)
    busy = [(0.0, worker) for worker in range(min(workers, tasks))]
    heapq.heapify(busy)
    left, end = tasks, 0.0
    while left:
        begun, worker = heapq.heappop(busy)
        takes = each * rng.uniform(0.8, 1.6)
        lost = rng.expovariate(_LOST / 3600)
        if lost < takes:
            heapq.heappush(busy, (begun + lost + 5, worker))  # another is begun in its place
            continue
        left -= 1
        end = max(end, begun + takes)
        heapq.heappush(busy, (begun + takes, worker))
    if tree:
        levels, width = 0, tasks
        while width > 1:
            levels, width = levels + 1, -(-width // 16)
        return end + levels * 16 * _MESSAGE, 1e6
    arriving = rows * costs.size / _NET + tasks * _MESSAGE
    together = rows * (costs.put_together + costs.passed)
    return max(end, arriving) + together, rows * costs.size


def main(files: int = 8, rows: int = 500_000, seed: int = 0) -> None:
    """Print what was measured, and what it comes to."""
    with TemporaryDirectory() as folder:
        paths = [Path(folder) / f"calls-{number}.csv" for number in range(files)]
        for path in paths:
            write_calls(path, rows)

        def ask(**how: Any) -> Any:
            return read_table(paths, asks=_ASKED, **how).tally("sum of dues", where="zone = Outer")

        here, one = timed(ask)
        typed = Path(folder) / "calls.parquet"
        make(typed, 4 * files * rows, seed)
        with (
            distributed.LocalCluster(n_workers=2, threads_per_worker=1, host="127.0.0.1",
                                     dashboard_address=None) as own,
            distributed.Client(own) as client,
        ):  # fmt: skip
            there, two = timed(lambda: ask(cluster=client))
            passes = [*asked_of(typed, {}), *asked_of(typed, {"cluster": client})]
        assert one[0].exact == two[0].exact, "another figure"
        costs = replace(measured(paths, files * rows), read_typed=passes[0] / (4 * files * rows))
    print(f"{files} files of {rows:,} rows, sum of one column under one condition")
    print(f"  one process {here:.2f} s, two workers {there:.2f} s: {there / here:.2f} times")
    print(f"{4 * files * rows:,} rows of Parquet, one process and two workers")
    for what, here, there in zip(("to read", *_QUESTIONS), passes, passes[4:], strict=False):
        print(f"  {what}: {here:.2f} s, {there:.2f} s: {there / here:.2f} times")
    in_words = [
        f"{seconds * 1e9:.0f} s" for seconds in (costs.read, costs.put_together, costs.passed)
    ]
    print(f"  a billion rows: read {in_words[0]}, put together {in_words[1]}, ", end="")
    print(f"gone through {in_words[2]}; {costs.size:.1f} bytes a row travel")
    print("  rows      workers   short texts, to one machine   texts, typed files that stay")
    for exponent in (9, 11, 13):
        for workers in (1, 100, 10_000):
            if exponent == 13 and workers == 1:
                continue
            flat, held = simulated(costs, 10.0**exponent, workers, tree=False, seed=seed)
            deep, _ = simulated(costs, 10.0**exponent, workers, tree=True, seed=seed)
            texts = replace(costs, read_typed=costs.read)
            long, _ = simulated(texts, 10.0**exponent, workers, tree=True, seed=seed)
            line = f"  10^{exponent:<2} {workers:>12,} {flat:>12,.0f} s {held / 1e9:>9,.0f} GB"
            print(f"{line} {long:>12,.0f} s {deep:>9,.0f} s")


if __name__ == "__main__":
    main(*map(int, sys.argv[1:]))
