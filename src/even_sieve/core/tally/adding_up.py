"""Whether the lines of a breakdown add up to its total."""

from collections.abc import Sequence

from even_sieve.core.errors import AccountError
from even_sieve.core.measures import Bucket, Gathered, MeasureRequest
from even_sieve.core.measures.quotients import total_of
from even_sieve.core.measures.totals import Totals


def check_total(
    requests: Sequence[MeasureRequest], grouped: Sequence[Gathered], whole: Sequence[Gathered]
) -> None:
    """Raise `AccountError` unless counts and exact sums of the groups add up to the total."""
    for request, parts, total in zip(requests, grouped, whole, strict=False):
        used = int(parts.counts.buckets[:, Bucket.USED].sum())
        if used != total.used(0):
            raise AccountError(f"'{request.name}': the lines use {used} rows of {total.used(0)}")
        for name, state in parts.states.items():
            if isinstance(state, Totals) and state.sums is not None:
                together, exact = state.sums.together(), total_of(total, name, 0)
                if together != exact:
                    raise AccountError(f"'{request.name}': the lines add up to {together}")
