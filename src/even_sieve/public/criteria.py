"""Criteria as a call gives them: text, nodes, ranges, or several of these together."""

from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import TypeAlias

from even_sieve.core.criteria import (
    EVERYTHING,
    Criteria,
    RangeCriteria,
    all_of,
    criteria_from_range,
    parse_criteria,
)
from even_sieve.core.notices import Code, Notice
from even_sieve.sources.csv import read_plain_rows
from even_sieve.sources.files import read_bytes

OneCriteria: TypeAlias = str | Criteria | RangeCriteria
Where: TypeAlias = OneCriteria | Iterable[OneCriteria] | None


def read_criteria(path: str | Path) -> RangeCriteria:
    """Return the criteria laid out in a CSV file: column names, below them rows of conditions.

    Across a row all must hold; the rows are alternatives; a blank cell sets no condition.
    """
    return criteria_from_rows(read_bytes(Path(path)), str(path))


def criteria_from_rows(content: bytes, source: str) -> RangeCriteria:
    """Return the criteria laid out in the bytes of a CSV file that is called `source`."""
    rows = read_plain_rows(content, source)
    (_, header), below = rows[0], rows[1:]
    return criteria_from_range(
        header,
        [record for _, record in below],
        source=source,
        numbers=[number for number, _ in below],
    )


def read_where(where: Where, columns: Sequence[str]) -> RangeCriteria:
    """Return one criteria, which holds where all the given ones hold, with their notices."""
    if where is None:
        return RangeCriteria(EVERYTHING)
    given = [where] if isinstance(where, OneCriteria) else list(where)
    read = [_one(each, columns) for each in given]
    together = all_of(each.criteria for each in read)
    notices = [notice for each in read for notice in each.notices]
    if given and together == EVERYTHING:
        text = "the criteria set no condition: every row matches"
        notices.append(Notice(Code.NO_CONDITION, text))
    return RangeCriteria(together, tuple(notices))


def _one(given: OneCriteria, columns: Sequence[str]) -> RangeCriteria:
    if isinstance(given, RangeCriteria):
        return given
    if isinstance(given, str):
        return RangeCriteria(parse_criteria(given, columns))
    return RangeCriteria(given)
