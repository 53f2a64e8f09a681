"""Results as CSV (RFC 4180): all digits, and the account of every figure beside it."""

import csv
from collections.abc import Iterable, Sequence
from io import StringIO
from typing import Any

from even_sieve.core.cells import Kind
from even_sieve.core.table import Profile
from even_sieve.core.tally import ALL_VALUES, BUCKETS, Breakdown, Bridge, Tallies
from even_sieve.views.grid import TOTAL
from even_sieve.views.listing import Listing
from even_sieve.views.values import plain_amount, plain_text

_SUBTOTAL = "subtotal"


def show_tallies(result: Tallies) -> str:
    """Return a line a measure: name, value, the account, the rows that gave it, the reason."""
    header = ["measure", "value", "rows", *BUCKETS, "found_at", "reason"]
    return _write(
        header,
        (
            [
                tally.name,
                plain_text(tally.value),
                *map(str, tally.account.as_dict().values()),
                " ".join(map(str, tally.found_at)),
                tally.reason or "",
            ]
            for tally in result
        ),
    )


def show_breakdown(result: Breakdown) -> str:
    """Return a line a group, subtotals and the total; `mark` tells these from what they repeat."""
    axes = [*result.by, *([] if result.across is None else [result.across])]
    header = [*axes, *(tally.name for tally in result.total), "mark"]
    lines = [_line(each.key, each.tallies, "") for each in result.with_rest]
    lines += [_line(each.key, each.tallies, _SUBTOTAL) for each in result.subtotals]
    lines.append(_line([None] * len(axes), result.total, TOTAL))
    return _write(header, lines)


def _line(key: Iterable[Any], tallies: Tallies, mark: str) -> list[str]:
    shown = ["" if each is ALL_VALUES else plain_text(each) for each in key]
    return [*shown, *(plain_text(each.value) for each in tallies), mark]


def show_rows(result: Listing) -> str:
    """Return the rows under their column names: a table again.

    Where all rows are shown, their numbers and verdicts stand beside them.
    """
    rows = [list(map(plain_text, row)) for row in result.rows]
    if result.verdicts is None:
        return _write(result.names, rows)
    beside = zip(result.numbers, rows, result.shown_verdicts, strict=True)
    lines = [[str(number), *row, verdict] for number, row, verdict in beside]
    return _write(["row", *result.names, "verdict"], lines)


def show_bridge(result: Bridge) -> str:
    """Return a line a step: why, what it takes away, and what is left."""
    return _write(
        ["reason", "step", "rows", "amount", "rows_left", "amount_left"],
        (
            [
                step.reason,
                step.label,
                str(step.rows),
                plain_text(plain_amount(step.amount)),
                str(step.rows_left),
                plain_text(plain_amount(step.amount_left)),
            ]
            for step in result
        ),
    )


def show_profile(result: Profile) -> str:
    """Return a line a column: its counts by kind, different values, extremes."""
    kinds = [kind.words for kind in Kind]
    header = ["column", *kinds, "different", "least", "most", "trimmed"]
    return _write(
        header,
        (
            [
                column.name,
                *(str(column.kinds.get(kind, 0)) for kind in kinds),
                str(column.distinct),
                plain_text(column.least),
                plain_text(column.most),
                str(column.trimmed),
            ]
            for column in result.columns
        ),
    )


def _write(header: Sequence[str], lines: Iterable[Sequence[str]]) -> str:
    out = StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(header)
    writer.writerows(lines)
    return out.getvalue()
