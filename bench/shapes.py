"""Reading a column of many cells in each of many ways of writing, beside pandas on the same file.

Prints seconds a million cells, of Even Sieve and of pandas reading to its default types, and the
ratio; from CSV, and from Parquet. Each shape comes plain, and with 2 % words, 2 % blanks and 1 %
error tokens among its cells. The cells are made at random: another seed makes others. What is
said of a file for the sake of another column is said of every shape by the last three options.

    python bench/shapes.py [--seed N] [--rows N] [--only WORD IN THE NAME OF A SHAPE]
        [--decimal MARK] [--date-order ORDER] [--blank-as TOKEN]
"""

import argparse
import io
import random
import string
import time
import warnings
from collections.abc import Callable, Sequence
from typing import Any

import pandas as pd
from pyarrow import csv as arrow_csv
from pyarrow import parquet

from even_sieve.sources import csv
from even_sieve.sources import parquet as own_parquet
from even_sieve.sources.source_options import SourceOptions

MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"]
SYLLABLES = "".join(map(chr, range(0xAC00, 0xD7A4)))
COMMA: dict[str, Any] = {"decimal": ",", "delimiter": ";"}
Chance = random.Random
Shape = Callable[[Chance], str]


def grouped(chance: Chance, separator: str, mark: str) -> str:
    cents = chance.randrange(1, 10 ** chance.randrange(3, 10))
    return f"{cents // 100:,}".replace(",", separator) + f"{mark}{cents % 100:02}"


def money(chance: Chance) -> str:
    return f"{chance.randrange(1, 10**8) / 100:.2f}"


def day(chance: Chance) -> tuple[int, int, int]:
    return chance.randrange(1990, 2040), chance.randrange(1, 13), chance.randrange(1, 29)


def clock(chance: Chance, form: str) -> str:
    year, month, date = day(chance)
    at = f"{year}-{month:02}-{date:02}T{chance.randrange(24):02}:{chance.randrange(60):02}"
    parts = {"s": f":{chance.randrange(60):02}", "m": f".{chance.randrange(1000):03}",
             "u": f".{chance.randrange(10**6):06}", "z": "Z",
             "o": chance.choice(["+01:00", "-05:00", "+05:30"]), "1": "+01:00"}  # fmt: skip
    return at + "".join(parts[each] for each in form)


def letters(
    chance: Chance, least: int, most: int, among: Sequence[str] = string.ascii_letters
) -> str:
    return "".join(chance.choices(among, k=chance.randrange(least, most + 1)))


def sentence(chance: Chance) -> str:
    return " ".join(letters(chance, 2, 9) for _ in range(chance.randrange(4, 12)))


def quoted(chance: Chance) -> str:
    return f'"{letters(chance, 2, 6)}, {letters(chance, 2, 6)}\n{letters(chance, 2, 6)}"'


def dmy(chance: Chance) -> str:
    year, month, date = day(chance)
    return f"{date:02}.{month:02}.{year}"


def mdy(chance: Chance) -> str:
    year, month, date = day(chance)
    return f"{month}/{date}/{year}"


