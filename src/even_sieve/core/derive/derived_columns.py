"""Derived columns by how they are written.

per ton = dues / tonnage                               arithmetic
full name = "{vessel} ({class})"                       a template
size = small if tonnage < 500, medium if tonnage < 5000, else large      a ladder
month = arrived by month      band = dues in bands 0, 100                an axis
year = year of arrived        upper = upper of zone                      parts and cases
amount = number of fee        due = date of paid by                      read as another kind
"""

import re
from collections.abc import Sequence
from dataclasses import replace
from datetime import date
from fractions import Fraction
from functools import partial
from itertools import repeat

import numpy as np

from even_sieve.core.axes import axis_of, first_that_holds
from even_sieve.core.cells import Cell, CellError, Kind
from even_sieve.core.cells.dates import DAY, micros
from even_sieve.core.cells.quoting import (
    for_example,
    hide_quoted,
    is_quoted,
    match_unquoted,
    unquoted,
)
from even_sieve.core.cells.said import as_text
from even_sieve.core.criteria import Criteria, Settings, parse_criteria, prepare
from even_sieve.core.criteria.operands import Number, read_plain
from even_sieve.core.derive.at_once import column_of_fractions, days_between, worked_out_at_once
from even_sieve.core.derive.expressions import (
    Apply,
    Expression,
    Name,
    names_in,
    parse_arithmetic,
    steps_of,
    to_cell,
    work_out,
)
from even_sieve.core.derive.parts import PARTS, from_codes, part_of
from even_sieve.core.errors import CallError, UnknownColumn
from even_sieve.core.lazy import many_of
from even_sieve.core.table import Column, Table, column_from_codes
from even_sieve.core.table.arrays import spans
from even_sieve.core.table.distinct import Values, numbered
from even_sieve.core.table.keys import Identity
from even_sieve.core.table.lanes import Array, TextLane
from even_sieve.core.table.shortest import exact_decimal

_AXIS = re.compile(
    r".+\s(?:by\s+(?:year|quarter|month|week|day)|in\s+bands\s.+)\Z", re.IGNORECASE | re.DOTALL
)
_PART = re.compile(
    rf"({'|'.join(PARTS)})\s+of\s+(.+)\Z".replace(" name", r"\s+name"), re.IGNORECASE
)
_FIELD = re.compile(r"\{([^{}]*)\}")
_RUNG = re.compile(r"(.+?)\s+if\s+(.+)\Z", re.IGNORECASE | re.DOTALL)
_BETWEEN = re.compile(r",(?=\s*else\s)|,(?=[^,]*?\sif\s)", re.IGNORECASE)
_ELSE = re.compile(r"else\s+(.+)\Z", re.IGNORECASE | re.DOTALL)


def derive(table: Table, text: str, settings: Settings | None = None) -> Table:
    """Return the table with one more column: `NAME = …`, worked out from the others.

    Blank parts give a blank, errors stay errors, a division by zero is an error cell. Raises
    `CallError` for words that cannot be read, `UnknownColumn`.
    """
    equal = hide_quoted(text).find("=")
    name, body = unquoted(text[: max(equal, 0)]), text[equal + 1 :].strip()
    if not name or not body:
        raise CallError(
            f"derive '{text}': a name, '=' and what to work out are needed\n"
            f"Write for example: twice = {for_example(table.numbers_first, 'dues')[0]} * 2"
        )
    if name in table:
        raise CallError(f"derive '{text}': there is a column '{name}' already")
    try:
        column = _make(table, name, body, settings or Settings())
    except UnknownColumn as error:
        raise error.at(f"derive '{name}'") from None
    except CallError as error:
        raise CallError(f"derive '{name}': {error}") from None
    return replace(table, columns=(*table.columns, column))


