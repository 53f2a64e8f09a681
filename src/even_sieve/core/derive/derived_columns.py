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

from even_sieve.core.axes import axis_of
from even_sieve.core.cells import Cell, CellError, Kind
from even_sieve.core.cells.dates import DAY, micros
from even_sieve.core.cells.likeness import Likeness
from even_sieve.core.cells.quoting import (
    for_example,
    hide_quoted,
    in_double_quotes,
    is_quoted,
    match_unquoted,
    unquoted,
)
from even_sieve.core.cells.said import as_text
from even_sieve.core.criteria import Settings
from even_sieve.core.derive.at_once import column_of_fractions, days_between, worked_out_at_once
from even_sieve.core.derive.combinations import distinct
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
from even_sieve.core.derive.ladders import from_ladder, is_ladder
from even_sieve.core.derive.parts import PARTS, part_of
from even_sieve.core.derive.templates import from_template
from even_sieve.core.errors import CallError, UnknownColumn
from even_sieve.core.lazy import many_of
from even_sieve.core.notices import Code, Notice
from even_sieve.core.table import Column, Table, column_from_codes
from even_sieve.core.table.far import column_of_codes, made_where_rows_are, of_rows
from even_sieve.core.table.how_to_read import how_to_read
from even_sieve.core.table.lanes import Array
from even_sieve.core.table.likes import texts_like
from even_sieve.core.table.shortest import exact_decimal

_AXIS = re.compile(
    r".+\s(?:by\s+(?:year|quarter|month|week|day)|in\s+bands\s.+)\Z", re.IGNORECASE | re.DOTALL
)
_PART = re.compile(
    rf"({'|'.join(PARTS)})\s+of\s+(.+)\Z".replace(" name", r"\s+name"), re.IGNORECASE
)

#: Signs as they are set in print, read where no name of a column has one.
_OTHER_SIGNS = str.maketrans({"−": "-", "×": "*", "·": "*", "÷": "/", "∕": "/"})


def derive(table: Table, text: str, settings: Settings | None = None) -> Table:
    """Return the table with one more column: `NAME = …`, worked out from the others.

    Blank parts give a blank, errors stay errors, a division by zero is an error cell. Raises
    `CallError` for words that cannot be read, `UnknownColumn`.
    """
    equal = hide_quoted(text).find("=")
    name, body = unquoted(text[: max(equal, 0)]), in_double_quotes(text[equal + 1 :].strip())
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
        return from_template(table, name, unquoted(body))
    if is_ladder(body):
        return from_ladder(table, name, body, settings)
    part = match_unquoted(_PART, body)
    if part is not None and unquoted(part[1]) in table:
        what = " ".join(part[0].lower().split())
        return part_of(name, what, table.column(unquoted(part[1])))
    if _AXIS.match(hide_quoted(body)):
        axis = axis_of(table, body, apart=True)
        keys = list(axis.keys)
        made = column_of_codes(axis.codes, partial(column_from_codes, name, keys))
        return replace(made, order=tuple(keys))
    return _arithmetic(table, name, body)


def _arithmetic(table: Table, name: str, body: str) -> Column:
    if not _OTHER_SIGNS.keys() & {*map(ord, "".join(table.names))}:
        body = body.translate(_OTHER_SIGNS)
    expression = parse_arithmetic(body)
    steps = steps_of(expression)
    names = names_in(steps)
    if not names:
        (own,) = for_example(table.numbers_first, "dues")
        raise CallError(f"'{body}' takes no column\nWrite for example: {own} * 2")
    columns = [table.column(each) for each in names]
    if any(Kind.DATE in column.lanes for column in columns):
        return _days(table, name, body, expression, columns)
    (made,) = made_where_rows_are(table, partial(_worked_out, name, steps, names, columns))
    told = [notice for column in columns for notice in _texts_like_numbers(name, column)]
    return replace(made, notices=(*made.notices, *told)) if told else made


def _texts_like_numbers(name: str, column: Column) -> tuple[Notice, ...]:
    """Return a notice where a column that is worked with holds text that looks like numbers."""
    example = next(iter(texts_like(column, Likeness.NUMBER)), "")
    if not example:
        return ()
    text = (
        f"derive '{name}': column '{column.name}' holds text that looks like a number, such as "
        f"'{example}'; text is not worked with: {how_to_read([column])}"
    )
    return (Notice(Code.TEXT_LIKE_NUMBERS, text),)


def _worked_out(
    name: str,
    steps: Sequence[Expression],
    names: Sequence[str],
    columns: Sequence[Column],
    length: int,
) -> list[Column]:
    own = [of_rows(column, length) for column in columns]

    def one_by_one(rows: Array) -> list[Cell]:
        return _one_by_one(steps, names, [column.take(rows) for column in own])

    return [worked_out_at_once(name, steps, dict(zip(names, own, strict=True)), one_by_one)]


def _one_by_one(
    steps: Sequence[Expression], names: Sequence[str], columns: Sequence[Column]
) -> list[Cell]:
    """Return the results of rows, each combination of cells worked out once."""
    combinations, codes = distinct(columns)
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


def _days(
    table: Table, name: str, body: str, expression: Expression, columns: Sequence[Column]
) -> Column:
    """Return the days from one date to another: the only arithmetic that dates have."""
    parts = expression.parts if isinstance(expression, Apply) and expression.what == "-" else ()
    if len(parts) != 2 or not all(isinstance(part, Name) for part in parts):
        raise CallError(f"'{body}' holds dates: only one date less another is worked out, in days")
    (made,) = made_where_rows_are(table, partial(_days_at_once, name, columns))
    return made


def _days_at_once(name: str, columns: Sequence[Column], length: int) -> list[Column]:
    own = [of_rows(column, length) for column in columns]
    days = partial(days_between, own[0], own[-1])
    return [column_of_fractions(name, length, days, partial(_days_one_by_one, own))]


def _days_one_by_one(columns: Sequence[Column], rows: Array) -> list[Cell]:
    """Return the days between the dates of rows, where there may be cells that are none."""
    chosen = [column.take(rows) for column in columns]
    combinations, codes = distinct(chosen)
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
