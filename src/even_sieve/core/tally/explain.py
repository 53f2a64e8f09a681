"""A tally explained: what the figure is, of which rows, and where every other row went."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from even_sieve.core.criteria import all_of
from even_sieve.core.criteria.words import describe
from even_sieve.core.measures import COMBINED, KINDS, MeasureRequest
from even_sieve.core.notices import counted
from even_sieve.core.tally.account import BUCKETS, Account
from even_sieve.core.tally.buckets import Origin, row_buckets

_MOST_ROWS = 5
_SIMPLE = 10**12


@dataclass(frozen=True)
class Bucketful:
    """The rows of one bucket: how many, why, and the source's numbers of the first ones."""

    bucket: str
    rows: int
    words: str
    first: tuple[int, ...]

    def text(self) -> str:
        """Return the bucket as a line of text."""
        shown = ", ".join(map(str, self.first))
        more = ", …" if self.rows > len(self.first) else ""
        numbers = f" ({'row' if self.rows == 1 else 'rows'} {shown}{more})"
        return f"{self.rows:,} {self.words}{numbers}"


@dataclass(frozen=True)
class Explanation:
    """What backs a figure. `before_rounding` is the exact figure, where that says more.

    `parts` are the explanations of the figures that it was worked out from, if it was.
    """

    name: str
    definition: str
    criteria: str
    rows: int
    buckets: tuple[Bucketful, ...]
    before_rounding: Fraction | None = None
    parts: tuple["Explanation", ...] = ()

    def lines(self) -> list[str]:
        """Return the explanation as lines of text, without the figure itself."""
        if self.parts:
            inside = [[f"{p.name}:", *(f"  {each}" for each in p.lines())] for p in self.parts]
            return [self.definition, *(f"  {line}" for lines in inside for line in lines)]
        found = [self.definition, self.criteria, f"of {counted(self.rows, 'row')}:"]
        found += [f"  {each.text()}" for each in self.buckets]
        if self.before_rounding is not None:
            found.append(f"before rounding: {self.before_rounding}")
        return found

    def __str__(self) -> str:
        return "\n".join([f"{self.name}:", *(f"  {line}" for line in self.lines())])


def explain(name: str, account: Account, exact: Fraction | None, origin: Origin) -> Explanation:
    """Return the explanation of a tally."""
    told = exact is not None and exact.denominator > 1 and _is_simple(exact)
    return Explanation(
        name,
        _definition(origin.request),
        _criteria(origin),
        account.rows,
        tuple(_bucketfuls(origin, account)),
        exact if told else None,
    )


def explain_combined(
    request: MeasureRequest, account: Account, shown: Sequence[str], parts: tuple[Explanation, ...]
) -> Explanation:
    """Return the explanation of a figure worked out from others, which are shown like that."""
    definition = f"{COMBINED[request.kind][0]}: {', '.join(shown)}"
    return Explanation(request.name, definition, "", account.rows, (), None, parts)


def _is_simple(exact: Fraction) -> bool:
    """Tell whether a fraction is short enough to be of use to a reader."""
    return max(abs(exact.numerator), exact.denominator) < _SIMPLE


def _definition(request: MeasureRequest) -> str:
    form = KINDS[request.kind]
    text, number = form.definition, f"{request.number or 0:f}"
    if form.number == "K":
        text = text.replace("K-th", _ordinal(int(number)))
    text = text.replace("P of a hundred", f"{number} of a hundred").replace("Q", number)
    way = request.way or next(iter(form.ways), "")
    of = "" if request.column is None else f", in column '{request.column}'"
    by = "" if request.weight is None else f", weighted by '{request.weight}'"
    return f"{text}{of}{by}{f' ({way})' if way else ''}"


def _ordinal(number: int) -> str:
    ending = {1: "st", 2: "nd", 3: "rd"}.get(number % 10, "th")
    return f"{number}{'th' if number % 100 in (11, 12, 13) else ending}"


def _criteria(origin: Origin) -> str:
    both = all_of(
        (origin.call.shared_for(origin.request), origin.call.own(origin.request).criteria)
    )
    words = f"rows that match: {describe(both)}"
    for place in origin.places:
        words += f"; of these the line where {describe(place.criteria)}"
    return words


def _bucketfuls(origin: Origin, account: Account) -> Iterator[Bucketful]:
    buckets, number = row_buckets(origin), origin.call.table.number
    for position, bucket in enumerate(BUCKETS):
        rows = getattr(account, bucket)
        if rows:
            first = np.flatnonzero(buckets == position)[:_MOST_ROWS].tolist()
            words = _words(bucket, origin.request)
            if bucket == "unmatched" and rows == 1:
                words = "does not match"
            yield Bucketful(bucket, rows, words, tuple(map(number, first)))


def _words(bucket: str, request: MeasureRequest) -> str:
    place = f"'{request.column}'" + (f" or '{request.weight}'" if request.weight else "")
    return {
        "subtotal": "left out: a subtotal repeats other rows",
        "hidden": "left out: hidden by a person",
        "filtered": "left out: put away by a filter",
        "unmatched": "do not match",
        "blank": f"matched, but {place} is blank",
        "error": f"matched, but {place} holds an error",
        "not_a_number": f"matched, but {place} holds another kind of value",
        "used": "used",
    }[bucket]
