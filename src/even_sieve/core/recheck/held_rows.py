"""For which rows criteria hold: each different cell of a column is asked once."""

from collections import Counter
from collections.abc import Callable, Sequence
from itertools import compress

from even_sieve.core.criteria.conditions import Compared, OneOf
from even_sieve.core.criteria.nodes import EVERYTHING, And, Condition, Criteria, Not, conditions
from even_sieve.core.criteria.operands import Number, Operand, OtherColumn, Text
from even_sieve.core.progress import steps
from even_sieve.core.recheck.matching import as_taken, holds
from even_sieve.core.recheck.plain_cells import PlainColumn, SpreadColumn, same

#: So many bytes of answers are kept.
_MOST_KEPT = 1 << 26

#: From so many questions for its texts on the rows of each of a column's cells are listed.
_FEW = 8
#: What is told of going through the rows, or through the different cells of a column.
_TELLING = "rechecking: what the criteria hold for"


class HeldRows:
    """Answers criteria on the columns of one table of so many rows; keeps what it found."""

    def __init__(self, length: int, column: Callable[[str], SpreadColumn]) -> None:
        self.length, self._column = length, column
        self._found: dict[Criteria, bytes] = {}
        self._asked: Counter[str] = Counter()

    def rows(self, criteria: Criteria) -> Sequence[int]:
        """Return the rows for which they hold, from 0, ascending."""
        every = range(self.length)
        return every if criteria == EVERYTHING else list(compress(every, self.flags(criteria)))

    def flags(self, criteria: Criteria) -> bytes:
        """Return a byte for each row: 1 where the criteria hold, else 0."""
        found = self._found.get(criteria)
        if found is None:
            if len(self._found) * self.length > _MOST_KEPT:
                self._found.clear()
            found = self._found[criteria] = self._flags(criteria)
        return found

    def _flags(self, criteria: Criteria) -> bytes:
        if isinstance(criteria, Condition):
            if any(True for _ in other_columns(criteria)):
                return self._by_row(criteria)
            return _opposite(self._by_cell(criteria), criteria.negated)
        if isinstance(criteria, Not):
            return _opposite(self.flags(criteria.part), True)
        both = isinstance(criteria, And)
        found = int.from_bytes(bytes([both]) * self.length)  # as one long number, a byte a row
        for part in criteria.parts:
            more = int.from_bytes(self.flags(part))
            found = found & more if both else found | more
        return found.to_bytes(self.length)

    def _by_row(self, condition: Condition) -> bytes:
        names = (condition.column, *other_columns(condition))
        columns = {name: self._column(name).whole for name in names}
        return bytes(holds(condition, columns, row) for row in steps(range(self.length), _TELLING))

    def _by_cell(self, condition: Condition) -> bytes:
        """Return where a condition holds as if no `not` stood before it."""
        column = self._column(condition.column)
        texts = _texts_asked(condition, column)
        if texts is None:
            asked = Condition(condition.column, condition.test)
            columns = {condition.column: column.apart}
            held = bytes(
                holds(asked, columns, code)
                for code in steps(range(len(column.apart.cells)), _TELLING)
            )
            return bytes(map(held.__getitem__, column.codes))
        codes = [code for text in texts for code in column.apart.texts.get(text, ())]
        self._asked[condition.column] += 1
        if self._asked[condition.column] <= _FEW:
            wanted = bytearray(len(column.apart.cells))
            for code in codes:
                wanted[code] = 1
            return bytes(map(wanted.__getitem__, column.codes))
        found = bytearray(self.length)
        for code in codes:
            for row in column.rows[code]:
                found[row] = 1
        return bytes(found)


def other_columns(condition: Condition) -> list[str]:
    """Return the names of the columns that a condition compares its own with."""
    test = condition.test
    values: tuple[Operand, ...] = test.values if isinstance(test, OneOf) else ()
    values = (test.value,) if isinstance(test, Compared) else values
    return [value.name for value in values if isinstance(value, OtherColumn)]


def names_in(criteria: Criteria) -> list[str]:
    """Return the names of all columns that criteria ask."""
    return [name for each in conditions(criteria) for name in (each.column, *other_columns(each))]


def _texts_asked(condition: Condition, column: SpreadColumn) -> list[str] | None:
    """Return what equal texts have in common with those asked; None if not only texts are."""
    if not isinstance(condition.test, OneOf):
        return None
    taken = [as_taken(each, column.apart) for each in condition.test.values]
    return (
        [same(each.text) for each in taken if isinstance(each, Text)]
        if all(isinstance(each, Text) for each in taken)
        else None
    )


def rows_asked(criteria: Criteria, column: PlainColumn) -> list[int] | None:
    """Return rows of a column of which all that criteria can hold for are some; None for any.

    These are the ones that are equal to what a condition asks, where there is one.
    """
    for each in criteria.parts if isinstance(criteria, And) else (criteria,):
        if not isinstance(each, Condition) or each.column != column.name or each.negated:
            continue
        taken = [
            as_taken(value, column)
            for value in (each.test.values if isinstance(each.test, OneOf) else ())
        ]
        equal = [
            column.texts.get(same(value.text), [])
            if isinstance(value, Text)
            else column.numbers.get(float(value.value), [])
            for value in taken
            if isinstance(value, Text | Number)
        ]
        if taken and len(equal) == len(taken):
            return [row for rows in equal for row in rows]
    return None


def _opposite(flags: bytes, turned: bool) -> bytes:
    return flags.translate(b"\x01\x00" + bytes(254)) if turned else flags
