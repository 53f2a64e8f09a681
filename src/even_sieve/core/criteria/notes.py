"""What is worth knowing of one condition on one column, gathered while it is bound."""

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cache

from even_sieve.core.cells import Kind, looks_like_date, looks_like_number, looks_like_time
from even_sieve.core.cells.likeness import Likeness
from even_sieve.core.criteria.meant import meant
from even_sieve.core.criteria.nodes import Condition
from even_sieve.core.criteria.operands import (
    Number,
    Operand,
    Pattern,
    Text,
    Window,
    periods_meant,
    read_plain,
)
from even_sieve.core.criteria.spelt_alike import spelt_alike
from even_sieve.core.criteria.writing import write_value
from even_sieve.core.notices import Code, Notice, counted, times_words
from even_sieve.core.table import Column
from even_sieve.core.table.how_to_read import days_counted, options_to_read
from even_sieve.core.table.lanes import TextLane
from even_sieve.core.table.likes import count_like

#: How many remarks of one kind a condition brings, and how often the closest value is sought.
_MOST_ALIKE, _MOST_SOUGHT = 10, 50
#: Of so many letters at the most are the words of a condition.
LONGEST_WORDS = 300


@dataclass(frozen=True)
class Remark:
    """A fact about a condition; `hopeless` if because of it a value can match nothing.

    `more` is what takes time to find out, and is found out when the notice is wanted.
    """

    code: Code
    fact: str
    hopeless: bool = True
    more: Callable[[], str] | None = field(default=None, compare=False)

    def notice(self, condition: Condition, words: str) -> Notice:
        """Return the remark as a notice on the condition as it stands, in these words."""
        verdict = ""
        if self.hopeless:
            verdict = (
                "it leaves no row out, for " if condition.negated else "no row can match, for "
            )
        words = words if len(words) <= LONGEST_WORDS else f"{words[:LONGEST_WORDS]}…"
        more = "" if self.more is None else self.more()
        return Notice(self.code, f"{words}: {verdict}{self.fact}{more}")


