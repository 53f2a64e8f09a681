"""Measures over their selections, row by row: the figure and the bucket of every row."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from even_sieve.core.cells import CellError
from even_sieve.core.criteria.conditions import Compared, OneOf
from even_sieve.core.criteria.nodes import EVERYTHING, Criteria, conditions
from even_sieve.core.criteria.operands import OtherColumn
from even_sieve.core.measures.request import Keep, MeasureRequest
from even_sieve.core.recheck.figures import FIGURES, LEADING, NUMERIC, ORDERED, Answer, Used
from even_sieve.core.recheck.matching import holds
from even_sieve.core.recheck.plain_cells import Plain, PlainColumn, plain_column
from even_sieve.core.table import Mark, Table

#: The marks in the order in which they put a row out, and what takes it back in.
_MARKS = (
    (Mark.SUBTOTAL, "subtotal", Keep.SUBTOTALS),
    (Mark.HIDDEN, "hidden", Keep.HIDDEN),
    (Mark.FILTERED, "filtered", Keep.FILTERED),
)


@dataclass(frozen=True)
class Question:
    """What is asked: a measure with all that it keeps, under criteria that are made ready.

    `shared` are the criteria of the query, `own` those of the measure, `place` those of a
    line of a breakdown; `errors` name columns and the error that a row must have there.
    """

    request: MeasureRequest
    shared: Criteria = EVERYTHING
    own: Criteria = EVERYTHING
    place: Criteria = EVERYTHING
    errors: tuple[tuple[str, CellError], ...] = ()


@dataclass(frozen=True)
class Again:
    """What came of it: the figure before rounding, and where each row went.

    `buckets` are those of every row as if it stood in the line, `rows` (from 0, ascending)
    those that do; the others are unmatched.
    """

    answer: Answer
    buckets: Sequence[str]
    rows: Sequence[int]


class RowByRow:
    """Works figures of one table out again. Memory and time grow with the rows: it is slow.

    What several questions have in common (the cells, where criteria hold, the buckets, the
    rows of a line) is worked out once.
    """

    def __init__(self, table: Table) -> None:
        self.table = table
        self._plain: dict[str, PlainColumn] = {}
        self._held: dict[Criteria, list[bool]] = {}
        self._buckets: dict[tuple[MeasureRequest, Criteria, Criteria], list[str]] = {}
        self._alike: dict[tuple[str, ...], dict[tuple[object, ...], list[int]]] = {}

    def work_out(self, question: Question) -> Again:
        """Return the figure, the buckets, and the rows of the line."""
        buckets, rows = self._buckets_of(question), self._rows_of(question)
        measured, weights = self._measured(question.request)
        used = [
            _used(question.request, measured, weights, row)
            for row in rows
            if buckets[row] == "used"
        ]
        kind = question.request.kind
        if kind in ("blanks", "errors"):
            counted = kind.removesuffix("s")
            return Again(sum(buckets[row] == counted for row in rows), buckets, rows)
        return Again(self._answer(question, used, measured, weights), buckets, rows)

    def _column(self, name: str) -> PlainColumn:
        if name not in self._plain:
            self._plain[name] = plain_column(self.table.column(name))
        return self._plain[name]

    def _measured(self, request: MeasureRequest) -> tuple[PlainColumn | None, PlainColumn | None]:
        names = request.column, request.weight
        first, second = (None if name is None else self._column(name) for name in names)
        return first, second

    def _holding(self, criteria: Criteria) -> list[bool]:
        """Return for which rows criteria hold."""
        if criteria not in self._held:
            columns = {name: self._column(name) for name in _names(criteria)}
            rows = range(self.table.length)
            self._held[criteria] = [holds(criteria, columns, row) for row in rows]
        return self._held[criteria]

    def _buckets_of(self, question: Question) -> list[str]:
        """Return the bucket of every row as if it stood in the line."""
        request, shared, own = question.request, question.shared, question.own
        if (request, shared, own) not in self._buckets:
            in_shared, in_own = self._holding(shared), self._holding(own)
            measured, weights = self._measured(request)
            marks = self.table.marks
            found = []
            for row in range(self.table.length):
                bucket = "" if marks is None else _marked_out(int(marks[row]), request)
                if not bucket and not (in_shared[row] and in_own[row]):
                    bucket = "unmatched"
                found.append(bucket or _by_cell(request, measured, weights, row))
            self._buckets[request, shared, own] = found
        return self._buckets[request, shared, own]

    def _rows_of(self, question: Question) -> Sequence[int]:
        """Return the rows of the line: each different combination of cells is asked once."""
        names = tuple(dict.fromkeys([*_names(question.place), *(n for n, _ in question.errors)]))
        if not names:
            return range(self.table.length)
        columns = {name: self._column(name) for name in names}
        if names not in self._alike:
            alike: dict[tuple[object, ...], list[int]] = {}
            values = zip(*(column.values for column in columns.values()), strict=True)
            for row, key in enumerate(values):
                alike.setdefault((*key, *map(type, key)), []).append(row)  # 1 is not yes
            self._alike[names] = alike
        found = [
            rows
            for rows in self._alike[names].values()
            if holds(question.place, columns, rows[0])
            and all(columns[name].values[rows[0]] == error for name, error in question.errors)
        ]
        return sorted(row for rows in found for row in rows)

    def _answer(
        self,
        question: Question,
        used: list[Used],
        measured: PlainColumn | None,
        weights: PlainColumn | None,
    ) -> Answer:
        request = question.request
        kept = _kept_error(request, used, measured, weights)
        if kept is not None:
            return kept
        if request.kind == "share":
            return self._share(question, used)
        return FIGURES[request.kind](used, request)

    def _share(self, question: Question, used: list[Used]) -> Answer:
        total = self.work_out(Question(replace(question.request, kind="sum"), question.shared))
        if isinstance(total.answer, CellError):
            return total.answer
        part = FIGURES["sum"](used, question.request)
        if not isinstance(total.answer, Fraction) or not isinstance(part, Fraction):
            return None
        return part / total.answer if total.answer else None


def _names(criteria: Criteria) -> list[str]:
    """Return the names of all columns that criteria ask."""
    names = []
    for condition in conditions(criteria):
        names.append(condition.column)
        test = condition.test
        values = test.values if isinstance(test, OneOf) else ()
        values = (test.value,) if isinstance(test, Compared) else values
        names += [value.name for value in values if isinstance(value, OtherColumn)]
    return names


def _marked_out(marks: int, request: MeasureRequest) -> str:
    """Return the bucket of a row that a mark leaves out, else an empty text."""
    for mark, bucket, keep in _MARKS:
        if marks & mark and keep not in request.keep:
            return bucket
    return ""


def _by_cell(
    request: MeasureRequest, measured: PlainColumn | None, weights: PlainColumn | None, row: int
) -> str:
    if measured is None:
        return "used"
    bucket = _of_value(request, measured, measured.values[row])
    if bucket == "used" and weights is not None:
        return _of_value(request, weights, weights.values[row])
    return bucket


def _of_value(request: MeasureRequest, column: PlainColumn, value: Plain) -> str:
    """Return the bucket of a matched row by its cell."""
    kind, keep = request.kind, request.keep
    wanted = _wanted(kind, column)
    if value is None:
        kept = Keep.BLANKS in keep and (kind == "distinct" or _takes_zero(kind, wanted))
        return "used" if kept or kind == "distinct or blank" else "blank"
    if isinstance(value, CellError):
        kept = Keep.ERRORS in keep and kind not in ("numbers", "blanks", "errors")
        return "used" if kept else "error"
    return "used" if type(value) in wanted else "not_a_number"


def _takes_zero(kind: str, wanted: tuple[type, ...]) -> bool:
    """Tell whether a kept blank counts as zero: among numbers, in all but a count of them."""
    return kind in (NUMERIC | ORDERED) - {"numbers"} and wanted == (Fraction,)


def _wanted(kind: str, column: PlainColumn) -> tuple[type, ...]:
    if kind in NUMERIC:
        return (Fraction,)
    if kind in ORDERED:
        return (next((each for each in LEADING if each in column.holds), Fraction),)
    return LEADING


def _used(
    request: MeasureRequest, measured: PlainColumn | None, weights: PlainColumn | None, row: int
) -> Used:
    if measured is None:
        return Used(row, None, None)
    value, cell = measured.values[row], measured.cells[row]
    if (
        value is None
        and Fraction in _wanted(request.kind, measured)
        and request.kind in (NUMERIC | ORDERED)
    ):
        value, cell = Fraction(0), 0
    weight = Fraction(1) if weights is None else weights.values[row]
    return Used(row, cell, value, weight if isinstance(weight, Fraction) else Fraction(0))


def _kept_error(
    request: MeasureRequest,
    used: list[Used],
    measured: PlainColumn | None,
    weights: PlainColumn | None,
) -> CellError | None:
    """Return the first kept error; it takes the place of every figure but a count."""
    if measured is None or request.kind in ("filled", "numbers"):
        return None
    for each in used:
        if isinstance(each.value, CellError):
            return each.value
        beside = None if weights is None else weights.values[each.row]
        if isinstance(beside, CellError):
            return beside
    return None