def _make(table: Table, name: str, body: str, settings: Settings) -> Column:
    if is_quoted(body) and "{" in body:
        return _template(table, name, unquoted(body))
    if match_unquoted(_RUNG, _split(body)[0]):
        return _ladder(table, name, body, settings)
    part = match_unquoted(_PART, body)
    if part is not None and unquoted(part[1]) in table:
        what = " ".join(part[0].lower().split())
        return part_of(name, what, table.column(unquoted(part[1])))
    if _AXIS.match(hide_quoted(body)):
        axis = axis_of(table, body)
        keys = list(axis.keys)
        return replace(column_from_codes(name, keys, axis.codes), order=tuple(keys))
    return _arithmetic(table, name, body)


def _distinct(columns: Sequence[Column]) -> tuple[list[tuple[Cell, ...]], Array]:
    """Return the different combinations of cells, and which one each row has."""
    if len(columns) == 1:
        return [(key,) for key in columns[0].identity.keys], columns[0].identity.codes
    first, codes = _first_of_each(columns)
    return [tuple(column.cell(row) for column in columns) for row in first.tolist()], codes


def _first_of_each(columns: Sequence[Column]) -> tuple[Array, Array]:
    """Return the first row of each combination of cells, and which one each row has."""
    identities = [column.identity for column in columns]
    length, codes, size = columns[0].length, identities[0].codes, len(identities[0].keys)
    for identity in identities[1:]:
        codes, size = _beside(codes, identity, length)
    first = np.full(size, -1, dtype=np.int64)
    for rows in spans(length):
        own = codes[rows]
        new = np.flatnonzero(first[own] < 0)[::-1]
        first[own[new]] = new + rows.start  # the first of several is written last
    return first, codes


def _beside(codes: Array, identity: Identity, length: int) -> tuple[Array, int]:
    """Return codes for the pairs of codes and values that there are, and how many pairs."""
    width = max(len(identity.keys), 1)

    def pair(one: Array, other: Array) -> Array:
        return one.astype(np.int64) * width + other

    found, together = numbered(Values((codes, identity.codes), pair))
    return together, len(found)


def _arithmetic(table: Table, name: str, body: str) -> Column:
    expression = parse_arithmetic(body)
    steps = steps_of(expression)
    names = names_in(steps)
    if not names:
        (own,) = for_example(table.numbers_first, "dues")
        raise CallError(f"'{body}' takes no column\nWrite for example: {own} * 2")
    columns = [table.column(each) for each in names]
    if any(Kind.DATE in column.lanes for column in columns):
        return _days(name, body, expression, columns)
    return worked_out_at_once(
        name,
        steps,
        dict(zip(names, columns, strict=True)),
        lambda rows: _one_by_one(steps, names, [column.take(rows) for column in columns]),
    )


def _one_by_one(
    steps: Sequence[Expression], names: Sequence[str], columns: Sequence[Column]
) -> list[Cell]:
    """Return the results of rows, each combination of cells worked out once."""
    combinations, codes = _distinct(columns)
    cells = [
        to_cell(
            work_out(
                steps,
                {
                    each: _number(column, cell)
                    for each, column, cell in zip(names, columns, combination, strict=True)
                },
            )
        )
        for combination in combinations
    ]
    return many_of(cells, codes)


def _number(column: Column, cell: Cell) -> Fraction | CellError | None:
    """Return a cell exactly; a double counts as the decimal that it shows."""
    if cell is None or isinstance(cell, CellError):
        return cell
    if isinstance(cell, bool | str | date):
        return CellError("no number", f"'{as_text(cell)}' in column '{column.name}' is no number")
    return exact_decimal(cell) if isinstance(cell, float) else Fraction(cell)


def _days(name: str, body: str, expression: Expression, columns: Sequence[Column]) -> Column:
    """Return the days from one date to another: the only arithmetic that dates have."""
    parts = expression.parts if isinstance(expression, Apply) and expression.what == "-" else ()
    if len(parts) != 2 or not all(isinstance(part, Name) for part in parts):
        raise CallError(f"'{body}' holds dates: only one date less another is worked out, in days")
    days = partial(days_between, columns[0], columns[-1])
    return column_of_fractions(name, columns[0].length, days, partial(_days_one_by_one, columns))


