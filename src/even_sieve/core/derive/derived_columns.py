"""Derived columns by how they are written.

per ton = dues / tonnage                               arithmetic
full name = "{vessel} ({class})"                       a template
size = small if tonnage < 500, medium if tonnage < 5000, else large      a ladder
month = arrived by month      band = dues in bands 0, 100                an axis
year = year of arrived        upper = upper of zone                      parts and cases
"""

import re
from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import date
from fractions import Fraction

import numpy as np

from even_sieve.core.axes import axis_of, first_that_holds
from even_sieve.core.cells import Cell, CellError, Kind, format_date
from even_sieve.core.cells.dates import DAY, micros
from even_sieve.core.cells.quoting import hide_quoted, is_quoted, match_unquoted, unquoted
from even_sieve.core.criteria import Criteria, Settings, parse_criteria, prepare
from even_sieve.core.criteria.operands import Number, read_plain
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
from even_sieve.core.errors import CallError, UnknownColumn
from even_sieve.core.table import Column, Table, column_from_cells, column_from_codes
from even_sieve.core.table.arrays import pick, spans
from even_sieve.core.table.columns import Identity
from even_sieve.core.table.distinct import numbered
from even_sieve.core.table.lanes import Array, narrowest
from even_sieve.core.table.shortest import exact_decimal

_AXIS = re.compile(
    r".+\s(?:by\s+(?:year|quarter|month|week|day)|in\s+bands\s.+)\Z", re.IGNORECASE | re.DOTALL
)
_PART = re.compile(
    r"(year|quarter|month|week|day|weekday|upper|lower|trimmed)\s+of\s+(.+)\Z", re.IGNORECASE
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
            "Write for example: per ton = dues / tonnage"
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
        return _part(table, name, part[0].lower(), table.column(unquoted(part[1])))
    if _AXIS.match(hide_quoted(body)):
        axis = axis_of(table, body)
        return column_from_codes(name, [group.key for group in axis.groups], axis.codes)
    return _arithmetic(table, name, body)


def _distinct(columns: Sequence[Column]) -> tuple[list[tuple[Cell, ...]], Array]:
    """Return the different combinations of cells, and which one each row has."""
    identities = [column.identity for column in columns]
    if len(columns) == 1:
        return [(key,) for key in identities[0].keys], identities[0].codes
    length, codes, size = columns[0].length, identities[0].codes, len(identities[0].keys)
    for identity in identities[1:]:
        codes, size = _beside(codes, identity, length)
    first = np.full(size, -1, dtype=np.int64)
    for rows in spans(length):
        own = codes[rows]
        new = np.flatnonzero(first[own] < 0)[::-1]
        first[own[new]] = new + rows.start  # the first of several is written last
    return [tuple(column.cell(row) for column in columns) for row in first.tolist()], codes


def _beside(codes: Array, identity: Identity, length: int) -> tuple[Array, int]:
    """Return codes for the pairs of codes and values that there are, and how many pairs."""
    width = max(len(identity.keys), 1)

    def pair(rows: slice) -> Array:
        return codes[rows].astype(np.int64) * width + identity.codes[rows]

    found, together = numbered(length, pair, lambda _: None)
    return together, len(found)


def _arithmetic(table: Table, name: str, body: str) -> Column:
    expression = parse_arithmetic(body)
    steps = steps_of(expression)
    names = names_in(steps)
    if not names:
        raise CallError(f"'{body}' takes no column\nWrite for example: dues / tonnage")
    columns = [table.column(each) for each in names]
    if any(Kind.DATE in column.lanes for column in columns):
        return _days(name, body, expression, columns)
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
    return _from_codes(name, cells, codes)


def _number(column: Column, cell: Cell) -> Fraction | CellError | None:
    """Return a cell exactly; a double counts as the decimal that it shows."""
    if cell is None or isinstance(cell, CellError):
        return cell
    if isinstance(cell, bool | str | date):
        shown = format_date(cell) if isinstance(cell, date) else cell
        return CellError("no number", f"'{shown}' in column '{column.name}' is no number")
    return exact_decimal(cell) if isinstance(cell, float) else Fraction(cell)


def _days(name: str, body: str, expression: Expression, columns: Sequence[Column]) -> Column:
    """Return the days from one date to another: the only arithmetic that dates have."""
    parts = expression.parts if isinstance(expression, Apply) and expression.what == "-" else ()
    if len(parts) != 2 or not all(isinstance(part, Name) for part in parts):
        raise CallError(f"'{body}' holds dates: only one date less another is worked out, in days")
    combinations, codes = _distinct(columns)
    cells: list[Cell] = []
    for combination in combinations:
        later, earlier = combination if len(columns) == 2 else combination * 2
        cells.append(_days_between(columns, later, earlier))
    return _from_codes(name, cells, codes)


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
    fields = _FIELD.findall(template)
    columns = [table.column(field) for field in dict.fromkeys(field.strip() for field in fields)]
    if not columns:
        raise CallError(
            'a template names columns in braces\nWrite for example: "{vessel} ({class})"'
        )
    combinations, codes = _distinct(columns)
    names = list(dict.fromkeys(field.strip() for field in fields))
    cells: list[Cell] = []
    for combination in combinations:
        wrong = next((cell for cell in combination if isinstance(cell, CellError)), None)
        shown = dict(zip(names, map(_shown, combination), strict=True))
        text = "".join(
            shown[piece.strip()] if place % 2 else piece
            for place, piece in enumerate(_FIELD.split(template))
        )
        cells.append(wrong or text.strip() or None)
    return _from_codes(name, cells, codes)


def _shown(cell: Cell) -> str:
    if cell is None or isinstance(cell, CellError):
        return ""
    if isinstance(cell, bool):
        return "yes" if cell else "no"
    if isinstance(cell, date):
        return format_date(cell)
    if isinstance(cell, float) and cell.is_integer() and abs(cell) < 10**15:
        return str(int(cell))
    return str(cell)


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
                f"'{rung}' is no rung\nWrite for example: small if tonnage < 500, else large"
            )
        labels.append(_label(found[0]))
        tests.append(prepare(parse_criteria(found[1], table.names), settings).criteria)
    return _from_codes(name, [*labels, otherwise], first_that_holds(table, tests))


