"""Lines as plain objects: made from columns they are what each alone would be."""

import random

import pytest

from even_sieve import table_from
from even_sieve.documents import plain_lines as plain

MEASURES = [
    "sum of dues", "rows", "min of dues", "max of class", "range of dues", "median of dues",
    "smallest 2 of dues", "largest 1 of class", "median of class", "percentile 37.5 of dues",
    "quartile 3 of dues", "mode of dues", "mode of class", "first of dues", "last of class",
    "only of dues", "product of dues", "distinct of class",
]  # fmt: skip
ODD = [None, "#N/A", "waived", "12", 0, True]


def some_table(chance, rows):
    odd = ODD if rows > 2 else ODD[:-1]  # yes/no alone has no order, and is refused

    def dues():
        return chance.choice(odd) if chance.random() < 0.15 else chance.randrange(-9, 9) / 2

    made = {
        "vessel": [chance.choice("ABCDEF") + chance.choice("xy") for _ in range(rows)],
        "class": [chance.choice(["Ferry", "ferry", "tug", None]) for _ in range(rows)],
        "dues": [dues() for _ in range(rows)],
    }
    return table_from(made)


@pytest.mark.parametrize("rows", [1, 30, 300, 3000])  # of the last, more hold a value than listed
@pytest.mark.parametrize("keep", [[], ["errors"]])
def test_from_columns_as_one_by_one(rows, keep):
    chance = random.Random(seed := random.randrange(10**6))
    table, asked = some_table(chance, rows), chance.sample(MEASURES, 6)
    found = table.tally(*asked, by=chance.choice(["vessel", "class"]), keep=keep)
    made = list(plain.plain_lines(found.lines, len(asked)))
    assert made == list(map(plain.plain_line, found.lines)), (seed, asked)


def test_hardly_a_line_is_made_alone(monkeypatch):
    made = []
    whole = plain.plain_tally
    monkeypatch.setattr(plain, "plain_tally", lambda each: made.append(each) or whole(each))
    places = range(2000)
    table = table_from({"call": [i // 4 for i in places], "dues": [1 + i % 7 for i in places]})
    asked = [
        "max of dues",
        "median of dues",
        "percentile 90 of dues",
        "range of dues",
        "first of dues",
    ]
    lines = table.tally(*asked, by="call").lines
    found = list(plain.plain_lines(lines, len(asked)))
    assert (len(found), len(made) <= 2 * len(asked)) == (500, True)
