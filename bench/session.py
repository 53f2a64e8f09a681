"""How long a key takes to move the figures of a trial, and how long the screen takes to open.

Columns and values are made at random; the worst of all keys counts, not the mean. Wanted are 50
ms a key at a million rows, 500 ms at ten million, and 0.8 s to open the demo.

    python bench/session.py [ROWS] [--seed SEED]
"""

import argparse
import os
import pty
import select
import sys
import time
from pathlib import Path

import numpy as np
import pyarrow as pa

import even_sieve
from even_sieve.core.session import Session
from even_sieve.core.table import Table, column_from_codes, table_from_columns

TYPED = ("Outer", "Outer | In*", "<> Inner", "*ut*", "O?ter")
ENDS = (">= 500", "100..2000", "< 3 | > 9000", "12.5")


def made(rows: int, seed: int) -> Table:
    """Return a table of calls: zones, vessels by the thousand, days, dues, tonnage, notes."""
    rng = np.random.default_rng(seed)
    zones = ["Outer", "Inner", "Roads", "North"]
    vessels = [f"{'ABCDE'[i % 5]} ship {i}" for i in range(3000)]
    days = np.datetime64("2031-01-01", "D") + rng.integers(0, 365, rows)
    notes = pa.array([f"note {i:07}" for i in rng.permutation(min(rows, 1_000_000))])
    note = even_sieve.table_from(pa.table({"note": notes.take(rng.integers(0, len(notes), rows))}))
    columns = (
        column_from_codes("zone", zones, rng.integers(0, 4, rows, dtype=np.uint8)),
        column_from_codes("vessel", vessels, rng.integers(0, 3000, rows, dtype=np.uint16)),
        *table_from_columns({"arrived": days}).columns,
        column_from_codes(
            "dues", (np.arange(1_000_000) / 100).tolist(), rng.integers(0, 1_000_000, rows)
        ),
        *table_from_columns({"tonnage": rng.integers(1, 9000, rows)}).columns,
        *note.core.columns,
    )
    return Table(columns, rows)


def keys(rows: int, seed: int) -> None:
    """Print how long each key takes until the figures are there, and the offered values."""
    session = Session(made(rows, seed), ["rows", "sum of dues", "average of dues"])
    session.outcome  # noqa: B018
    worst: dict[str, tuple[float, str]] = {}
    texts = [("zone", each) for each in TYPED] + [("dues", each) for each in ENDS]
    texts += [
        ("arrived", "2031-Q2"),
        ("vessel", "B ship 1*"),
        ("note", "note 0000417"),
        ("note", "*417*"),
    ]
    for column, text in texts:
        for size in range(1, len(text) + 1):
            start = time.perf_counter()
            session.complete(column, text[:size])
            offered = time.perf_counter()
            session.type(column, text[:size])
            place = session.draft.columns.index(column)
            session.take(session.work_out(typing=(0, place)))
            done = time.perf_counter()
            for name, took in (("figures", done - offered), ("values offered", offered - start)):
                worst[name] = max(worst.get(name, (0.0, "")), (took, f"{column}: {text[:size]}"))
        start = time.perf_counter()
        session.rows(200)
        took = time.perf_counter() - start
        worst["rows shown"] = max(worst.get("rows shown", (0.0, "")), (took, f"{column}: {text}"))
        session.change(session.draft.cleared()) if column == "note" else None
    for name, (took, where) in worst.items():
        print(f"{rows:>12,} rows  {name:15} worst {took * 1000:7.1f} ms at {where}")


def opening() -> float:
    """Return how many seconds pass until the demo's calls stand on the screen."""
    data = Path(even_sieve.__file__).parent / "demo" / "data" / "calls.csv"
    start = time.perf_counter()
    process, terminal = pty.fork()
    if process == 0:
        os.environ |= {"TERM": "xterm-256color", "COLUMNS": "120", "LINES": "40"}
        os.execv(sys.executable, [sys.executable, "-m", "even_sieve", "try", str(data)])
    shown = b""
    while b"unmatched" not in shown and b"used" not in shown:
        if select.select([terminal], [], [], 5)[0]:
            shown += os.read(terminal, 1 << 16)
    took = time.perf_counter() - start
    os.write(terminal, b"\x11")
    try:
        while os.read(terminal, 1 << 16):
            pass
    except OSError:
        pass
    os.waitpid(process, 0)
    return took


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("rows", nargs="?", type=int, default=0)
    parser.add_argument("--seed", type=int, default=time.time_ns() % 1_000_000)
    given = parser.parse_args()
    print(f"seed {given.seed}")
    for rows in [given.rows] if given.rows else [1_000_000, 10_000_000]:
        keys(rows, given.seed)
    print(f"the demo is opened in {min(opening() for _ in range(3)):.2f} s")


if __name__ == "__main__":
    main()