class Remarks:
    """Gathers the remarks on one condition at a time: `begin`, facts, `end`."""

    def __init__(self) -> None:
        self._found: list[Remark] = []
        self._more: Counter[Code] = Counter()
        self._column: Column | None = None
        self._sought = 0

    def begin(self, column: Column) -> None:
        """Start on a condition that asks this column."""
        self._column, self._found, self._more = column, [], Counter()

    def end(self) -> tuple[Remark, ...]:
        """Return the remarks since `begin`; of many of one kind the first, and how many more."""
        more = [
            Remark(code, f"the same goes for {counted(count - _MOST_ALIKE, 'more value')}", False)
            for code, count in self._more.items()
            if count > _MOST_ALIKE
        ]
        return (*dict.fromkeys(self._found), *more)

    def wrong_kind(self, wanted: Kind, value: Operand | None) -> None:
        """Note that the column holds none of the kind that the value is of."""
        column = self._known()
        shown = "" if value is None else f"{write_value(value)} "
        text = f"{shown}is {_ONE[wanted]} and column '{column.name}' holds {column.words}"
        like = count_like(column, _LIKE[wanted]) if wanted in _LIKE else 0
        if like:
            text += f"; {like} of its texts look like {wanted.words} but are text"
            option = options_to_read(column) if wanted is Kind.NUMBER else ""
            text += f"; to have them as numbers: {option}" if option else ""
        elif wanted is Kind.DATE and column.leading is Kind.NUMBER:
            hint = days_counted(column)
            text += f"; {hint}" if hint else ""
        elif wanted is Kind.TEXT and isinstance(value, Text):
            text += _meant_hint(value, column) or _unquoted_hint(value, column)
        self._note(Code.NO_ROW_CAN_MATCH, text)

    def text_beside(self, wanted: Kind) -> None:
        """Note that texts in the column look like what is asked for and are not reached."""
        column = self._known()
        count = count_like(column, _LIKE[wanted]) if wanted in _LIKE else 0
        if not count:
            return
        code = Code.TEXT_LIKE_NUMBERS if wanted is Kind.NUMBER else Code.TEXT_LIKE_DATES
        self._note(
            code,
            f"{counted(count, 'cell')} of column '{column.name}' "
            f"{'holds' if count == 1 else 'hold'} text that looks "
            f"like {wanted.words}; "
            "text is not compared with them",
            hopeless=False,
        )

    def wildcard_beside(self, pattern: Pattern) -> None:
        """Note that wildcards were asked of a column that is mostly numbers or dates."""
        column = self._known()
        if column.leading is Kind.NUMBER:
            self._note(
                Code.WILDCARD_ON_NUMBERS,
                f"column '{column.name}' holds {column.words}, and {write_value(pattern)} "
                "is compared with its text alone, never with its numbers",
                hopeless=False,
            )

    def no_common_kind(self, other: Column) -> None:
        """Note that two columns that are compared hold nothing of one kind."""
        column = self._known()
        self._note(
            Code.NO_ROW_CAN_MATCH,
            f"column '{column.name}' holds {column.words} "
            f"and column '{other.name}' holds {other.words}",
        )

    def not_held(self, value: Text, lane: TextLane) -> None:
        """Note that no row holds the text, and which one comes closest."""
        self._sought += 1
        sought = self._sought <= _MOST_SOUGHT and self._more[Code.VALUE_NOT_FOUND] < _MOST_ALIKE
        column = self._known()

        @cache
        def hint() -> str:
            other = _meant_hint(value, column)
            if other:
                return other
            near = spelt_alike(value.text, lane) if sought else ""
            if near:
                return near
            ordered = any(kind in (Kind.NUMBER, Kind.DATE) for kind in column.counts)
            return _unquoted_hint(value, column) if ordered else ""

        fact = f"no row holds '{value.text}' in column '{column.name}'"
        self._note(Code.VALUE_NOT_FOUND, fact, more=hint)

    def pattern_not_held(self, pattern: Pattern) -> None:
        """Note that no text of the column matches the pattern."""
        self._note(
            Code.VALUE_NOT_FOUND,
            f"no text in column '{self._known().name}' matches {write_value(pattern)}",
        )

    def wildcard_without_text(self, pattern: Pattern) -> None:
        """Note that wildcards were asked of a column without text."""
        column = self._known()
        numbers = Kind.NUMBER in column.counts
        code = Code.WILDCARD_ON_NUMBERS if numbers else Code.NO_ROW_CAN_MATCH
        hint = "; compare numbers with <, > or a window such as 100..199" if numbers else ""
        self._note(
            code,
            f"wildcards such as {write_value(pattern)} "
            f"match text and column '{column.name}' holds {column.words}{hint}",
        )

    def as_text(self, value: Text) -> None:
        """Note that what looks like a number or a date is put in order as text."""
        column = self._known()
        looks = looks_like_number(value.text) or looks_like_date(value.text)
        count = sum(count_like(column, each) for each in _LIKE.values())
        if not looks and not count:
            return
        hint = f"; {count} of its texts look like numbers or dates" if count else ""
        self._note(
            Code.COMPARED_AS_TEXT,
            f"'{value.text}' is compared as text, letter by letter: column '{column.name}' holds "
            f"{column.words}{hint}; see --decimal and --date-order",
            hopeless=False,
        )

    def times_as_text(self, value: Text) -> None:
        """Note that a time is put in order as text where letters put times in another order."""
        column = self._known()
        pair = column.times_out_of_order(value.text) if looks_like_time(value.text) else None
        if pair is not None:
            self._note(Code.COMPARED_AS_TEXT, times_words(column.name, pair), hopeless=False)

    def read_two_ways(self, value: Number, found: Number) -> None:
        """Note that a value was read as the file writes numbers, and could be another one."""
        column = self._known()
        self._note(
            Code.READ_TWO_WAYS,
            f"'{value.text}' was read as {found.value:f}, as column '{column.name}' writes "
            f"numbers, and not as {value.value:f}",
            hopeless=False,
        )

    def reversed_window(self, window: Window) -> None:
        """Note that a window ends before it starts."""
        self._note(
            Code.WINDOW_REVERSED,
            f"the window {write_value(window)} ends before it starts; turn its ends round",
        )

    def mixed_window(self, window: Window) -> None:
        """Note that a window goes from a number to a date, or the like."""
        self._note(
            Code.NO_ROW_CAN_MATCH,
            f"the ends of {write_value(window)} are of two kinds",
        )

    def _note(
        self,
        code: Code,
        fact: str,
        *,
        hopeless: bool = True,
        more: Callable[[], str] | None = None,
    ) -> None:
        self._more[code] += 1
        if self._more[code] <= _MOST_ALIKE:
            self._found.append(Remark(code, fact, hopeless, more))

    def _known(self) -> Column:
        if self._column is None:
            raise RuntimeError("remarks are made between begin and end")
        return self._column


#: What texts may be like that are of a kind that is asked for.
_LIKE = {Kind.NUMBER: Likeness.NUMBER, Kind.DATE: Likeness.DATE}
_ONE = {
    Kind.NUMBER: "a number",
    Kind.DATE: "a date",
    Kind.TEXT: "text",
    Kind.YES_NO: "a yes/no",
}


def _meant_hint(value: Text, column: Column) -> str:
    """Return how that is written which a text seems to be meant as."""
    other = meant(value.text, column)
    return f"; {other}" if other else ""


def _unquoted_hint(value: Text, column: Column) -> str:
    """Return what to do about a quoted number, or a period that is misspelt."""
    if not value.bare and not isinstance(read_plain(value.text), Text):
        return "; a value in quotes is text: leave the quotes off"
    if Kind.DATE in column.counts:
        near = periods_meant(value.text)
        return f"; did you mean '{near[0]}'?" if near else ""
    return ""
