"""A pandas data frame in, figures and a data frame out."""

import pandas as pd

from even_sieve import table_from

frame = pd.DataFrame(
    {
        "berth": ["O-12", "O-03", "I-12", None],
        "zone": pd.Categorical(["Outer", "Outer", "Inner", "Inner"]),
        "arrived": pd.to_datetime(["2031-01-05", "2031-02-07", "2031-03-31", ""]),
        "dues": [0.1, 0.2, float("nan"), 0.3],
    }
)
calls = table_from(frame)

found = calls.tally("rows", "sum of dues", where="berth = ?-* and arrived in 2031-Q1")
print(found)
print(calls.tally("rows", "sum of dues", by="zone").to_frame())
