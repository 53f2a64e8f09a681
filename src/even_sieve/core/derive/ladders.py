"""Columns of labels, each under criteria: `small if tonnage < 500, else large`."""

import re
from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from functools import partial

from even_sieve.core.axes import FirstThatHolds
from even_sieve.core.cells import Cell
from even_sieve.core.cells.quoting import (
    for_example,
    hide_quoted,
    in_double_quotes,
    is_quoted,
    match_unquoted,
    unquoted,
)
from even_sieve.core.criteria import Criteria, Settings, parse_criteria, prepare
from even_sieve.core.criteria.operands import Number, read_plain
from even_sieve.core.derive.expressions import to_cell
from even_sieve.core.derive.parts import from_codes
from even_sieve.core.errors import CallError
from even_sieve.core.table import Column, Table
from even_sieve.core.table.build import of_kinds_held
from even_sieve.core.table.far import made_where_rows_are

_RUNG = re.compile(r"(.+?)\s+if\s+(.+)\Z", re.IGNORECASE | re.DOTALL)
_BETWEEN = re.compile(r",(?=\s*else\s)|,(?=[^,]*?\sif\s)", re.IGNORECASE)
_ELSE = re.compile(r"else\s+(.+)\Z", re.IGNORECASE | re.DOTALL)


def is_ladder(body: str) -> bool:
    """Tell whether what is to be worked out is written as labels under criteria."""
    return match_unquoted(_RUNG, _split(body)[0]) is not None


def _split(body: str) -> list[str]:
    """Split a ladder at the commas that begin another rung."""
    hidden = hide_quoted(body)
    starts = [0, *(found.end() for found in _BETWEEN.finditer(hidden))]
    ends = [*(found.start() for found in _BETWEEN.finditer(hidden)), len(body)]
    return [body[start:end].strip() for start, end in zip(starts, ends, strict=True)]


def from_ladder(table: Table, name: str, body: str, settings: Settings) -> Column:
    """Return the column of the labels whose criteria are the first that hold.

    Raises `CallError` for words that are no rung, `UnknownColumn`.
    """
    labels: list[Cell] = []
    tests: list[Criteria] = []
    otherwise: Cell = None
    rungs = _split(body)
    for position, rung in enumerate(rungs):
        last = match_unquoted(_ELSE, rung)
        if last is not None and position == len(rungs) - 1:
            otherwise = _label(last[0])
            continue
        found = match_unquoted(_RUNG, rung)
        if found is None:
            raise CallError(
                f"'{rung}' is no rung\n"
                f"Write for example: known if {for_example(table.names, 'dues')[0]} is filled, "
                "else unknown"
            )
        labels.append(_label(found[0]))
        tests.append(prepare(parse_criteria(found[1], table.names), settings).criteria)
    find = FirstThatHolds.of(table, tests)
    work = partial(_labelled, name, [*labels, otherwise], replace(find, notices=()))
    (made,) = made_where_rows_are(table, work, find.tables)
    told = [replace(each, text=f"column '{name}': {each.text}") for each in find.notices]
    order = tuple(dict.fromkeys((*labels, otherwise)))
    return replace(made, order=order, notices=(*made.notices, *told))


def _labelled(name: str, labels: Sequence[Cell], find: FirstThatHolds, length: int) -> list[Column]:
    return [of_kinds_held(from_codes(name, labels, find(length)))]


def _label(text: str) -> Cell:
    text = in_double_quotes(text)
    if is_quoted(text):
        return unquoted(text) or None
    text = text.strip()
    value = read_plain(text)
    return to_cell(Fraction(value.value)) if isinstance(value, Number) else text
