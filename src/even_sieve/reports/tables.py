"""A report as tables: sheets of one workbook, or a CSV file a block."""

import re
from collections.abc import Callable, Iterator
from importlib import import_module
from pathlib import Path
from typing import Any

from even_sieve.core.table import Table, table_from_columns
from even_sieve.reports.results import BlockResult, Results
from even_sieve.sinks.files import SINKS, replace_file, with_marks, write_file
from even_sieve.sinks.results import (
    bridge_table,
    grid_table,
    lines_table,
    listing_table,
    tallies_table,
)

#: What a sheet's name cannot hold by ISO/IEC 29500, and how long it can be.
_NOT_IN_NAMES = re.compile(r"[\[\]:*?/\\]")
_LONGEST_NAME = 31


#: How the result of each kind of block becomes a table.
_TABLES: dict[str, Callable[[Any], Table]] = {
    "figures": tallies_table,
    "breakdown": grid_table,
    "lines": lines_table,
    "bridge": bridge_table,
    "rows": listing_table,
}


def table_of(done: BlockResult) -> Table:
    """Return the result of a block as a table; rows that repeat others are marked."""
    return _TABLES[done.kind](done.result)


def write_workbook(results: Results, path: Path) -> None:
    """Write a sheet a block, with real numbers, and one that says what they were made from."""
    sheets = [
        (name, with_marks(table_of(done)))
        for name, done in zip(_names(results), results.blocks, strict=True)
    ]
    texts = results.made_from()
    names, words = zip(*texts, strict=True)
    made = table_from_columns({"made from": list(names), "text": list(words)})
    sheets.append(("made from", made))
    sink = import_module(SINKS[path.suffix.lower()])
    replace_file(path, lambda new: sink.write_sheets(sheets, new))


def write_tables(results: Results, path: Path) -> list[Path]:
    """Write a CSV file a block, numbered in their order; return where they are."""
    written = []
    for number, done in enumerate(results.blocks, 1):
        file = path.with_stem(f"{path.stem}-{number}")
        write_file(table_of(done), file)
        written.append(file)
    return written


def _names(results: Results) -> Iterator[str]:
    """Yield the name of each block's sheet: its title as far as it fits, each one once."""
    seen = {"made from"}
    for number, done in enumerate(results.blocks, 1):
        plain = _NOT_IN_NAMES.sub(" ", done.title).strip(" '") or f"{done.kind} {number}"
        name, again = plain[:_LONGEST_NAME].strip(" '"), 1
        while name.casefold() in seen:
            again += 1
            name = f"{plain[: _LONGEST_NAME - 4].strip()} {again}"
        seen.add(name.casefold())
        yield name
