"""A measure as it is asked for, and the one grammar in which it is written.

[NAME =] KIND [of COLUMN] [by COLUMN] [where CRITERIA] [keep hidden, errors, …]
    [regardless of COLUMN, …]
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from decimal import Decimal
from enum import StrEnum

from even_sieve.core.cells.quoting import (
    for_example,
    hide_quoted,
    match_unquoted,
    quoted,
    split_unquoted,
    unquoted,
)
from even_sieve.core.criteria import Criteria, parse_criteria
from even_sieve.core.errors import CallError, MeasureError, closest
from even_sieve.core.measures.signatures import (
    ALL,
    KINDS,
    accepted,
    kind_of_words,
    read_number,
    usual_words,
)


class Keep(StrEnum):
    """What is left out of a measure unless it is told to keep it."""

    SUBTOTALS = "subtotals"
    HIDDEN = "hidden"
    FILTERED = "filtered"
    BLANKS = "blanks"
    ERRORS = "errors"


@dataclass(frozen=True)
class MeasureRequest:
    """One measure: its kind, its column if the kind takes one, and what narrows it.

    `number` is the K of `largest K`, the P of `percentile P`, the Q of `quartile Q`; `way`
    the definition it follows, empty for the usual one; `weight` the column of weights;
    `regardless` the columns of which the context counts for nothing, `everything` for all.
    `parts` are the measures that it is worked out from, if it is not one of rows.
    `name` is what the figure is called: the words of the measure unless it was given one.
    `where_words` are its criteria as they were written.
    """

    kind: str
    column: str | None = None
    where: Criteria | None = None
    keep: frozenset[Keep] = frozenset()
    name: str = ""
    number: Decimal | None = None
    way: str = ""
    weight: str | None = None
    regardless: tuple[str, ...] = ()
    parts: tuple["MeasureRequest", ...] = ()
    where_words: str = field(default="", compare=False)

    @property
    def stem(self) -> str:
        """What stands before the column: `percentile 90 exclusive`."""
        number = "" if self.number is None else f"{self.number:f}"
        return " ".join(filter(None, (self.kind, number, self.way)))

    @property
    def words(self) -> str:
        """The measure without what narrows it: `sum of dues`."""
        if self.parts:
            joint = {"ratio": " to ", "difference": " and "}.get(self.kind, "")
            return f"{self.kind} of {joint.join(part.name for part in self.parts)}"
        of = "" if self.column is None else f" of {self._spelt(self.column)}"
        by = "" if self.weight is None else f" by {self._spelt(self.weight)}"
        return f"{self.stem}{of}{by}"

    def _spelt(self, column: str) -> str:
        """Return a column's name, in quotes where its `by` could be taken for the measure's."""
        return quoted(column) if self.weight is not None and " by " in column else column


_WHERE = re.compile(r"\swhere\s", re.IGNORECASE)
_REGARDLESS = re.compile(
    r"\sregardless\s+of\s+(.+?)(?=\s+where\s|\s+keep\s|\Z)", re.IGNORECASE | re.DOTALL
)
_KEEP = re.compile(r"\skeep\s", re.IGNORECASE)
_OF = re.compile(r"(.*?)(?:\s+of(?:\s+(.*))?)?\Z", re.IGNORECASE | re.DOTALL)
_BY = re.compile(r"(.*?\S)\s+by\s+(\S.*)\Z", re.IGNORECASE | re.DOTALL)
#: The kinds for which a blank is what it is, kept or not.
_BLANKS_APART = frozenset({
    "rows", "numbers", "filled", "blanks", "errors", "distinct or blank", "first", "last",
})  # fmt: skip
_SINGULAR = {"subtotal": "subtotals", "blank": "blanks", "error": "errors"}


def parse_measure(text: str, columns: tuple[str, ...] = ()) -> MeasureRequest:
    """Return the measure that the text writes out.

    Raises `MeasureError` with the closest kinds, or `CriteriaError` for its own criteria.

    >>> parse_measure("late dues = sum of dues where status = late keep hidden").words
    'sum of dues'
    """
    name, rest = split_name(text, columns)
    rest, regardless = _split_regardless(rest)
    rest, keep = _split_keep(text, rest)
    head, words = _split_where(rest)
    where = parse_criteria(words, columns) if words else None
    read = _read_head(text, head, columns)
    if Keep.BLANKS in keep and read.kind in _BLANKS_APART:
        raise MeasureError(
            text,
            f"'keep blanks' does nothing for {read.kind}",
            "It counts blanks as zeros among numbers, as a value among different ones; "
            "to count them write: blanks of a column",
        )
    default = " ".join(rest.split()) if where is not None else read.words
    if regardless:
        default = f"{default} regardless of {', '.join(regardless)}"
    return replace(
        read,
        where=where,
        keep=keep,
        name=name or default,
        regardless=regardless,
        where_words=words,
    )


def split_name(text: str, columns: Sequence[str] = ()) -> tuple[str, str]:
    """Split off `NAME =`: an equal sign before any `where`, and a kind after it."""
    plain = hide_quoted(text)
    where = _WHERE.search(plain)
    equal = plain.find("=", 0, where.start() if where else len(text))
    if equal < 0:
        return "", text.strip()
    name = unquoted(text[:equal])
    if not name:
        (column,) = for_example(columns, "dues")
        hint = f"Write for example: total = sum of {column}"
        raise MeasureError(text, "a name is missing before '='", hint)
    return name, text[equal + 1 :].strip()


def _split_regardless(rest: str) -> tuple[str, tuple[str, ...]]:
    """Split off `regardless of …`, which ends at a `where`, a `keep`, or the end."""
    found = _REGARDLESS.search(hide_quoted(rest))
    if found is None:
        return rest, ()
    listed = split_unquoted(rest[found.start(1) : found.end(1)], ",")
    names = tuple(unquoted(name) for name in listed if name.strip())
    return f"{rest[: found.start()]} {rest[found.end() :]}".strip(), names


def _split_keep(text: str, rest: str) -> tuple[str, frozenset[Keep]]:
    found = list(_KEEP.finditer(hide_quoted(rest)))
    if not found:
        return rest, frozenset()
    last = found[-1]
    words = re.split(r"[,\s]+(?:and\s+)?", rest[last.end() :].strip())
    if _WHERE.search(hide_quoted(rest[: last.start()]) + " ") and not _all_known(words):
        return rest, frozenset()  # the word stands inside the criteria
    return rest[: last.start()].rstrip(), parse_keep(words, text)


def _all_known(words: list[str]) -> bool:
    known = {each.value for each in Keep} | set(_SINGULAR)
    return all(word.lower() in known for word in words)


def parse_keep(words: list[str], text: str = "") -> frozenset[Keep]:
    """Return what the words tell to keep, of a measure with that text, if of one.

    Raises `MeasureError`, or `CallError` where there is no measure, with the accepted words.
    """
    kept = set()
    for word in filter(None, (each.strip().lower() for each in words)):
        try:
            kept.add(Keep(_SINGULAR.get(word, word)))
        except ValueError:
            accepted = ", ".join(Keep)
            if text:
                raise MeasureError(
                    text, f"cannot keep '{word}'", f"Accepted are {accepted}"
                ) from None
            raise CallError(f"keep: '{word}' is nothing to keep\nAccepted are {accepted}") from None
    return frozenset(kept)


def _split_where(rest: str) -> tuple[str, str]:
    """Return what stands before `where`, and the criteria after it; empty without one."""
    where = _WHERE.search(hide_quoted(f"{rest} "))
    if where is None:
        return rest, ""
    return rest[: where.start()], rest[where.end() :].strip() or " "


def _read_head(text: str, head: str, columns: Sequence[str]) -> MeasureRequest:
    """Return the kind with its number, way, column and weight."""
    head = head.strip()
    found = _OF.match(hide_quoted(head))
    before, column = (head, None) if found is None else (found[1], None)
    if found is not None and found.end(1) < len(head):
        column = head[found.start(2) : found.end(2)] if found[2] is not None else ""
    words = before.lower().split()
    if words == [ALL]:
        return _whole_set(text, column, columns)
    if words == ["count"] and column is not None:
        hint = f"Write numbers of {column} for cells with a number, filled of {column} for all"
        raise MeasureError(text, "'count of' could count numbers, or all that is filled", hint)
    words = usual_words(words) if kind_of_words(words) is None else words
    kind = kind_of_words(words)
    if kind is None:
        raise MeasureError(
            text,
            f"no measure '{' '.join(words)}'" if words else "a measure is missing",
            f"The measures are: {', '.join(KINDS)}",
            closest(" ".join(words), KINDS) or (closest(words[0], KINDS) if words else ()),
        )
    example = KINDS[kind].example(kind, *for_example(columns, "dues", "tonnage"))
    number, way = _number_and_way(text, kind, words[len(kind.split()) :], example)
    column, weight = _columns(text, kind, column, example)
    return MeasureRequest(kind, column, number=number, way=way, weight=weight)


def _whole_set(text: str, column: str | None, columns: Sequence[str]) -> MeasureRequest:
    if not column:
        (name,) = for_example(columns, "dues")
        raise MeasureError(text, "'all' needs a column", f"Write for example: all of {name}")
    return MeasureRequest(ALL, unquoted(column))


def _number_and_way(
    text: str, kind: str, words: list[str], example: str
) -> tuple[Decimal | None, str]:
    form, number = KINDS[kind], None
    if form.number:
        number = read_number(form.number, words[0]) if words else None
        if number is None:
            got = f", not '{words[0]}'" if words else ""
            raise MeasureError(
                text,
                f"'{kind}' needs {accepted(form.number)}{got}",
                f"Write for example: {example}",
            )
        words = words[1:]
    way = " ".join(words)
    if way and way not in form.ways:
        ways = f"It can be {' or '.join(form.ways)}" if form.ways else ""
        hint = ways or f"Write for example: {example}"
        raise MeasureError(text, f"'{kind}' does not take '{way}'", hint, closest(way, form.ways))
    return number, "" if not way or way == form.ways[0] else way


def _columns(
    text: str, kind: str, after: str | None, example: str
) -> tuple[str | None, str | None]:
    """Return the column and the column of weights, where the kind takes them."""
    form = KINDS[kind]
    if form.column and not (after and after.strip()):
        raise MeasureError(text, f"'{kind}' needs a column", f"Write for example: {example}")
    if not form.column and after is not None:
        raise MeasureError(text, f"'{kind}' takes no column", "Write filled of … to count cells")
    if after is None or not form.weight:
        return None if after is None else unquoted(after), None
    found = match_unquoted(_BY, after)
    if found is None:
        raise MeasureError(
            text, f"'{kind}' needs a column of weights", f"Write for example: {example}"
        )
    return unquoted(found[0]), unquoted(found[1])