def _label(text: str) -> Cell:
    if is_quoted(text):
        return unquoted(text) or None
    text = text.strip()
    value = read_plain(text)
    return to_cell(Fraction(value.value)) if isinstance(value, Number) else text


_WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
_OF_DATE: dict[str, Callable[[date], Cell]] = {
    "year": lambda day: day.year,
    "quarter": lambda day: (day.month + 2) // 3,
    "month": lambda day: day.month,
    "week": lambda day: day.isocalendar().week,
    "day": lambda day: day.day,
    "weekday": lambda day: _WEEKDAYS[day.weekday()],
}
_OF_TEXT: dict[str, Callable[[str], str]] = {
    "upper": str.upper,
    "lower": str.lower,
    "trimmed": lambda text: " ".join(text.split()),
}


def _part(table: Table, name: str, what: str, column: Column) -> Column:
    """Return a part of each date, or each text in another case; other cells are errors."""
    identity = column.identity
    lane_texts = what in _OF_TEXT
    cells: list[Cell] = []
    for key in identity.keys:
        if key is None or isinstance(key, CellError):
            cells.append(key)
        elif lane_texts and isinstance(key, str):
            cells.append(_OF_TEXT[what](key) or None)
        elif not lane_texts and isinstance(key, date):
            cells.append(_OF_DATE[what](key))
        else:
            kind = "text" if lane_texts else "date"
            cells.append(
                CellError(f"no {kind}", f"'{_shown(key)}' in column '{column.name}' is no {kind}")
            )
    return _from_codes(name, cells, identity.codes)


def _from_codes(name: str, cells: Sequence[Cell], codes: Array) -> Column:
    """Return a column from cells, equal ones among them, and the position of each row's."""
    if not len(codes):
        return column_from_cells(name, [])
    places: dict[tuple[type, Cell], int] = {}
    own = [places.setdefault((type(cell), cell), len(places)) for cell in cells]
    number = np.array(own, dtype=narrowest(len(places)))
    return column_from_codes(name, [cell for _, cell in places], pick(number, codes))
