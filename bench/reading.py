"""Reading a CSV of 1,000,000 rows and 12 columns, mixed ones among them, beside pandas.

Prints the times, and how much memory each reading takes, every one in a process of its own.

    python bench/reading.py [ROWS]
"""

import resource
import subprocess
import sys
import tempfile
import time
from pathlib import Path

ROUNDS = 3
HEADER = "call,berth,zone,vessel,class,arrived,departed,tonnage,hours,dues,status,remarks"


def write_calls(path: Path, rows: int) -> None:
    import numpy as np

    rng = np.random.default_rng(4)
    tons, dues = rng.integers(100, 20_000, rows), rng.integers(1_000, 500_000, rows)
    hours = rng.integers(10, 900, rows)
    with path.open("w") as out:
        out.write(HEADER + "\n")
        for i in range(rows):
            day = f"2031-{i % 12 + 1:02}-{i % 28 + 1:02}"
            paid = "waived" if i % 50 == 0 else f"{dues[i] / 100}"
            out.write(
                f"C{i:07},O-{i % 12:02},{'Outer' if i % 3 else 'Inner'},V{i % 4000},tanker,"
                f"{day}T{i % 24:02}:{i % 60:02},{day},{tons[i]},{hours[i] / 10},{paid},paid,"
                f"{'fog' if i % 5 == 0 else ''}\n"
            )


def read_once(way: str, path: str) -> None:
    """Read in this process; print seconds, seconds of processors, growth of memory in MiB."""
    if way == "even-sieve":
        from even_sieve import read_table
        from even_sieve.sources import long_csv  # noqa: F401
    else:
        import pandas as pd
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    start, worked = time.perf_counter(), time.process_time()
    if way == "even-sieve":
        found: object = read_table(path)
    elif way == "pandas":
        found = pd.read_csv(path)
    else:
        found = pd.read_csv(path, dtype=object)
    seconds, worked = time.perf_counter() - start, time.process_time() - worked
    grown = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before
    print(seconds, worked, grown / 1024, type(found).__name__)


def main(rows: int) -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "calls.csv"
        write_calls(path, rows)
        print(f"{rows:,} rows, {path.stat().st_size >> 20} MiB; best of {ROUNDS}")
        own: tuple[float, ...] = ()
        for way in ("even-sieve", "pandas", "pandas, objects"):
            runs: list[tuple[float, ...]] = []
            for _ in range(ROUNDS):
                command = [sys.executable, __file__, "--once", way, str(path)]
                words = subprocess.run(command, capture_output=True, text=True, check=True).stdout
                runs.append(tuple(map(float, words.split()[:3])))
            best = tuple(map(min, zip(*runs, strict=True)))
            own = own or best
            ratios = " ".join(f"{mine / its:6.2f}" for mine, its in zip(own, best, strict=True))
            seconds, worked, grown = best
            print(
                f"  {way:<16} {seconds:6.2f} s, {worked:6.2f} s of processors, "
                f"grown by {grown:7.0f} MiB  ours / this: {ratios}"
            )


if __name__ == "__main__":
    if sys.argv[1:2] == ["--once"]:
        read_once(sys.argv[2], sys.argv[3])
    else:
        main(int(sys.argv[1]) if len(sys.argv) > 1 else 1_000_000)
