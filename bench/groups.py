"""Breakdowns by very many groups, by every measure: `python bench/groups.py [--seed N] [--rows N]`.

Sizes, groups and cells are drawn by the seed. Prints for each measure the seconds of the breakdown
and of making a data frame of it, beside those of plain rows, the slowest first.
"""

import argparse
import time
from typing import Any

import numpy as np

from even_sieve import Table, table_from
from even_sieve.core.measures.signatures import KINDS


def table_of(random: np.random.Generator, rows: int, groups: int) -> tuple[str, Table]:
    """Return a table with a column of groups, one of numbers of a drawn kind, and weights."""
    numbers = random.choice(["money", "whole", "doubles"])
    cells: Any = np.round(random.uniform(-5000, 5000, rows), 2)
    if numbers == "whole":
        cells = random.integers(-(10**12), 10**12, rows)
    elif numbers == "doubles":
        cells = random.normal(size=rows) * 10.0 ** random.integers(-3, 4)
    keys = random.integers(0, groups, rows)
    return numbers, table_from({"key": keys, "x": cells, "w": random.integers(1, 9, rows)})


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--rows", type=int, default=1_000_000)
    asked = parser.parse_args()
    random = np.random.default_rng(asked.seed)
    for share in (0.05, 0.3, 2.0):
        groups = int(asked.rows * share * random.uniform(0.7, 1.3))
        numbers, calls = table_of(random, asked.rows, groups)
        found = []
        for kind, form in KINDS.items():
            if kind == "only":
                continue  # an error of several values in most lines
            start = time.perf_counter()
            answer = calls.tally(form.example(kind, "x", "w"), by="key")
            made = time.perf_counter()
            answer.to_frame()
            found.append((time.perf_counter() - start, made - start, kind))
        plain = next(each[0] for each in found if each[2] == "rows")
        print(
            f"{asked.rows:,} rows ({numbers}) in {len(answer.lines):,} groups; rows {plain:.2f} s"
        )
        for whole, first, kind in sorted(found, reverse=True)[:8]:
            print(f"  {kind:20} {first:6.2f} {whole - first:6.2f}  {whole / plain:5.1f} times rows")


if __name__ == "__main__":
    main()
