"""Lines that are rounded one by one, and do not add up as they are shown."""

from collections.abc import Iterator
from fractions import Fraction

from even_sieve.core.tally import Breakdown, values_of
from even_sieve.documents.shown import is_percent, rounded, show_figure, show_like

#: What adds up from line to line; of so many lines, whether it does as it is shown is told.
_ADDING = frozenset(("rows", "numbers", "filled", "blanks", "errors", "sum", "share"))
_MOST_ADDED = 10_000


def roundings(result: Breakdown) -> Iterator[str]:
    """Yield where lines that are rounded do not add up, as they are shown, to their total."""
    rest = () if result.rest is None else (result.rest,)
    count = len(result.lines) + len(rest)
    for i, total in enumerate(result.total):
        if total.request.kind not in _ADDING or count > _MOST_ADDED:
            continue
        values = [*values_of(result.lines, i), *values_of(rest, i)]
        parts = [rounded(total, value) for value in values]
        known, whole = [part for part in parts if part is not None], rounded(total, total.value)
        together = sum(known, Fraction(0))
        if whole is None or len(known) < len(parts) or together == whole:
            continue
        as_shown = show_like(total, float(together) / (100 if is_percent(total) else 1))
        if as_shown == show_figure(total):
            continue
        used = sum(line.tallies[i].account.used for line in (*result.lines, *rest))
        if used != total.account.used:  # these are not all lines
            continue
        yield (
            f"{total.name}: the lines are rounded one by one; as they are shown they add up "
            f"to {as_shown}, and the total is {show_figure(total)}"
        )
