"""Notices: what an analyst should know about a figure. Data, never prints.

Every code stands here once, so that a program can rely on it.
"""

import shlex
from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, field
from enum import StrEnum


class Code(StrEnum):
    """The stable code of each notice.

    >>> import even_sieve
    >>> calls = even_sieve.table_from({"zone": ["Outer", "Inner"], "dues": [120, 80]})
    >>> even_sieve.Code.VALUE_NOT_FOUND in {
    ...     notice.code for notice in calls.tally("rows", where="zone = Outr").notices
    ... }
    True
    """

    TEXT_LIKE_NUMBERS = "text-that-looks-like-numbers"
    TEXT_LIKE_DATES = "text-that-looks-like-dates"
    OFFSET_TO_UTC = "offset-brought-to-utc"
    MIXED_OFFSETS = "mixed-time-offsets"
    READ_AS_SAID = "read-as-said"
    UNNAMED_COLUMN = "unnamed-column"
    ENCODING_GUESSED = "encoding-guessed"
    SHEET_CHOSEN = "sheet-chosen"
    HEADER_FOUND = "header-found"
    MERGED_CELLS = "cells-merged-into-others"
    GOES_ON = "cells-right-below-not-read"
    OUTSIDE_TABLE = "cells-outside-not-read"
    PASSED_OVER = "not-read-and-passed-over"
    NO_ROWS = "source-without-rows"
    TWIN_FILES = "same-file-twice"
    HIDDEN_SHEET = "hidden-sheet"
    BLANK_LINES = "blank-lines-passed-over"
    MAYBE_THOUSANDS = "points-may-part-thousands"
    WRITTEN_NUMBERS = "written-numbers"
    MIXED_CURRENCIES = "mixed-currency-signs"
    TIMES_CUT = "times-cut-to-microseconds"
    DIGITS_LOST = "digits-beyond-those-kept"
    COLUMN_LEFT_OUT = "column-left-out"
    NOTHING_USED = "nothing-used"
    NO_NUMBERS = "no-numbers-in-column"
    OTHER_KINDS = "other-kinds-left-out"
    SUBTOTALS_KEPT = "subtotals-kept"
    MANY_EXTREMES = "extreme-on-many-rows"
    SMALL_PERCENTAGE = "percentage-below-one"
    MEDIAN_BETWEEN = "median-between-two"
    MODE_TIES = "mode-ties"
    BEYOND_THE_LINE = "lines-hold-more-than-their-rows"
    BEFORE_IS_AMONG_OTHERS = "period-before-among-the-others"
    FIRST_LINES = "first-lines-alone"
    LINES_OVERLAP = "lines-overlap"
    IN_NO_LINE = "in-no-line"
    BLANK_RANGE_ROW = "blank-criteria-row"
    NO_CONDITION = "no-condition"
    MARKS_NO_ROW = "mark-on-no-row"
    MARKS_EVERY_ROW = "mark-on-every-row"
    TOTAL_OFF = "total-does-not-add-up"
    UNSURE_SUBTOTALS = "unsure-subtotals"
    DOUBLE_COUNTING = "possible-double-counting"
    BLANK_AMONG_VALUES = "blank-among-values"
    BLANK_PARAMETER = "blank-parameter"
    NO_ROW_CAN_MATCH = "no-row-can-match"
    LOOK_ALIKES = "values-that-look-alike"
    HEADER_AGAIN = "header-among-rows"
    VALUE_NOT_FOUND = "value-not-found"
    WILDCARD_ON_NUMBERS = "wildcard-on-numbers"
    COMPARED_AS_TEXT = "compared-as-text"
    READ_TWO_WAYS = "value-read-as-the-file-writes"
    WINDOW_REVERSED = "window-reversed"
    ALTERNATIVE_CONTAINED = "alternative-contained"
    EXCLUSION_SWALLOWED = "exclusion-swallowed"
    ERRORS_IN_CRITERIA_COLUMN = "errors-in-criteria-column"
    EMPTIED_BY = "emptied-by-condition"
    ROWS_UNREAD = "rows-left-unread"


#: What is told for information alone: these codes cast no doubt on a figure.
INFORMATION = frozenset({
    Code.HEADER_FOUND, Code.READ_AS_SAID, Code.WRITTEN_NUMBERS, Code.MANY_EXTREMES,
    Code.MEDIAN_BETWEEN, Code.MODE_TIES, Code.FIRST_LINES, Code.BEYOND_THE_LINE,
    Code.BEFORE_IS_AMONG_OTHERS, Code.ROWS_UNREAD, Code.OUTSIDE_TABLE,
})  # fmt: skip


@dataclass(frozen=True)
class Notice:
    """One thing to know: a stable `code`, a `text` to read, and `counts` for a program.

    >>> from even_sieve import table_from
    >>> (found,) = table_from({"zone": ["Outer"]}).tally("rows", where="zone = Outr").notices
    >>> str(found.code), found.text.split("; ")[-1]
    ('value-not-found', "the closest is 'Outer'")
    """

    code: Code
    text: str
    counts: dict[str, int] = field(default_factory=dict, compare=False)

    def as_dict(self) -> dict[str, object]:
        """Return the notice as JSON has it: `code`, `text`, and `counts` where there are any."""
        plain: dict[str, object] = {"code": str(self.code), "text": self.text}
        return plain | ({"counts": dict(self.counts)} if self.counts else {})


def counted(count: int, noun: str) -> str:
    """Return a count with its noun: `1 row`, `1,200 rows`."""
    return f"{count:,} {noun}" if count == 1 else f"{count:,} {noun}s"


def each_once(notices: Iterable[Notice]) -> tuple[Notice, ...]:
    """Return the notices in order, without repeats."""
    return tuple(dict.fromkeys(notices))


#: Of more notices of one kind than this the first ones are shown, and how many more there are.
_MOST_ALIKE, _FIRST_SHOWN = 6, 3


def words_of(told: Iterable[tuple[str, str]]) -> list[str]:
    """Return the texts of what is told, each a code with its text; of many of a code the first.

    >>> words_of([("a", f"file {each}: cut") for each in range(9)])[2:]
    ['file 2: cut', 'and 6 more of this kind (all are in the JSON)']
    """
    every = list(dict.fromkeys(told))
    counts = Counter(code for code, _ in every)
    found: list[str] = []
    met: Counter[str] = Counter()
    for code, text in every:
        met[code] += 1
        if counts[code] <= _MOST_ALIKE or met[code] <= _FIRST_SHOWN:
            found.append(text)
        elif met[code] == _FIRST_SHOWN + 1:
            more = counts[code] - _FIRST_SHOWN
            found.append(f"and {more:,} more of this kind (all are in the JSON)")
    return found


def texts_of(notices: Iterable[Notice]) -> list[str]:
    """Return the texts of notices for a person, of many of one kind the first ones."""
    return words_of((str(each.code), each.text) for each in notices)


def times_words(column: str, pair: tuple[str, str]) -> str:
    """Return that texts of a column look like times, and that letters put these two wrongly."""
    first, second = pair
    return (
        f"column '{column}' holds text that looks like times and is put in order letter by "
        f"letter: '{first}' stands before '{second}'; {seconds_hint(column)}"
    )


def seconds_hint(column: str) -> str:
    """Return how times of a column, which are text, come to be numbers."""
    return f"to have numbers: --derive {shlex.quote(f'seconds = seconds of {column}')}"
