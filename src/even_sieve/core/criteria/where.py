"""Criteria as a call gives them: text, nodes, ranges, mappings, or several of these together."""

from collections.abc import Iterable, Mapping, Sequence
from typing import TypeAlias

from even_sieve.core.criteria.grammar import parse_criteria
from even_sieve.core.criteria.nodes import EVERYTHING, And, Condition, Criteria, Not, Or, all_of
from even_sieve.core.criteria.ranges import RangeCriteria, blanks_among, criteria_from_mapping
from even_sieve.core.notices import Code, Notice

OneCriteria: TypeAlias = str | Criteria | RangeCriteria | Mapping[str, object]
Where: TypeAlias = OneCriteria | Iterable[OneCriteria] | None
_SINGLE = (str, Condition, And, Or, Not, RangeCriteria, Mapping)


def read_where(where: Where, columns: Sequence[str]) -> RangeCriteria:
    """Return one criteria, which holds where all the given ones hold, with their notices.

    >>> read_where(["zone = Outer", {"dues": "> 5"}], ["zone", "dues"]).criteria.parts[1].column
    'dues'
    """
    if where is None:
        return RangeCriteria(EVERYTHING)
    given = [where] if isinstance(where, _SINGLE) else list(where)
    read = [_one(each, columns) for each in given if each is not None]
    together = all_of(each.criteria for each in read)
    notices = [notice for each in read for notice in each.notices]
    if len(read) < len(given):
        text = "None among the criteria was passed over: it sets no condition"
        notices.append(Notice(Code.BLANK_AMONG_VALUES, text))
    if together == EVERYTHING:
        text = "the criteria set no condition: every row matches"
        notices.append(Notice(Code.NO_CONDITION, text))
    return RangeCriteria(together, tuple(notices))


def _one(given: OneCriteria, columns: Sequence[str]) -> RangeCriteria:
    if isinstance(given, RangeCriteria):
        return given
    if isinstance(given, str):
        return RangeCriteria(parse_criteria(given, columns))
    if isinstance(given, Mapping):
        read = criteria_from_mapping(given)
        blank = tuple(blanks_among(given))
        return RangeCriteria(EVERYTHING if read is None else read, blank)
    if not isinstance(given, Condition | And | Or | Not):
        raise TypeError(
            f"criteria cannot be made from {type(given).__name__}\n"
            'Give text, nodes such as field("zone") == "Outer", a mapping of columns to '
            "conditions, or what read_criteria returns"
        )
    return RangeCriteria(given)
