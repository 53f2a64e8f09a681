"""Different values are counted by ranges where there is no room for all of them."""

import random

import numpy as np
import pytest

from even_sieve.core.table import distinct


@pytest.mark.parametrize("dtype", [np.int64, np.float64, "datetime64[us]"])
@pytest.mark.parametrize("rows", [1, 5000])
def test_by_ranges_as_at_once(monkeypatch, dtype, rows):
    chance = np.random.default_rng(seed := random.randrange(10**6))
    taken = []
    whole = distinct.different
    monkeypatch.setattr(distinct, "room", lambda: 1)
    monkeypatch.setattr(distinct, "_LEAST", 100)
    monkeypatch.setattr(distinct, "_GATHERED", 40)
    monkeypatch.setattr(distinct, "_STRETCH", 16)
    monkeypatch.setattr(distinct, "spans", lambda stop, start=0: [
        slice(at, min(at + 64, stop)) for at in range(start, stop, 64)
    ])  # fmt: skip
    monkeypatch.setattr(distinct, "different", lambda *how: taken.append(how) or whole(*how))
    for spread in (3, 300, 10**12):
        held = chance.integers(-spread, spread, rows).astype(dtype)
        if chance.random() < 0.5:
            held = np.sort(held)
        shown = chance.random(rows) < 0.7
        shown[0] = True
        count, ends = distinct.count_different(rows, lambda own, h=held, s=shown: h[own][s[own]])
        every = np.unique(held[shown])
        assert (count, *ends) == (len(every), every[0], every[-1]), (seed, spread)
    assert len(taken) > 10 or rows == 1


def test_values_in_one_place_that_no_sample_meets_are_counted(monkeypatch):
    shown = np.zeros(3000, dtype=bool)
    shown[200:1200] = True
    monkeypatch.setattr(distinct, "room", lambda: 1)
    for name, value in (("_LEAST", 100), ("_GATHERED", 40), ("_STRETCHES", 2), ("_STRETCH", 2)):
        monkeypatch.setattr(distinct, name, value)
    count, ends = distinct.count_different(3000, lambda rows: np.flatnonzero(shown[rows]))
    assert (count, *ends) == (1000, 200, 1199)
