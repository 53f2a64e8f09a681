"""Measures over their selections, row by row: the figure and the bucket of every row."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import compress

from even_sieve.core.cells import CellError
from even_sieve.core.criteria.nodes import EVERYTHING, And, Criteria
from even_sieve.core.measures.request import Keep, MeasureRequest
from even_sieve.core.progress import steps
from even_sieve.core.recheck.figures import FIGURES, Answer, Used
from even_sieve.core.recheck.held_rows import HeldRows, names_in, rows_asked
from even_sieve.core.recheck.matching import holds
from even_sieve.core.recheck.plain_cells import Plain, PlainColumn, SpreadColumn, plain_column
from even_sieve.core.recheck.used_cells import kept_error, takes_zero, used_cells, wanted
from even_sieve.core.table import Mark, Table

#: Where a row can go, in the order of an account.
BUCKETS = ("subtotal", "hidden", "filtered", "unmatched", "blank", "error", "not_a_number", "used")
_UNMATCHED, _USED = BUCKETS.index("unmatched"), BUCKETS.index("used")
_IS_USED = bytes(number == _USED for number in range(256))
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
    errors: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True)
class Again:
    """What came of it: the figure before rounding, and where each row went.

    `buckets` are those of every row as if it stood in the line, positions among `BUCKETS`;
    `rows` (from 0, ascending) those that do; the others are unmatched.
    """

    answer: Answer
    buckets: bytes
    rows: Sequence[int]


class RowByRow:
    """Works figures of one table out again. Memory and time grow with the rows: it is slow.

    What several questions have in common (the cells, where criteria hold, the buckets, the
    rows of a line) is worked out once.
    """

    def __init__(self, table: Table) -> None:
        self.table = table
        self._columns: dict[str, SpreadColumn] = {}
        self._held = HeldRows(table.length, self._column)
        self._last: dict[tuple[MeasureRequest, Criteria, Criteria], bytes] = {}
        self._cells: dict[tuple[object, ...], bytes] = {}
        self._alike: dict[tuple[str, ...], dict[tuple[object, ...], list[int]]] = {}
        self._firsts: dict[tuple[str, ...], dict[object, list[tuple[object, ...]]]] = {}

    def work_out(self, question: Question) -> Again:
        """Return the figure, the buckets, and the rows of the line."""
        buckets, rows = self._buckets_of(question), self._rows_of(question)
        kind = question.request.kind
        if kind in ("blanks", "errors"):
            counted = BUCKETS.index(kind.removesuffix("s"))
            return Again(sum(buckets[row] == counted for row in rows), buckets, rows)
        measured, weights = self._measured(question.request)
        if isinstance(rows, range):
            used_rows = list(compress(rows, buckets.translate(_IS_USED)))
        else:
            used_rows = [row for row in rows if buckets[row] == _USED]
        used = used_cells(question.request, measured, weights, used_rows)
        return Again(self._answer(question, used, measured, weights), buckets, rows)

    def _column(self, name: str) -> SpreadColumn:
        if name not in self._columns:
            self._columns[name] = plain_column(self.table.column(name))
        return self._columns[name]

    def _measured(self, request: MeasureRequest) -> tuple[SpreadColumn | None, SpreadColumn | None]:
        names = request.column, request.weight
        first, second = (None if name is None else self._column(name) for name in names)
        return first, second

    def _buckets_of(self, question: Question) -> bytes:
        """Return the bucket of every row as if it stood in the line; those last asked are kept."""
        key = question.request, question.shared, question.own
        if key not in self._last:
            by_mark, by_cell = self._by_mark(question.request), self._by_cell(question.request)
            found = bytearray(by_mark)
            both = question.shared if question.own == EVERYTHING else question.own
            if EVERYTHING not in (question.shared, question.own):
                both = And((question.shared, question.own))
            for row in steps(self._held.rows(both), "rechecking: the rows that match"):
                if by_mark[row] == _UNMATCHED:
                    found[row] = by_cell[row]
            self._last = {key: bytes(found)}
        return self._last[key]

    def _by_mark(self, request: MeasureRequest) -> bytes:
        """Return the bucket of every row that a mark leaves out; unmatched for the others."""
        marks = self.table.marks
        if marks is None:
            return bytes([_UNMATCHED]) * self.table.length
        by_bits = bytes(_marked_out(bits, request) for bits in range(256))
        return bytes(marks.tolist()).translate(by_bits)

    def _by_cell(self, request: MeasureRequest) -> bytes:
        """Return the bucket of every row by its cells alone."""
        key = (request.kind, request.keep, request.column, request.weight)
        if key not in self._cells:
            measured, weights = self._measured(request)
            found = bytes([_USED]) * self.table.length
            if measured is not None:
                found = _of_cells(request, measured)
            if measured is not None and weights is not None:
                wrong = bytes(isinstance(value, CellError) for value in measured.apart.values)
                beside = _of_cells(request, weights)
                errors = map(wrong.__getitem__, measured.codes)
                found = bytes(map(_of_both, found, beside, errors))
            self._cells[key] = found
        return self._cells[key]

    def _rows_of(self, question: Question) -> Sequence[int]:
        """Return the rows of the line: each different combination of cells is asked once."""
        names = tuple(dict.fromkeys([*names_in(question.place), *(n for n, _ in question.errors)]))
        if not names:
            return range(self.table.length)
        columns = {name: self._column(name).whole for name in names}
        if names not in self._alike:
            alike: dict[tuple[object, ...], list[int]] = {}
            for row, key in enumerate(zip(*(self._column(n).codes for n in names), strict=True)):
                alike.setdefault(key, []).append(row)
            self._alike[names] = alike
            firsts: dict[object, list[tuple[object, ...]]] = {}
            for key in alike:
                firsts.setdefault(key[0], []).append(key)
            self._firsts[names] = firsts
        alike, asked = self._alike[names], rows_asked(question.place, self._column(names[0]).apart)
        keys: Iterable[tuple[object, ...]] = alike
        if asked is not None:
            firsts = self._firsts[names]
            keys = [key for code in dict.fromkeys(asked) for key in firsts.get(code, ())]
        found = [
            rows
            for rows in map(alike.__getitem__, keys)
            if holds(question.place, columns, rows[0])
            and all(str(columns[name].values[rows[0]]) == token for name, token in question.errors)
        ]
        return sorted(row for rows in found for row in rows)

    def _answer(
        self,
        question: Question,
        used: list[Used],
        measured: SpreadColumn | None,
        weights: SpreadColumn | None,
    ) -> Answer:
        request = question.request
        kept = kept_error(request, used, measured, weights)
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


def _marked_out(marks: int, request: MeasureRequest) -> int:
    """Return the bucket of a row that a mark leaves out, else unmatched."""
    for mark, bucket, keep in _MARKS:
        if marks & mark and keep not in request.keep:
            return BUCKETS.index(bucket)
    return _UNMATCHED


def _of_both(bucket: int, beside: int, error: int) -> int:
    """Return the bucket of a cell with a weight beside it; a kept error is used with any."""
    return beside if bucket == _USED and not error else bucket


def _of_cells(request: MeasureRequest, column: SpreadColumn) -> bytes:
    """Return the bucket of a column's matched rows: cells of one type go one way."""
    values = column.apart.values
    by_type = dict(zip(map(type, values), values, strict=True))
    buckets = {
        kind: BUCKETS.index(_of_value(request, column.apart, value))
        for kind, value in by_type.items()
    }
    of_code = [buckets[kind] for kind in map(type, values)]
    return bytes(map(of_code.__getitem__, column.codes))


def _of_value(request: MeasureRequest, column: PlainColumn, value: Plain) -> str:
    """Return the bucket of a matched row by its cell."""
    kind, keep = request.kind, request.keep
    types = wanted(kind, column)
    if value is None:
        kept = Keep.BLANKS in keep and (kind == "distinct" or takes_zero(kind, types))
        return "used" if kept or kind == "distinct or blank" else "blank"
    if isinstance(value, CellError):
        kept = Keep.ERRORS in keep and kind not in ("numbers", "blanks", "errors")
        return "used" if kept else "error"
    return "used" if type(value) in types else "not_a_number"
