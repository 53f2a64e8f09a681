"""Lines that are rounded one by one, and do not add up as they are shown."""

from collections.abc import Iterator
from fractions import Fraction

from even_sieve.core.tally import Breakdown
from even_sieve.documents.shown import is_percent, rounded, show_figure, show_like

#: What adds up from line to line; of so many lines, whether it does as it is shown is told.
_ADDING = frozenset(("rows", "numbers", "filled", "blanks", "errors", "sum", "share"))
_MOST_ADDED = 10_000


def roundings(result: Breakdown) -> Iterator[str]:
    """Yield where lines that are rounded do not add up, as they are shown, to their total."""
    lines = [*result.lines, *([result.rest] if result.rest is not None else [])]
    for i, total in enumerate(result.total):
        if total.request.kind not in _ADDING or len(lines) > _MOST_ADDED:
            continue
        parts = [rounded(line.tallies[i], line.tallies[i].value) for line in lines]
        known, whole = [part for part in parts if part is not None], rounded(total, total.value)
        together = sum(known, Fraction(0))
        used = sum(line.tallies[i].account.used for line in lines)
        if whole is None or len(known) < len(parts) or together == whole:
            continue
        if used != total.account.used:  # these are not all lines
            continue
        as_shown = show_like(total, float(together) / (100 if is_percent(total) else 1))
        if as_shown == show_figure(total):
            continue
        yield (
            f"{total.name}: the lines are rounded one by one; as they are shown they add up "
            f"to {as_shown}, and the total is {show_figure(total)}"
        )
