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
    """Return a row a line, its value as the index, and a column a measure; the total is left out.

    Left out, it cannot be counted twice: it is `breakdown.total`.
    """
    import pandas as pd

    index = pd.Index([line.key[0] for line in result.lines], name=result.by[0])
    return pd.DataFrame(
        {
            tally.name: [line.tallies[i].value for line in result.lines]
            for i, tally in enumerate(result.total)
        },
        index=index,
    )
