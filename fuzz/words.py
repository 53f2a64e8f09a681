"""Words at random, half of them nearly right, to every small grammar: read, or refused by us."""

import random

from even_sieve import Choice, LineRows, table_from
from even_sieve.core.errors import SieveError

_PIECES = ["zone", "dues", "arrived", "Outer", "=", "!=", "<", ">=", "in", "is", "not", "and", "or",
           "(", ")", '"', '""', "'", "{", "}", "{x}", "@", "@dues", "*", "?", "|", "&", "\\", "..", "2031-Q1",
           "last 30 days", "5", "1e400", "9" * 400, "10%", "0.1.2", ",", "sum of", "average", "of", "by",
           "where", "keep hidden", "regardless of", "largest 3", "percentile", "ratio of", "to", "as",
           "bands 0, 5", "in bands", "month", "by month", "if", "else", "round(", "abs(", "days(", "-", "+",
           "/", "0", "é", "\x00", "\ud800", "𝟙", "١", "\u202e", " ", "\n", "as-of", "FY2031", "change of"]  # fmt: skip


def check(seed):
    """Raise what is not the product's own error."""
    chance = random.Random(seed)
    text = chance.choice(["", " "]).join(
        chance.choice(_PIECES) for _ in range(chance.choice([1, 3, 6, 12, 400]))
    )
    table = table_from({"zone": ["Outer", "inner", None], "dues": [5, 7.5, 1]})
    ask = chance.choice([
        lambda: table.tally("rows", where=text),
        lambda: table.tally(text),
        lambda: table.tally(f"sum of dues where {text}"),
        lambda: table.tally("rows", by=text),
        lambda: table.tally("rows", derive=text),
        lambda: table.tally("rows", derive=f"x = {text}"),
        lambda: table.tally("rows", where={"zone": text}),
        lambda: table.tally("rows", hidden=text),
        lambda: table.lines("sum of dues", entries=[LineRows("a", text)]),
        lambda: table.bridge(f"sum of dues where {text}"),
        lambda: table.funnel(text),
        lambda: table.tally("rows where zone = {x}", parameters={"x": text}),
        lambda: table.listing(choice=Choice((text,), text, None)),
    ])  # fmt: skip
    try:
        ask()
    except SieveError:
        return
