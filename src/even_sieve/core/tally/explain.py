"""A tally explained: what the figure is, of which rows, and where every other row went."""

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from even_sieve.core.answer import Answer
from even_sieve.core.criteria import all_of
from even_sieve.core.criteria.words import describe
from even_sieve.core.measures import COMPOSITES, KINDS, MeasureRequest
from even_sieve.core.notices import counted
from even_sieve.core.table.lanes import Array
from even_sieve.core.table.origins import listed_rows
from even_sieve.core.tally.account import BUCKETS
from even_sieve.core.tally.answers import Tally
from even_sieve.core.tally.plan import Plan

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
        shown = listed_rows(self.first)
        more = ", …" if self.rows > len(self.first) else ""
        numbers = f" ({'row' if self.rows == 1 else 'rows'} {shown}{more})"
        return f"{self.rows:,} {self.words}{numbers}"


@dataclass(frozen=True)
class Explanation:
    """What backs a figure. `before_rounding` is the exact figure, where that says more.

    `parts` are the explanations of the figures that it was worked out from, if it was.

    >>> import even_sieve
    >>> calls = even_sieve.table_from({"zone": ["Outer", "Inner"], "dues": [120, 80]})
    >>> print(calls.explain(calls.tally("sum of dues"))[0].lines()[0])
    the exact sum of the numbers, rounded once, in column 'dues'
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


@dataclass(frozen=True, repr=False)
class Explanations(Answer):
    """Figures, each with what backs it, in the order of the answer that has them.

    >>> from even_sieve import table_from
    >>> calls = table_from({"dues": [120, None]})
    >>> calls.explain(calls.tally("sum of dues"))[0].lines()[2]
    'of 2 rows:'
    """

    items: tuple[tuple[Tally, Explanation], ...]

    def __len__(self) -> int:
        return len(self.items)

    def __iter__(self) -> Iterator[Explanation]:
        return (explanation for _, explanation in self.items)

    def __getitem__(self, position: int) -> Explanation:
        return self.items[position][1]


def explain_figure(plan: Plan, tally: Tally, buckets: Array) -> Explanation:
    """Return the explanation of a figure, given the bucket of every row."""
    exact = tally.exact
    told = exact is not None and exact.denominator > 1 and _is_simple(exact)
    return Explanation(
        tally.name,
        _definition(tally.request),
        _criteria(plan, tally),
        tally.account.rows,
        tuple(_bucketfuls(plan, tally, buckets)),
        exact if told else None,
    )


def explain_composite(tally: Tally, parts: tuple[Explanation, ...]) -> Explanation:
    """Return the explanation of a figure worked out from others, given theirs."""
    shown = [f"{part.name} = {part.shown}" for part in tally.parts]
    definition = f"{COMPOSITES[tally.request.kind][0]}: {', '.join(shown)}"
    return Explanation(tally.name, definition, "", tally.account.rows, (), None, parts)


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


def _criteria(plan: Plan, tally: Tally) -> str:
    both = all_of((plan.shared_for(tally.request), plan.own(tally.request).criteria))
    words = f"rows that match: {describe(both)}"
    for group in tally.place:
        words += f"; of these the line where {describe(group.criteria)}"
    return words


def _bucketfuls(plan: Plan, tally: Tally, buckets: Array) -> Iterator[Bucketful]:
    for position, bucket in enumerate(BUCKETS):
        rows = getattr(tally.account, bucket)
        if rows:
            first = np.flatnonzero(buckets == position)[:_MOST_ROWS].tolist()
            words = _words(bucket, tally.request)
            if bucket == "unmatched" and rows == 1:
                words = "does not match"
            yield Bucketful(bucket, rows, words, tuple(map(plan.table.number, first)))


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
