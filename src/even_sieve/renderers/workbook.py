"""A report as a workbook: a sheet a block as one would send it, accounts, what it was made from."""

import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np

from even_sieve.core.cells import Cell
from even_sieve.core.table import Table, column_from_cells, table_from_columns
from even_sieve.core.tally import BUCKETS, Breakdown, Bridge, Counted, LineSet, Tallies, Tally
from even_sieve.documents.document import ReportDocument, Section, free_name
from even_sieve.documents.figures import show_key
from even_sieve.documents.handout import Handout
from even_sieve.renderers.files import MARKS
from even_sieve.sinks.files import MARK_COLUMN, replace_file, sink_for
from even_sieve.sinks.sheet import Sheet

#: What a sheet's name cannot hold by ISO/IEC 29500, and how long it can be.
_NOT_IN_NAMES = re.compile(r"[\[\]:*?/\\]")
_LONGEST_NAME = 31
_ACCOUNTS, _MADE_FROM = "accounts", "made from"
_MOST_ACCOUNTS = 5_000
_ABOUT_MARKS = (
    "hidden on each sheet that has it: says which rows repeat others, or are hidden; "
    "read the sheet with --marks mark"
)


def write_workbook(report: ReportDocument, path: Path) -> None:
    """Write a sheet a section, one of the accounts, and one of what it was made from."""
    names = list(_names(report))
    sheets = [_sheet(report, *each) for each in zip(names, report.sections, strict=True)]
    found = _accounts(report)
    if found.length:
        sheets.append(Sheet(_ACCOUNTS, found, (f"{report.title}: accounts", _ABOUT_ACCOUNTS)))
    facts = [*report.made_from, (f"column {MARK_COLUMN}", _ABOUT_MARKS)]
    keys, words = zip(*facts, strict=True)
    sheets.append(Sheet(_MADE_FROM, table_from_columns({_MADE_FROM: keys, "text": words})))
    write = sink_for(path).write_sheets
    replace_file(path, lambda new: write(sheets, new))


_ABOUT_ACCOUNTS = "every row of the table is in one bucket of each figure"


def _sheet(report: ReportDocument, name: str, section: Section) -> Sheet:
    found = section.document.handout()
    table = _table(found)
    above = [section.heading]
    above += [f"rows: {each}" for each in dict.fromkeys((report.where, section.where)) if each]
    above += [f"note: {each}" for each in found.notes]
    away = found.put_away.union(table.names[len(found.columns) :])
    return Sheet(
        name, table, tuple(above), found.shapes, found.strong, away,
        found.series if section.charted else None, found.over_time, found.periods, found.stacked,
    )  # fmt: skip


def _table(found: Handout) -> Table:
    """Return the cells of a handout, its marks set, and spelt out in a last column."""
    columns = [column_from_cells(name, list(cells)) for name, cells in found.columns.items()]
    length = columns[0].length if columns else 0
    words: list[Cell] = list(found.marks)
    if any(words):
        columns.append(column_from_cells(free_name(MARK_COLUMN, found.columns), words))
    table = Table(tuple(columns), length)
    for mark in dict.fromkeys(filter(None, found.marks)):
        rows = np.array([each == mark for each in found.marks], dtype=bool)
        table = table.marked(MARKS[mark], rows)
    return table


def _accounts(report: ReportDocument) -> Table:
    """Return a row a figure: where it stands, its value, its account, the rows that gave it."""
    rows: list[tuple[Cell, ...]] = []
    for section in report.sections:
        for line, tally in _figures(section.document.answer):
            account = [getattr(tally.account, name) for name in BUCKETS]
            at = ", ".join(map(str, tally.found_at[:20])) or None
            value = tally.value
            rows.append(
                (
                    section.heading,
                    tally.name,
                    line,
                    value,
                    tally.account.rows,
                    *account,
                    at,
                    tally.reason,
                )
            )
    names = ("block", "figure", "line", "value", "rows", *BUCKETS, "found at", "no value because")
    columns = list(zip(*rows, strict=True)) or [()] * len(names)
    made = [
        column_from_cells(n.replace("_", " "), list(c)) for n, c in zip(names, columns, strict=True)
    ]
    return Table(tuple(made), len(rows))


def _figures(answer: Any) -> Iterator[tuple[str | None, Tally]]:
    """Yield the figures of an answer with the line that each stands in; of many lines the total."""
    if isinstance(answer, Tallies):
        yield from ((None, tally) for tally in answer)
    elif isinstance(answer, Bridge):
        yield None, answer.tally
    elif isinstance(answer, LineSet):
        for entry in answer:
            if isinstance(entry, Counted):
                yield from ((entry.label, tally) for tally in entry.tallies)
    elif isinstance(answer, Breakdown):
        if len(answer.lines) * len(answer.total) <= _MOST_ACCOUNTS:
            for line in answer.with_rest:
                label = ", ".join(map(show_key, line.key))
                yield from ((label, tally) for tally in line.tallies)
        yield from (("total", tally) for tally in answer.total)


def _names(report: ReportDocument) -> Iterator[str]:
    """Yield the name of each section's sheet: its title as far as it fits, each one once."""
    seen = {_MADE_FROM}
    for number, section in enumerate(report.sections, 1):
        plain = _NOT_IN_NAMES.sub(" ", section.heading).strip(" '") or f"block {number}"
        name, again = plain[:_LONGEST_NAME].strip(" '"), 1
        while name.casefold() in seen:
            again += 1
            name = f"{plain[: _LONGEST_NAME - 4].strip()} {again}"
        seen.add(name.casefold())
        yield name
