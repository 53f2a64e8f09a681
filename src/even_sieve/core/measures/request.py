"""A measure as it is asked for, and the one grammar in which it is written.

[NAME =] KIND [of COLUMN] [where CRITERIA] [keep hidden, errors, …]
"""

import re
from dataclasses import dataclass
from enum import StrEnum

from even_sieve.core.criteria import Criteria, parse_criteria
from even_sieve.core.errors import MeasureError, closest


class Keep(StrEnum):
    """What is left out of a measure unless it is told to keep it."""

    SUBTOTALS = "subtotals"
    HIDDEN = "hidden"
    FILTERED = "filtered"
    BLANKS = "blanks"
    ERRORS = "errors"


#: The kinds of measure, and whether each is taken of a column.
KINDS: dict[str, bool] = {
    "rows": False,
    "numbers": True,
    "filled": True,
    "blanks": True,
    "errors": True,
    "distinct": True,
    "sum": True,
    "average": True,
    "min": True,
    "max": True,
}


@dataclass(frozen=True)
class MeasureRequest:
    """One measure: its kind, its column if the kind takes one, and what narrows it.

    `name` is what the figure is called: the words of the measure unless it was given one.
    """

    kind: str
    column: str | None = None
    where: Criteria | None = None
    keep: frozenset[Keep] = frozenset()
    name: str = ""

    @property
    def words(self) -> str:
        """The kind and its column: `sum of dues`."""
        return self.kind if self.column is None else f"{self.kind} of {self.column}"


_WHERE = re.compile(r"\swhere\s", re.IGNORECASE)
_KEEP = re.compile(r"\skeep\s", re.IGNORECASE)
_OF = re.compile(r"(\S+)(?:\s+of\s+(.*))?\Z", re.IGNORECASE | re.DOTALL)
_SINGULAR = {"subtotal": "subtotals", "blank": "blanks", "error": "errors"}


def parse_measure(text: str, columns: tuple[str, ...] = ()) -> MeasureRequest:
    """Return the measure that the text writes out.

    Raises `MeasureError` with the closest kinds, or `CriteriaError` for its own criteria.

    >>> parse_measure("late dues = sum of dues where status = late keep hidden").words
    'sum of dues'
    """
    name, rest = _split_name(text)
    rest, keep = _split_keep(text, rest)
    head, where = _split_where(rest, columns)
    kind, column = _kind_and_column(text, head)
    words = kind if column is None else f"{kind} of {column}"
    default = " ".join(rest.split()) if where is not None else words
    return MeasureRequest(kind, column, where, keep, name or default)


def _split_name(text: str) -> tuple[str, str]:
    """Split off `NAME =`: an equal sign before any `where`, and a kind after it."""
    where = _WHERE.search(text)
    head = text[: where.start()] if where else text
    name, equal, _ = head.partition("=")
    if not equal:
        return "", text.strip()
    if not name.strip():
        raise MeasureError(text, "a name is missing before '='", "Write: NAME = sum of dues")
    return name.strip(), text[len(name) + 1 :].strip()


def _split_keep(text: str, rest: str) -> tuple[str, frozenset[Keep]]:
    found = list(_KEEP.finditer(rest))
    if not found:
        return rest, frozenset()
    last = found[-1]
    words = re.split(r"[,\s]+(?:and\s+)?", rest[last.end() :].strip())
    if _WHERE.search(rest[: last.start()] + " ") and not _all_known(words):
        return rest, frozenset()  # the word stands inside the criteria
    return rest[: last.start()].rstrip(), parse_keep(words, text)


def _all_known(words: list[str]) -> bool:
    known = {each.value for each in Keep} | set(_SINGULAR)
    return all(word.lower() in known for word in words)


def parse_keep(words: list[str], text: str = "keep") -> frozenset[Keep]:
    """Return what the words tell to keep. Raises `MeasureError` with the accepted words."""
    kept = set()
    for word in filter(None, (each.strip().lower() for each in words)):
        try:
            kept.add(Keep(_SINGULAR.get(word, word)))
        except ValueError:
            accepted = ", ".join(Keep)
            raise MeasureError(text, f"cannot keep '{word}'", f"Accepted are {accepted}") from None
    return frozenset(kept)


def _split_where(rest: str, columns: tuple[str, ...]) -> tuple[str, Criteria | None]:
    where = _WHERE.search(rest)
    if where is None:
        return rest, None
    return rest[: where.start()], parse_criteria(rest[where.end() :].strip(), columns)


def _kind_and_column(text: str, head: str) -> tuple[str, str | None]:
    found = _OF.match(head.strip())
    kind = found[1].lower() if found else head.strip().lower()
    column = found[2].strip().strip('"') if found and found[2] else None
    if kind not in KINDS:
        raise MeasureError(
            text,
            f"no measure '{kind}'" if kind else "a measure is missing",
            f"The measures are: {', '.join(KINDS)}",
            closest(kind.split(" ")[0], KINDS),
        )
    if KINDS[kind] and not column:
        raise MeasureError(text, f"'{kind}' needs a column", f"Write for example: {kind} of dues")
    if not KINDS[kind] and column:
        raise MeasureError(text, f"'{kind}' takes no column", "Write filled of … to count cells")
    return kind, column
