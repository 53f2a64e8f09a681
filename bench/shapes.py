"""Reading a column of many different cells in each of many ways of writing, beside plain money.

Prints the seconds a million cells, and the ratio to a column of plain decimals. The cells are made
at random; another seed makes others.

    python bench/shapes.py [SEED] [ROWS]
"""

import sys
import time
from collections.abc import Callable
from typing import Any

import numpy as np

from even_sieve.sources.csv import read
from even_sieve.sources.source_options import SourceOptions

COMMA: dict[str, Any] = {"decimal": ",", "delimiter": ";"}
DAYS: dict[str, Any] = {"date_order": "day-month-year"}


def grouped(cents: int, separator: str, mark: str) -> str:
    return f"{cents // 100:,}".replace(",", separator) + f"{mark}{cents % 100:02}"


def day(cents: int) -> str:
    return f"{cents % 28 + 1:02}.{cents % 12 + 1:02}.{1000 + cents % 9000}"


def with_words(write: Callable[[int], str]) -> Callable[[int], str]:
    return lambda cents: write(cents) if cents % 50 else "waived"


SHAPES: dict[str, tuple[Callable[[int], str], dict[str, Any]]] = {
    "plain": (lambda c: f"{c / 100:.2f}", {}),
    "decimal commas": (lambda c: grouped(c, "", ","), COMMA),
    "decimal commas and words": (with_words(lambda c: grouped(c, "", ",")), COMMA),
    "points between thousands": (lambda c: grouped(c, ".", ","), COMMA),
    "spaces between thousands": (lambda c: grouped(c, " ", ","), COMMA),
    "commas between thousands": (lambda c: f'"{grouped(c, ",", ".")}"', {}),
    "commas between thousands and words": (
        with_words(lambda c: f'"{grouped(c, ",", ".")}"'),
        {},
    ),
    "currency": (lambda c: f'"$ {grouped(c, ",", ".")}"', {}),
    "brackets": (lambda c: f"({c / 100:.2f})" if c % 3 else f"{c / 100:.2f}", {}),
    "percent": (lambda c: f"{c / 100:.2f}%", {}),
    "exponents": (lambda c: f"{c / 7:.6e}", {}),
    "exponents and words": (with_words(lambda c: f"{c / 7:.6e}"), {}),
    "16 digits": (lambda c: repr(c / 7), {}),
    "20 digits": (lambda c: f"{c:020}"[::-1].replace("0", "9"), {}),
    "codes": (lambda c: f"{c:09}", {}),
    "numbers with letters": (lambda c: f"{c}-A", {}),
    "numbers with letters, decimal commas": (lambda c: f"{c}-A", COMMA),
    "texts": (lambda c: f"call {c}", {}),
    "days in an order": (day, DAYS),
    "days in an order and words": (with_words(day), DAYS),
    "days and times in an order": (lambda c: f"{day(c)} {c % 24:02}:{c % 60:02}", DAYS),
    "times with an offset": (
        lambda c: f"2031-01-{c % 28 + 1:02}T{c % 24:02}:{c % 60:02}:{c % 59:02}+01:00",
        {},
    ),
    "blanks by a sign": (
        lambda c: grouped(c, "", ",") if c % 50 else "-",
        {**COMMA, "blank_as": ["-"]},
    ),
}


def seconds(write: Callable[[int], str], how: dict[str, Any], amounts: list[int]) -> float:
    sep = how.get("delimiter", ",")
    lines = "".join(f"{i}{sep}{write(c)}\n" for i, c in enumerate(amounts))
    content, options = f"n{sep}dues\n{lines}".encode(), SourceOptions.of(**how)
    start = time.perf_counter()
    read(content, "dues.csv", options)
    return time.perf_counter() - start


def main(seed: int, rows: int) -> None:
    amounts = np.random.default_rng(seed).integers(1, 10**8, rows).tolist()
    seconds(*SHAPES["plain"], amounts)
    plain = seconds(*SHAPES["plain"], amounts)
    for name, (write, how) in SHAPES.items():
        taken = seconds(write, how, amounts)
        print(f"{name:40s} {taken / rows * 1e6:7.2f} s a million {taken / plain:7.1f}")


if __name__ == "__main__":
    seed, rows = (int(each) for each in (*sys.argv[1:], *["1", "200000"][len(sys.argv) - 1 :]))
    main(seed, rows)