_DAYS = {"date_order": "day-month-year"}
SHAPES: dict[str, tuple[Shape, dict[str, Any]]] = {
    "money": (money, {}),
    "whole numbers": (lambda c: str(c.randrange(-(10**6), 10**6)), {}),
    "few numbers": (lambda c: str(c.randrange(50)), {}),
    "commas between thousands": (lambda c: f'"{grouped(c, ",", ".")}"', {}),
    "currency before": (lambda c: f'"${grouped(c, ",", ".")}"', {}),
    "currency before, space": (lambda c: f"kr {money(c)}", {}),
    "currency after": (lambda c: f"{money(c)} EUR", {}),
    "brackets": (lambda c: f"({money(c)})" if c.random() < 0.3 else money(c), {}),
    "percent": (lambda c: f"{money(c)}%", {}),
    "decimal commas": (lambda c: grouped(c, "", ","), COMMA),
    "points between thousands": (lambda c: grouped(c, ".", ","), COMMA),
    "spaces between thousands": (lambda c: grouped(c, " ", ","), COMMA),
    "exponents": (lambda c: f"{c.uniform(-1e6, 1e6):.6e}", {}),
    "exponents in few": (lambda c: "1.5e3" if c.random() < 1e-5 else money(c), {}),
    "15 digits": (lambda c: f"{c.random():.15f}", {}),
    "16 and 17 digits": (lambda c: repr(c.random() * 1e3), {}),
    "20 digits": (lambda c: f"{c.randrange(10**19, 10**20)}", {}),
    "25 digits": (lambda c: f"{c.randrange(10**9, 10**10)}.{c.randrange(10**14, 10**15)}", {}),
    "codes": (lambda c: f"{c.randrange(10**8):09}", {}),
    "ISO days": (lambda c: "-".join(f"{each:02}" for each in day(c)), {}),
    "times to the minute": (lambda c: clock(c, ""), {}),
    "times to the second": (lambda c: clock(c, "s"), {}),
    "times to milliseconds": (lambda c: clock(c, "sm"), {}),
    "times to microseconds": (lambda c: clock(c, "su"), {}),
    "times with Z": (lambda c: clock(c, "sz"), {}),
    "times with one offset": (lambda c: clock(c, "s1"), {}),
    "times with offsets": (lambda c: clock(c, "so"), {}),
    "day-month-year": (dmy, _DAYS),
    "month-day-year": (mdy, {"date_order": "month-day-year"}),
    "yes/no": (lambda c: c.choice(["true", "false"]), {}),
    "short words": (lambda c: c.choice(["Outer", "Inner", "North"]), {}),
    "different short texts": (lambda c: letters(c, 4, 9), {}),
    "numbered texts": (lambda c: f"B-{c.randrange(10**7)}", {}),
    "sentences": (sentence, {}),
    "text outside ASCII": (lambda c: letters(c, 3, 9, "äöüßéñçабвгд東京都ａ"), {}),
    "quoted with line breaks": (quoted, {}),
    "hexadecimal": (lambda c: f"{c.getrandbits(40):010x}", {}),
    "signs and digits": (lambda c: f"{c.choice('⚓🚢⛵')}{c.randrange(10**6)}", {}),
    "letters in two parts": (lambda c: letters(c, 3, 9, ["e\u0301", "a\u0308", "n"]), {}),
    "several currencies": (lambda c: f"{c.choice('€$£')}{money(c)}", {}),
    "seven decimals of seconds": (lambda c: f"{clock(c, 'su')}{c.randrange(10)}", {}),
    "UTC behind": (lambda c: f"{clock(c, 's')} UTC", {}),
    "points first": (lambda c: f".{c.randrange(10**6):06d}", {}),
    "Thai": (lambda c: letters(c, 4, 10, [chr(each) for each in range(0xE01, 0xE3B)]), {}),
    "addresses": (lambda c: ".".join(str(c.randrange(256)) for _ in range(4)), {}),
    "a minus behind": (lambda c: f"{money(c)}{c.choice(['', '-'])}", {}),
    "no-break spaces": (lambda c: f"{grouped(c, chr(0xA0), '.')}", {}),
    "links": (lambda c: f"https://quay.example/{letters(c, 5, 9)}/{c.randrange(10**7)}", {}),
    "alike for long": (lambda c: f"Berth of the outer harbour; call {c.randrange(10**8)}", {}),
    "Korean": (lambda c: letters(c, 2, 5, SYLLABLES), {}),
    "30 digits": (lambda c: str(c.randrange(10**30)), {}),
    "days in words": (lambda c: f"{c.randrange(1, 29)} {c.choice(MONTHS)} {day(c)[0]}", {}),
    "notes": (lambda c: " ".join(sentence(c) for _ in range(4)), {}),
}  # fmt: skip
ENDINGS: dict[str, Callable[[str], str]] = {
    "old line ends": lambda text: text.replace("\n", "\r"),
    "Windows line ends": lambda text: text.replace("\n", "\r\n"),
    "no last line end": lambda text: text.removesuffix("\n"),
    "blank lines inside": lambda text: text.replace("7\n", "7\n\n"),
}


