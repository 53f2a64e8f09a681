"""Results as pandas data frames."""

from typing import TYPE_CHECKING

from even_sieve.core.tally import Breakdown, Tallies

if TYPE_CHECKING:
    import pandas as pd


def show_tallies(result: Tallies) -> "pd.DataFrame":
    """Return a row a measure, its name as the index: value, account, found_at, reason."""
    import pandas as pd

    records = [
        {
            "value": tally.value,
            **tally.account.as_dict(),
            "found_at": list(tally.found_at),
            "reason": tally.reason,
        }
        for tally in result
    ]
    index = pd.Index([tally.name for tally in result], name="measure")
    return pd.DataFrame(records, index=index)


def show_breakdown(result: Breakdown) -> "pd.DataFrame":
    """Return a row a line, its values as the index, and a column a measure; totals are left out.

    Left out, they cannot be counted twice: they are `breakdown.total` and `subtotals`.
    """
    import pandas as pd

    names = [*result.by, *([] if result.across is None else [result.across])]
    keys = [line.key for line in result.lines]
    index: pd.Index
    if len(names) == 1:
        index = pd.Index([key[0] for key in keys], name=names[0])
    else:
        index = pd.MultiIndex.from_tuples(keys, names=names)
    return pd.DataFrame(
        {
            tally.name: [line.tallies[i].value for line in result.lines]
            for i, tally in enumerate(result.total)
        },
        index=index,
    )
