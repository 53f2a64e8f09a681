"""All that is asked of a table, to compare two that should give the same."""

from even_sieve import Choice
from even_sieve.core.table import profile

MEASURES = (
    "rows", "sum of dues", "average of dues", "max of dues", "min of zone", "median of dues", "mode of zone",
    "percentile 90 of tons", "largest 3 of dues", "distinct of remarks", "variance of dues", "product of tons",
    "weighted average of dues by tons", "first of remarks", "last of arrived", "share of dues", "errors of dues",
)  # fmt: skip
AXES = ("zone", "remarks", "departed by month", "tons in bands 2, 5", "zone as Outer | in*")


def facts(table):
    asked = {"where": "tons > 2 or zone = Outer or arrived is blank"}
    found = table.tally(*MEASURES, **asked, derive="double = dues * 2 + tons")
    yield [(t.value, t.exact, t.account, t.found_at, t.reason) for t in found], found.notices
    for axis in AXES:
        lines = table.tally("sum of dues", "median of tons", by=axis, sort="sum of dues desc")
        yield [(line.key, [t.value for t in line.tallies]) for line in lines.with_rest]
    yield [
        line.key for line in table.tally("rows", by=["zone", "paid"], across="departed by month")
    ]
    listed = table.listing(choice=Choice((), ("dues desc", "zone"), 5))
    yield listed.numbers, listed.rows, table.listing(every_row=True).verdicts
    yield [(step.label, step.rows, step.amount) for step in table.bridge("sum of dues", **asked)]
    yield profile(table.core).columns, str(table.explain(found)), str(table.recheck(found))