def mixed(write: Shape) -> Shape:
    def cell(chance: Chance) -> str:
        roll = chance.random()
        if roll > 0.05:
            return write(chance)
        return chance.choice(["waived", "open"]) if roll < 0.02 else "" if roll < 0.04 else "#N/A"

    return cell


#: What a slip, another program or another column may leave among cells of a shape.
STRAYS = ["#N/A", "waived", "5%", "1.2.3", "31.04.2031", "2031-02-30", "12 (p)", "-", "1e400", "€"]


def with_an_odd_one(write: Shape, rows: int) -> Shape:
    """Write cells of a shape, and about one of another among so many rows."""
    return lambda chance: chance.choice(STRAYS) if chance.random() < 1.5 / rows else write(chance)


_LINES = arrow_csv.ParseOptions(newlines_in_values=True)


def seconds(work: Callable[[], object]) -> float:
    """Return the shorter of two times: the first one pays for what is loaded."""
    found = []
    for _ in range(2):
        start = time.perf_counter()
        work()
        found.append(time.perf_counter() - start)
    return min(found)


def measure(
    name: str, text: str, how: dict[str, Any], rows: int, said: dict[str, Any] | None = None
) -> None:
    said = said or {}
    content, options = text.encode(), SourceOptions.of(**{"delimiter": ",", **how, **said})
    sep = how.get("delimiter", ",")
    own = seconds(lambda: csv.read(content, "dues.csv", options)) / rows * 1e6
    mark = how.get("decimal", ".")
    other = seconds(lambda: pd.read_csv(io.BytesIO(content), sep=sep, decimal=mark))
    other *= 1e6 / rows
    typed = ""
    if "line" not in name and not how:
        out = io.BytesIO()
        parquet.write_table(arrow_csv.read_csv(io.BytesIO(content), parse_options=_LINES), out)
        packed = out.getvalue()
        spent = seconds(lambda: own_parquet.read(packed, "dues.parquet", SourceOptions.of(**said)))
        typed = f"{spent / rows * 1e6:9.2f}"
    print(f"{name:38s} {own:7.2f} {other:7.2f} {own / other:6.1f} {typed}", flush=True)


def main(seed: int, rows: int, only: str, said: dict[str, Any]) -> None:
    chance = random.Random(seed)
    print(f"{'s a million cells':38s} {'own':>7s} {'pandas':>7s} {'ratio':>6s} {'Parquet':>9s}")
    for name, (write, how) in SHAPES.items():
        if only not in name:
            continue
        kinds = {"": write, ", mixed": mixed(write), ", one odd": with_an_odd_one(write, rows)}
        for label, shape in ((f"{name}{kind}", each) for kind, each in kinds.items()):
            sep = how.get("delimiter", ",")
            lines = "".join(f"{i}{sep}{shape(chance)}\n" for i in range(rows))
            measure(label, f"n{sep}dues\n{lines}", how, rows, said)
    for name, change in ENDINGS.items():
        if only in name:
            lines = "".join(f"{i},{money(chance)}\n" for i in range(rows))
            measure(name, change(f"n,dues\n{lines}"), {}, rows, said)


if __name__ == "__main__":
    parser = argparse.ArgumentParser()
    parser.add_argument("--seed", type=int, default=random.SystemRandom().randrange(10**9))
    parser.add_argument("--rows", type=int, default=300_000)
    parser.add_argument("--only", default="", help="a word in the name of a shape")
    for option in ("--decimal", "--date-order", "--blank-as"):
        parser.add_argument(option, default=argparse.SUPPRESS)
    asked = parser.parse_args()
    named = {"decimal", "date_order", "blank_as"}
    said = {key: value for key, value in vars(asked).items() if key in named}
    warnings.simplefilter("ignore", pd.errors.DtypeWarning)
    print(f"seed {asked.seed}")
    main(asked.seed, asked.rows, asked.only, said)
