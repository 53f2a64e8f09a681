"""Parquet files of so many rows beside Arrow that reads the same columns and does nothing else.

    python bench/longer.py [ROWS] [MEMORY] [SEED]      100000000 rows under 1GiB if not said

Prints seconds, the ratio to Arrow, and the most memory that the process had at any time.
"""

import subprocess
import sys
import threading
import time
from contextlib import suppress
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np
import pyarrow as pa
from pyarrow import parquet

_GROUP = 1_000_000
_ARROW = """
import sys
from pyarrow import parquet
file = parquet.ParquetFile(sys.argv[1])
print(sum(len(batch) for batch in file.iter_batches(1 << 18, columns=sys.argv[2].split(","))))
"""
#: What is asked, and the columns that it needs.
QUESTIONS = {
    "five measures under two conditions": (
        ["rows", "sum of dues", "average of hours", "max of tonnage", "min of dues",
         "--where", "zone = Outer and status = paid"],
        "zone,status,dues,hours,tonnage",
    ),
    "a plain sum": (["sum of dues"], "dues"),
    "median and 90th percentile": (["median of dues", "percentile 90 of dues"], "dues"),
    "by 10,000 vessels": (["sum of dues", "--by", "vessel", "--top", "5"], "dues,vessel"),
    "by month": (["sum of dues", "--by", "arrived by month"], "dues,arrived"),
}  # fmt: skip


def make(path: Path, rows: int, seed: int) -> None:
    """Write the calls of a harbour that never rests."""
    zones = pa.array(["Outer", "Inner", "North", "Roads", "East Quay", "Basin"])
    states = pa.array(["paid", "open", "late", "withdrawn"])
    vessels = pa.array([f"Vessel {number:05}" for number in range(10_000)])
    writer: Any = None
    for first in range(0, rows, _GROUP):
        rng, count = np.random.default_rng([seed, first]), min(_GROUP, rows - first)
        table = pa.table({
            "call": pa.array(np.arange(first, first + count)),
            "zone": zones.take(pa.array(rng.integers(0, len(zones), count))),
            "vessel": vessels.take(pa.array(rng.integers(0, len(vessels), count))),
            "arrived": pa.array((1_924_905_600 + np.arange(first, first + count) // 4)
                                .astype("datetime64[s]")),
            "tonnage": pa.array(rng.integers(80, 18_000, count).astype(np.int32)),
            "hours": pa.array(np.round(rng.uniform(2, 90, count), 1)),
            "dues": pa.array(np.round(rng.gamma(2, 200, count), 2), mask=rng.random(count) < 0.01),
            "status": states.take(pa.array(rng.integers(0, len(states), count))),
        })  # fmt: skip
        writer = writer or parquet.ParquetWriter(path, table.schema)
        writer.write_table(table, row_group_size=_GROUP)
    writer.close()


def measured(command: list[str]) -> tuple[float, int]:
    """Run a command; return its seconds, and the most MiB that it had."""
    begun, most = time.perf_counter(), [0]
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL)

    def watch() -> None:
        facts = Path(f"/proc/{process.pid}/status")
        found: list[str] = []
        while process.poll() is None:
            with suppress(OSError):  # it has just ended
                lines = facts.read_text().splitlines()
                found = [line for line in lines if line.startswith("VmRSS")]
            most[0] = max(most[0], int(found[0].split()[1]) >> 10 if found else 0)
            time.sleep(0.02)

    watching = threading.Thread(target=watch)
    watching.start()
    status = process.wait()
    took = time.perf_counter() - begun
    watching.join()
    if status:
        raise SystemExit(f"status {status}: {command}")
    return took, most[0]


def main(rows: int = 100_000_000, memory: str = "1GiB", seed: str | None = None) -> None:
    """Print a line for every question."""
    own = int(seed or time.time())
    with TemporaryDirectory() as folder:
        path = Path(folder, "calls.parquet")
        make(path, rows, own)
        print(f"{rows:,} rows, {path.stat().st_size >> 20:,} MiB, seed {own}, --memory {memory}")
        for name, (words, columns) in QUESTIONS.items():
            alone, _ = measured([sys.executable, "-c", _ARROW, str(path), columns])
            command = [sys.executable, "-m", "even_sieve", "tally", str(path), *words]
            took, most = measured([*command, "--memory", memory])
            print(
                f"{name}: {took:.1f} s, Arrow {alone:.1f} s, ratio {took / alone:.1f}, {most} MiB"
            )


if __name__ == "__main__":
    given = sys.argv[1:]
    main(int(float(given[0])) if given else 100_000_000, *given[1:])
