"""One measure over one selection, row by row: its figure and the bucket of every row."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from fractions import Fraction

from even_sieve.core.cells import CellError
from even_sieve.core.criteria import EVERYTHING, Criteria, conditions
from even_sieve.core.criteria.nodes import Compared, OneOf
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

    `shared` are the criteria of the call, `own` those of the measure, `place` those of a
    line of a breakdown; `errors` name columns and the error that a row must have there.
    """

    table: Table
    request: MeasureRequest
    shared: Criteria = EVERYTHING
    own: Criteria = EVERYTHING
    place: Criteria = EVERYTHING
    errors: tuple[tuple[str, CellError], ...] = ()


@dataclass(frozen=True)
class Again:
    """What came of it: the figure before rounding, and the bucket of each row."""

    answer: Answer
    buckets: tuple[str, ...]


def work_out_again(question: Question) -> Again:
    """Return the figure and the buckets. Memory and time grow with the rows: it is slow."""
    columns = _columns(question)
    measured = _named(question.table, columns, question.request.column)
    weights = _named(question.table, columns, question.request.weight)
    buckets, used = [], []
    for row in range(question.table.length):
        bucket = _left_out(question, columns, row)
        if not bucket:
            bucket = _by_cell(question.request, measured, weights, row)
        buckets.append(bucket)
        if bucket == "used":
            used.append(_used(question.request, measured, weights, row))
    return Again(_answer(question, buckets, used, measured), tuple(buckets))


def _columns(question: Question) -> dict[str, PlainColumn]:
    """Return every column that is asked for, under the name by which it is."""
    names = {name for name in (question.request.column, question.request.weight) if name}
    names |= {name for name, _ in question.errors}
    for criteria in (question.shared, question.own, question.place):
        for condition in conditions(criteria):
            names.add(condition.column)
            test = condition.test
            values = test.values if isinstance(test, OneOf) else ()
            values = (test.value,) if isinstance(test, Compared) else values
            names |= {value.name for value in values if isinstance(value, OtherColumn)}
    return {name: plain_column(question.table.column(name)) for name in names}


def _named(
    table: Table, columns: Mapping[str, PlainColumn], name: str | None
) -> PlainColumn | None:
    return None if name is None else columns[name]


def _left_out(question: Question, columns: Mapping[str, PlainColumn], row: int) -> str:
    """Return the bucket of a row that a mark or the criteria leave out, else an empty text."""
    marks = 0 if question.table.marks is None else int(question.table.marks[row])
    for mark, bucket, keep in _MARKS:
        if marks & mark and keep not in question.request.keep:
            return bucket
    for criteria in (question.shared, question.own, question.place):
        if not holds(criteria, columns, row):
            return "unmatched"
    if any(columns[name].values[row] != error for name, error in question.errors):
        return "unmatched"
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


def _answer(
    question: Question, buckets: list[str], used: list[Used], measured: PlainColumn | None
) -> Answer:
    request = question.request
    if request.kind in ("blanks", "errors"):
        return buckets.count(request.kind.removesuffix("s"))
    kept = _kept_error(question, used, measured)
    if kept is not None:
        return kept
    if request.kind == "share":
        return _share(question, used)
    return FIGURES[request.kind](used, request)


def _kept_error(
    question: Question, used: list[Used], measured: PlainColumn | None
) -> CellError | None:
    """Return the first kept error; it takes the place of every figure but a count."""
    if measured is None or question.request.kind in ("filled", "numbers"):
        return None
    weight = question.request.weight
    second = None if weight is None else plain_column(question.table.column(weight))
    for each in used:
        if isinstance(each.value, CellError):
            return each.value
        beside = None if second is None else second.values[each.row]
        if isinstance(beside, CellError):
            return beside
    return None


def _share(question: Question, used: list[Used]) -> Answer:
    whole = replace(
        question,
        request=replace(question.request, kind="sum"),
        own=EVERYTHING,
        place=EVERYTHING,
        errors=(),
    )
    total = work_out_again(whole).answer
    if isinstance(total, CellError):
        return total
    part = FIGURES["sum"](used, question.request)
    if not isinstance(total, Fraction) or not isinstance(part, Fraction) or not total:
        return None
    return part / total
