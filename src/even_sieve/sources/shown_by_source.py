"""How a source shows the numbers of a column: all of them as percent, or in one currency."""

import re
import unicodedata
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import pyarrow.compute as pc

from even_sieve.core.cells import Kind
from even_sieve.core.notices import Code, Notice
from even_sieve.core.table import Table
from even_sieve.sources.currencies import currency_signs, sign_in, told_as_mixed

PERCENT = "percent"
#: A cell that is merged into another one shows nothing of its own.
MERGED = "merged"
_PERCENT = r"%\s*\)?\s*$"


def shown_in_text(tokens: Any) -> str:
    """Return how numbers in texts (an Arrow array) are all shown; nothing where they differ.

    >>> import pyarrow as pa
    >>> shown_in_text(pa.array(["5%", "7.5 %"])), shown_in_text(pa.array(["€ 5", "7 €"]))
    ('percent', '€')
    >>> shown_in_text(pa.array(["5%", "7"])), shown_in_text(pa.array(["$5", "7 €"]))
    ('', '')
    """
    if not len(tokens):
        return ""
    first = tokens[0].as_py()
    if "%" in first:
        return PERCENT if pc.all(pc.match_substring_regex(tokens, _PERCENT)).as_py() else ""
    if first.isascii() and "$" not in first:
        return ""
    sign = sign_in(first)
    if not sign or not pc.all(pc.match_substring(tokens, sign)).as_py():
        return ""
    return sign if currency_signs(tokens) == [sign] else ""


def shown_in_texts(tokens: Sequence[str]) -> str:
    """Return the same of different texts, one by one.

    >>> shown_in_texts(["5%", "7.5 %"]), shown_in_texts(["€ 5", "7 €"]), shown_in_texts(["5%", "7"])
    ('percent', '€', '')
    """
    first = tokens[0] if tokens else ""
    if "%" in first:
        return PERCENT if all(map(re.compile(_PERCENT).search, tokens)) else ""
    sign = sign_in(first)
    if not sign:
        return ""
    signs = {each for token in tokens for each in token if unicodedata.category(each) == "Sc"}
    return sign if signs == {sign} and all(sign in token for token in tokens) else ""


#: In the format of a number: what is to the letter, what names a currency, other brackets.
_LITERAL = re.compile(r'"([^"]*)"|\\(.)')
_NAMED = re.compile(r"\[\$([^\]-]+)[^\]]*\]")
#: Room as wide as a letter, a letter that fills the cell: neither is shown by itself.
_SPACING = re.compile(r"[_*].")
_BRACKETS = re.compile(r"\[[^\]]*\]")


def look_of_format(code: str) -> str:
    """Return how the format of a workbook's cell shows numbers; nothing where that is plainly.

    >>> look_of_format("0.0%"), look_of_format('0.00\\\\ [$€-407]'), look_of_format('"EUR" 0')
    ('percent', '€', 'EUR')
    >>> look_of_format('0.0" %"'), look_of_format("[Red]#,##0.00"), look_of_format("$0;€0")
    ('', '', '')
    >>> look_of_format("0.00 _€"), look_of_format('_-* 0.00 "€"_-')
    ('', '€')
    """
    if "%" in _LITERAL.sub("", code):
        return PERCENT
    found = {each.strip() for each in _NAMED.findall(code)}
    rest = _SPACING.sub("", _BRACKETS.sub("", code))
    found.update(each for each in rest if unicodedata.category(each) == "Sc")
    literals = (first.strip() for first, _ in _LITERAL.findall(rest))
    found.update(each for each in literals if _is_currency(each))
    return found.pop() if len(found) == 1 else ""


def _is_currency(word: str) -> bool:
    if len(word) != 3 or not word.isascii() or not word.isupper():
        return False
    from babel.numbers import list_currencies

    return word in list_currencies()


class ShownRuns:
    """Cells of a sheet that show their numbers in one way, as runs of rows in a column."""

    def __init__(self) -> None:
        self._runs: dict[int, list[tuple[str, int, int]]] = {}

    def add(self, column: int, look: str, first: int, last: int = 0) -> None:
        """Add the cells of a column (from 1) from one row to another, below those before."""
        runs = self._runs.setdefault(column, [])
        if runs and runs[-1][0] == look and runs[-1][2] == first - 1:
            runs[-1] = (look, runs[-1][1], last or first)
        else:
            runs.append((look, first, last or first))

    def take(self, other: "ShownRuns") -> None:
        """Add the runs of cells below."""
        for column, runs in other._runs.items():
            for look, first, last in runs:
                self.add(column, look, first, last)

    def of(self, column: int, rows: range) -> dict[str, int]:
        """Return how many cells of a column, among these rows, are shown in which way."""
        found: dict[str, int] = {}
        for look, first, last in self._runs.get(column, ()):
            count = min(last, rows.stop - 1) - max(first, rows.start) + 1
            if count > 0:
                found[look] = found.get(look, 0) + count
        return found

    def first(self, column: int, look: str, rows: range) -> int:
        """Return the first of these rows in which a column shows a look; 0 if there is none."""
        runs = [each for each in self._runs.get(column, ()) if each[0] == look]
        firsts = [max(first, rows.start) for _, first, last in runs if last >= rows.start]
        return min(firsts, default=0)


def told_merged(name: str, shown: dict[str, int], first: int) -> tuple[Notice, ...]:
    """Return the notice on cells of a column that are merged into others, the first in a row.

    >>> told_merged("zone", {"merged": 2}, 3)[0].text
    "column 'zone': 2 cells (first row 3) are merged into others and count as blank"
    """
    count = shown.get(MERGED, 0)
    if not count:
        return ()
    which = f"1 cell (row {first}) is" if count == 1 else f"{count:,} cells (first row {first}) are"
    other, counts = ("another", "counts") if count == 1 else ("others", "count")
    text = f"column '{name}': {which} merged into {other} and {counts} as blank"
    return (Notice(Code.MERGED_CELLS, text, {"cells": count}),)


def with_looks(table: Table, shown: ShownRuns, top: int, left: int) -> Table:
    """Return the table with the columns told whose numbers a sheet all shows in one way.

    `top` and `left` are the row and the column of the sheet that are the table's first. A column
    whose numbers are shown in several currencies has a notice, and one with merged cells.
    """
    columns = []
    rows = range(top, top + table.length)
    for number, column in enumerate(table.columns, left):
        looks = shown.of(number, rows)
        merged = told_merged(column.name, looks, shown.first(number, MERGED, rows))
        if looks.pop(MERGED, 0):
            column = replace(column, notices=(*column.notices, *merged))
        mixed = told_as_mixed(column.name, [each for each in looks if each != PERCENT])
        one = len(looks) == 1 and column.counts.get(Kind.NUMBER, -1) in looks.values()
        if one or mixed:
            look = next(iter(looks)) if one else column.shown
            said = replace(column.conventions, written=True)  # criteria are written as it is shown
            notices = (*column.notices, *mixed)
            column = replace(column, shown=look, conventions=said, notices=notices)
        columns.append(column)
    return replace(table, columns=tuple(columns))
