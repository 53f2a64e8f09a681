"""Results worked out with two doubles each, beside the same as exact fractions."""

import random
from decimal import Decimal
from fractions import Fraction

import numpy as np
import pytest

from even_sieve import table_from
from even_sieve.core.derive import at_once
from even_sieve.core.derive.expressions import parse_arithmetic, steps_of
from even_sieve.core.derive.twofold import twofold, worked_out

MAKE = {
    "uniform": lambda g: g.uniform(0, 1e4),
    "normal": lambda g: g.gauss(0, 1),
    "cents": lambda g: g.randrange(-(10**6), 10**6) / 100,
    "whole": lambda g: g.randrange(-20, 20),
    "long": lambda g: g.randrange(10**15, 10**18),
    "thirds": lambda g: g.randrange(1, 99) / 3,
    "far": lambda g: g.uniform(-9, 9) * 10.0 ** g.randrange(-40, 40),
    "powers": lambda g: 2.0 ** g.randrange(-60, 60),
    "decimals": lambda g: Decimal(g.randrange(10**17)) / 10 ** g.randrange(20),
    "beyond": lambda g: g.choice([1e300, -1e-300, 5e-324]),
    "others": lambda g: g.choice([None, "waived", 0, 0.0]),
}
FORMS = [
    "x + y", "x - y", "x * y", "x / y", "x - x", "x / (y - y)", "x * 2", "x * 1.1", "x / 3", "x / 8", "x / 0",
    "(x - y) / x * 100", "abs(x - y)", "x * 0.5 + y * 0.5", "x * y / y", "x / y * y", "x * x - y * y", "1 / x",
    "x * 0", "(x + y) / 2", "x * 1.19 - y / 1.19", "x - 0.1 - 0.2 + 0.3", "2 * 3 + x", "x / 10",
    "round(x, 2)", "round(x, 15)", "round(x * 1.19, 1)", "round(x - x)", "max(x, y)", "min(x, y, 0)", "max(x, x)", "round(x / y, 3)",
    "max(x * 2, x + x) / 3", "round(1.005, 2) * x", "min(2, 3) + x", "round(x, 2) - x",
]  # fmt: skip


@pytest.mark.parametrize("part", range(3))
def test_results_are_those_of_fractions(part, monkeypatch):
    seed, taken, every = random.randrange(10**9), 0, 0
    put_known = at_once._put_known

    def counted(*given):
        nonlocal taken, every
        every += len(given[1])
        taken += int((given[3][0].few | given[3][0].near).sum())
        return put_known(*given)

    monkeypatch.setattr(at_once, "_put_known", counted)
    for case in range(40):
        g = random.Random(f"{seed}/{case}")
        rows = g.choice([3, 40])
        kinds = [g.sample(list(MAKE), g.choice([1, 1, 3])) for _ in "xy"]
        cells = {
            n: [MAKE[g.choice(k)](g) for _ in range(rows)] for n, k in zip("xy", kinds, strict=True)
        }
        table, form = table_from(cells), g.choice(FORMS)
        found = []
        for quick in (True, False):
            monkeypatch.setattr(at_once, "has_many_digits", lambda column, quick=quick: quick)
            column = table.derive(f"z = {form}").core.column("z")
            found.append(
                (
                    list(column.cells()),
                    column.counts,
                    {k: repr(v.values.tolist()) for k, v in column.lanes.items()},
                )
            )
        assert found[0] == found[1], (seed, case, form)
    assert taken > every / 4, (seed, taken, every)  # cells that no way tells are among them


def test_no_error_is_larger_than_its_bound():
    g = random.Random(random.randrange(10**9))
    share = []
    for form in ("x + y", "x * y", "x / y", "(x - y) * x / (y + 3) - 0.7", "x / 7 - x / 7.5"):
        wholes = {n: np.array([g.randrange(1, 10**18) for _ in range(400)]) for n in "xy"}
        places = {n: np.array([g.randrange(-5, 25) for _ in range(400)]) for n in "xy"}
        steps = steps_of(parse_arithmetic(form))
        known = worked_out(steps, {n: twofold(wholes[n], places[n]) for n in "xy"})
        for row in range(400):
            parts = {
                n: Fraction(int(wholes[n][row])) / Fraction(10) ** int(places[n][row]) for n in "xy"
            }
            exact = eval(form.replace("0.7", "Fraction(7, 10)").replace("7.5", "Fraction(15, 2)"), {"Fraction": Fraction}, parts)  # fmt: skip
            if known.near[row]:
                assert known.doubles[row] == float(exact)
            if known.few[row]:
                assert (
                    Fraction(int(known.whole[row])) / Fraction(10) ** int(known.places[row])
                    == exact
                )
        share.append((known.few | known.near).mean())
    assert min(share) > 0.75, share


def test_what_is_divided_by_large_powers_of_two_is_exact():
    powers = [2**power for power in range(62)]
    found = table_from({"x": powers}).derive("z = 1 / x").column("z")
    assert [float(each) for each in found] == [1 / each for each in powers]


def test_what_is_divided_by_more_than_63_bits_hold_is_worked_out(monkeypatch):
    monkeypatch.setattr(at_once, "has_many_digits", lambda column: False)
    x, y = (
        [Decimal(text) for text in given]
        for given in (
            ["0.865168446577557978", "0.376463652514002543"],
            ["0.865168446577557978", "0"],
        )
    )
    found = table_from({"x": x, "y": y}).derive("z = (x + y) / 10").column("z")
    wanted = [float((a + b) / 10) for a, b in zip(x, y, strict=True)]
    assert [float(each) for each in found] == wanted
