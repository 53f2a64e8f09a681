"""Files written beside and moved into place, so that a failure leaves the old one whole."""

import os
from collections.abc import Callable, Iterable
from dataclasses import replace
from importlib import import_module
from pathlib import Path
from secrets import token_hex
from shutil import copymode
from typing import Any

import numpy as np

from even_sieve.core.errors import CallError, SourceError
from even_sieve.core.table import Mark, Table, column_from_codes
from even_sieve.core.table.arrays import pick
from even_sieve.core.table.marks import MARKS

#: The sink's module for each ending of a file name. Sinks load when they are needed.
SINKS = {
    ".csv": "even_sieve.sinks.csv",
    ".jsonl": "even_sieve.sinks.json_lines",
    ".parquet": "even_sieve.sinks.parquet",
    ".arrow": "even_sieve.sinks.arrow_file",
    ".ods": "even_sieve.sinks.ods",
    ".xlsx": "even_sieve.sinks.xlsx",
}
MARK_COLUMN = "mark"


def write_file(table: Table, path: str | Path, *, leave_formulas: bool = False) -> None:
    """Write the table; the ending of the name chooses how.

    Marked rows carry their marks in a column `mark`, by which they can be marked again;
    hidden rows of a workbook are hidden on its sheet too. In CSV a text that a spreadsheet
    would run as a formula gets an apostrophe before it unless it is left. Raises
    `CallError` for an unknown ending, `SourceError` for a file that cannot be written.
    """
    file = Path(path)
    if not table.columns:
        raise CallError(
            f"{file}: a table without a column is not written\nThere is nothing to write"
        )
    write: Callable[[Table, Path, bool], None] = sink_for(file).write
    replace_file(file, lambda new: write(with_marks(table), new, leave_formulas))


def sink_for(file: Path) -> Any:
    """Return the sink's module for a file. Raises `CallError` for an unknown ending."""
    sink = SINKS.get(file.suffix.lower())
    if sink is None:
        known = ", ".join(SINKS)
        fact = f"{file}: a file that ends in '{file.suffix}' is not written"
        raise CallError(f"{fact}\nWritten are: {known}; answers as JSON by --format json")
    return import_module(sink)


def refuse_unwritable(table: str | None, chart: str | None) -> None:
    """Raise what writing a table and a chart to these files would, as far as the names tell.

    That is `CallError` for an unknown ending, `SourceError` for a folder that is not there.
    """
    if table is not None:
        sink_for(Path(table))
    if chart is not None:
        from even_sieve.sinks.charts import notes_for

        notes_for(Path(chart))
    for each in (table, chart):
        if each is not None and not Path(each).absolute().parent.is_dir():
            raise SourceError(each, f"there is no folder {Path(each).parent}")


def refuse_inputs(outputs: Iterable[str | Path | None], inputs: Iterable[str | Path]) -> None:
    """Raise `CallError` for an output that is an input, or that is written twice."""
    read = {_real(each): each for each in inputs}
    seen: set[str] = set()
    for each in (output for output in outputs if output is not None):
        place = _real(each)
        if place in read:
            raise CallError(
                f"{each}: the output would be written over {read[place]}, which is read"
            )
        if place in seen:
            raise CallError(f"{each}: two outputs have this name\nGive each a name of its own")
        seen.add(place)


def _real(path: str | Path) -> str:
    """Return where a path leads to, however it is spelt."""
    if "\0" in str(path):  # no file has such a name: told where it is opened
        return str(path)
    return os.path.normcase(os.path.realpath(path))


def replace_file(file: Path, write: Callable[[Path], None]) -> None:
    """Write a file beside the old one and move it into its place.

    Raises `SourceError` if that fails; the old file is then as it was.
    """
    if "\0" in str(file):
        raise SourceError(repr(str(file)), "the file cannot be written: no file has such a name")
    try:
        file = file.resolve() if file.is_symlink() else file  # a link stays one
    except (OSError, RuntimeError):
        raise SourceError(str(file), "the file cannot be written: its links go in a ring") from None
    new = file.with_name(f".{file.name}.{token_hex(8)}")
    try:
        new.touch(exist_ok=False)  # with the rights that any new file gets
        try:
            write(new)
            if file.exists():
                copymode(file, new)
            os.replace(new, file)
        finally:
            new.unlink(missing_ok=True)
    except OSError as error:
        why = error.strerror or type(error).__name__
        raise SourceError(str(file), f"the file cannot be written: {why}") from error
    except UnicodeEncodeError as error:
        half = f"U+{ord(error.object[error.start]):04X}"
        fact = f"a text holds {half}, half of a letter, which no file holds"
        raise SourceError(str(file), fact, "Mend the text") from None


def with_marks(table: Table) -> Table:
    """Return the table with its marks spelt out in a last column, if any row has one."""
    if table.marks is None or not table.marks.any():
        return table
    held = np.flatnonzero(np.bincount(table.marks))
    number = np.zeros(len(held) and int(held[-1]) + 1, dtype=np.uint8)
    number[held] = np.arange(len(held))
    words = [_words(bits) for bits in held.tolist()]
    name = MARK_COLUMN
    while name in table:
        name += "'"
    column = column_from_codes(name, words, pick(number, table.marks))
    return replace(table, columns=(*table.columns, column))


def _words(bits: int) -> str | None:
    return " ".join(mark.name.lower() for mark in MARKS if bits & mark and mark.name) or None


def repeats_others(table: Table, row: int) -> bool:
    """Tell whether a row is marked as a subtotal."""
    return table.marks is not None and bool(table.marks[row] & Mark.SUBTOTAL)


def is_hidden(table: Table, row: int) -> bool:
    """Tell whether a row is marked as hidden."""
    return table.marks is not None and bool(table.marks[row] & Mark.HIDDEN)
