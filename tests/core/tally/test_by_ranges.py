"""A breakdown gathered a range of groups at a time is the one gathered at once."""

import random

import pytest

from even_sieve import SieveError, Table, table_from
from even_sieve.core.table import arrays
from even_sieve.core.tally import ranges
from even_sieve.documents import document_of
from even_sieve.documents.plain_lines import plain_line

MEASURES = [
    "rows", "sum of dues", "average of tons", "product of tons", "median of dues", "max of tons",
    "percentile 90 of tons", "min of dues", "distinct of zone", "mode of zone", "first of zone",
    "last of dues", "largest 2 of dues", "variance of tons", "weighted average of dues by tons",
    "share of dues", "share of tons", "deviation of dues", "max of zone", "only of zone", "errors of dues", "first of dues",
]  # fmt: skip


class Bounded(arrays.InMemory):
    """Memory so short that hardly any group goes into it."""

    granted = 1


def some_table(chance: random.Random) -> Table:
    groups, length = chance.choice([3, 20, 200]), chance.choice([40, 300])
    odd = [None, "#N/A", "12,5", "waived"]

    def dues():
        return chance.choice(odd) if chance.random() < 0.2 else chance.randrange(-999, 999) / 100

    made = {
        "call": [f"{chance.choice(['C', 'c'])}{chance.randrange(groups)}" for _ in range(length)],
        "berth": [chance.randrange(groups) for _ in range(length)],
        "zone": [chance.choice(["Outer", "outer", "Inner", None]) for _ in range(length)],
        "dues": [dues() for _ in range(length)],
        "tons": [chance.uniform(-3, 3) * 10 ** chance.randrange(-3, 9) for _ in range(length)],
    }
    return table_from(made)


def answered(table, asked, how):
    try:
        found = table.tally(*asked, **how)
    except SieveError as error:
        return type(error), str(error)
    lines = list(map(repr, found.lines))
    frame, plain = found.to_frame().to_csv(), document_of(found).plain()
    assert plain["lines"] == list(map(plain_line, found.lines))
    return lines, list(map(repr, found.subtotals)), repr(found.total), frame, plain


@pytest.mark.parametrize("patience", [0, 4])
@pytest.mark.parametrize("least", [1, 7, 50])
def test_by_ranges_as_at_once(monkeypatch, patience, least):
    chance = random.Random(seed := random.randrange(10**6))
    monkeypatch.setattr(ranges, "_LEAST", least)
    monkeypatch.setattr(ranges, "_PATIENCE", patience)
    for _ in range(8):
        table, asked = some_table(chance), chance.sample(MEASURES, 3)
        how = {"by": chance.choice(["call", "berth", ["call", "zone"], ["berth", "zone"]])}
        if isinstance(how["by"], str) and chance.random() < 0.4:
            how["top"] = 3
        elif chance.random() < 0.5:
            how["sort"] = chance.choice(["label desc", f"{asked[0]} desc", asked[-1]])
        if chance.random() < 0.3:
            asked[0] += " regardless of zone"
        at_once = answered(table, asked, how)
        with monkeypatch.context() as patch:
            patch.setattr(arrays._Chosen, "store", Bounded())
            assert answered(table, asked, how) == at_once, (seed, asked, how)


def test_ranges_are_as_large_as_memory_lets_them_be(monkeypatch):
    assert ranges.size_of_range(10**7, 10**7, 1) == 10**7
    monkeypatch.setattr(arrays._Chosen, "store", Bounded())
    monkeypatch.setattr(Bounded, "granted", 1 << 29)
    assert ranges.size_of_range(10**7, 10**7, 1) == (1 << 28) // 256
    assert ranges.size_of_range(10**7, 10**9, 2) == (1 << 28) // 2048
    assert ranges.size_of_range(1000, 10**9, 2) == 1000
