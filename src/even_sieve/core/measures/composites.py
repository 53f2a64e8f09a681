"""Measures worked out from other measures, and how they are written.

    ratio of MEASURE to MEASURE            difference of MEASURE and MEASURE
    change of MEASURE                      relative change of MEASURE
    running total of MEASURE

A measure inside is written out, or is the name of another one of the same request.
"""

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace

from even_sieve.core.cells import fold
from even_sieve.core.cells.quoting import for_example, hide_quoted, match_unquoted, unquoted
from even_sieve.core.errors import MeasureError, closest
from even_sieve.core.measures.request import MeasureRequest, parse_measure, split_name
from even_sieve.core.measures.signatures import ALL
from even_sieve.core.understood import called

#: What each combination is, and the word between its two measures, if it takes two.
COMPOSITES: dict[str, tuple[str, str]] = {
    "ratio": ("the first figure over the second", "to"),
    "difference": ("the first figure less the second", "and"),
    "change": ("the figure less that of the period before", ""),
    "relative change": ("the change over the figure of the period before", ""),
    "running total": ("the figures of the lines up to this one, added up", ""),
}
_HEAD = re.compile(rf"({'|'.join(COMPOSITES)})\s+of\s+(.+)\Z", re.IGNORECASE | re.DOTALL)


def parse_measures(
    asked: Iterable[str | MeasureRequest], columns: tuple[str, ...] = ()
) -> list[MeasureRequest]:
    """Return the measures that the texts write out, in their order.

    Raises `MeasureError` as `parse_measure` does, and for a measure inside another one that
    is neither a measure nor the name of one.

    >>> dues, tons, rate = parse_measures(
    ...     ["dues = sum of dues", "tons = sum of tonnage", "ratio of dues to tons"])
    >>> rate.parts == (dues, tons), rate.words
    (True, 'ratio of dues to tons')
    """
    found: list[MeasureRequest | str] = []
    for each in asked:
        if not isinstance(each, str | MeasureRequest):
            raise TypeError(
                f"a measure is a text such as 'sum of {columns[0] if columns else 'dues'}', "
                f"not {called(each)}"
            )
        combined = isinstance(each, str) and _HEAD.match(hide_quoted(split_name(each, columns)[1]))
        found.append(
            parse_measure(each, columns) if isinstance(each, str) and not combined else each
        )
    known = [each for each in found if isinstance(each, MeasureRequest)]
    done: list[MeasureRequest] = []
    for each in found:
        if isinstance(each, str):
            each = _read(each, known, columns)
            known.append(each)
        done.append(each)
    return done


def leaves(requests: Iterable[MeasureRequest]) -> Iterator[MeasureRequest]:
    """Yield the measures of rows that the measures are, or are worked out from."""
    for request in requests:
        if request.parts:
            yield from leaves(request.parts)
        else:
            yield request


def _read(text: str, known: Sequence[MeasureRequest], columns: tuple[str, ...]) -> MeasureRequest:
    name, rest = split_name(text, columns)
    head = match_unquoted(_HEAD, rest)
    if head is None:
        raise RuntimeError("the text was taken for a combination")
    kind, inside = " ".join(head[0].lower().split()), head[1]
    joint = COMPOSITES[kind][1]
    if not joint:
        part = _part(text, inside, known, columns)
        return _named(name, MeasureRequest(kind, parts=(part,)), rest)
    problem: MeasureError | None = None
    for cut in re.finditer(rf"\s+{joint}\s+", hide_quoted(inside), re.IGNORECASE):
        try:
            parts = tuple(
                _part(text, side, known, columns)
                for side in (inside[: cut.start()], inside[cut.end() :])
            )
        except MeasureError as error:
            problem = problem or error
            continue
        return _named(name, MeasureRequest(kind, parts=parts), rest)
    if problem is not None:
        raise problem
    first, second = for_example(columns, "dues", "tonnage")
    hint = f"Write for example: {kind} of sum of {first} {joint} sum of {second}"
    raise MeasureError(text, f"'{kind}' needs two measures with '{joint}' between them", hint)


def _named(name: str, request: MeasureRequest, rest: str) -> MeasureRequest:
    return replace(request, name=name or " ".join(rest.split()))


def _part(
    text: str, side: str, known: Sequence[MeasureRequest], columns: tuple[str, ...]
) -> MeasureRequest:
    """Return the measure of that name, or that is written out."""
    side = side.strip()
    hint = f"Write for example: sum of {for_example(columns, 'dues')[0]}"
    name = fold(unquoted(side))
    for request in known:
        if fold(request.name) == name:
            return request
    try:
        found = parse_measure(side, columns)
        if found.kind == ALL:
            fact = f"'{side}' stands for many figures, and one is needed"
            raise MeasureError(text, fact, hint)
        return found
    except MeasureError as error:
        near = closest(side, [request.name for request in known]) or error.suggestions
        fact = f"'{side}' is no measure, and no name of one"
        raise MeasureError(text, fact, hint, near) from None