def _days_one_by_one(columns: Sequence[Column], rows: Array) -> list[Cell]:
    """Return the days between the dates of rows, where there may be cells that are none."""
    chosen = [column.take(rows) for column in columns]
    combinations, codes = _distinct(chosen)
    cells: list[Cell] = []
    for combination in combinations:
        later, earlier = combination if len(columns) == 2 else combination * 2
        cells.append(_days_between(columns, later, earlier))
    return many_of(cells, codes)


def _days_between(columns: Sequence[Column], later: Cell, earlier: Cell) -> Cell:
    for column, cell in zip((columns[0], columns[-1]), (later, earlier), strict=True):
        if cell is None or isinstance(cell, CellError):
            return cell
        if not isinstance(cell, date):
            return CellError("no date", f"'{cell}' in column '{column.name}' is no date")
    if not isinstance(later, date) or not isinstance(earlier, date):
        raise RuntimeError("both are dates by now")
    return to_cell(Fraction(micros(later) - micros(earlier), DAY))


def _template(table: Table, name: str, template: str) -> Column:
    fields = list(dict.fromkeys(field.strip() for field in _FIELD.findall(template)))
    columns = [table.column(field) for field in fields]
    if not columns:
        raise CallError(
            'a template names columns in braces\nWrite for example: "{vessel} ({class})"'
        )
    first, codes = _first_of_each(columns)
    shown = dict(zip(fields, (_texts_at(column, first) for column in columns), strict=True))
    pieces = [
        shown[piece.strip()] if place % 2 else repeat(piece)
        for place, piece in enumerate(_FIELD.split(template))
    ]
    cells: list[Cell] = [text.strip() or None for text in map("".join, zip(*pieces, strict=False))]
    for column in reversed(columns):  # the first one that is wrong tells
        if Kind.ERROR in column.counts:
            for place in np.flatnonzero(_are(column, Kind.ERROR, first)).tolist():
                cells[place] = column.cell(first[place])
    return from_codes(name, cells, codes)


def _texts_at(column: Column, rows: Array) -> list[str]:
    """Return the cells of rows as texts, spelt as they are there."""
    identity, lane = column.identity, column.lanes.get(Kind.TEXT)
    if not isinstance(lane, TextLane):
        return many_of(list(map(as_text, identity.keys)), identity.codes[rows])
    places = np.flatnonzero(_are(column, Kind.TEXT, rows))
    spelt = many_of(lane.spellings, lane.codes[rows[places]])
    if len(spelt) == len(rows):
        return spelt
    texts = many_of(list(map(as_text, identity.keys)), identity.codes[rows])
    for place, text in zip(places.tolist(), spelt, strict=True):
        texts[place] = text
    return texts


def _are(column: Column, kind: Kind, rows: Array) -> Array:
    """Return which of some rows hold a cell of a kind."""
    if column.states is None:
        return np.full(len(rows), column.only_kind is kind)
    found: Array = column.states[rows] == kind
    return found


def _split(body: str) -> list[str]:
    """Split a ladder at the commas that begin another rung."""
    hidden = hide_quoted(body)
    starts = [0, *(found.end() for found in _BETWEEN.finditer(hidden))]
    ends = [*(found.start() for found in _BETWEEN.finditer(hidden)), len(body)]
    return [body[start:end].strip() for start, end in zip(starts, ends, strict=True)]


def _ladder(table: Table, name: str, body: str, settings: Settings) -> Column:
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
    made = from_codes(name, [*labels, otherwise], first_that_holds(table, tests))
    return replace(made, order=tuple(dict.fromkeys((*labels, otherwise))))


def _label(text: str) -> Cell:
    if is_quoted(text):
        return unquoted(text) or None
    text = text.strip()
    value = read_plain(text)
    return to_cell(Fraction(value.value)) if isinstance(value, Number) else text
