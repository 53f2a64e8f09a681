"""Digits of strings are read as numbers, side by side or apart, to the last byte."""

import random

import numpy as np
import pytest

from even_sieve.sources import digit_runs
from even_sieve.sources.arrow_buffers import Bytes, strings_of
from even_sieve.sources.digit_runs import numbers_of_digits


def places_in(chance, length, count):
    """Return where so many digits stand in a string: in a row, or anywhere."""
    found = [-1] * count
    if chance.random() < 0.2:
        return [chance.choice([-1, chance.randrange(length)]) for _ in found]
    own = chance.randrange(min(count, length) + 1)
    start, lead = chance.randrange(length - own + 1), chance.randrange(count - own + 1)
    return found[:lead] + list(range(start, start + own)) + found[lead + own :]


@pytest.mark.parametrize("count", [1, 2, 4, 6, 8, 9])
def test_numbers_are_those_of_their_digits(count, monkeypatch):
    monkeypatch.setattr(digit_runs, "_TOGETHER", 7)
    chance, runs = random.Random(), []
    made = digit_runs._Runs.of
    monkeypatch.setattr(
        digit_runs._Runs, "of", lambda digits: runs.append(made(digits)) or runs[-1]
    )
    for _ in range(80):
        lengths = [chance.randrange(1, 14) for _ in range(chance.randrange(1, 5))]
        places = [places_in(chance, length, count) for length in lengths]
        codes = np.array([chance.randrange(len(lengths)) for _ in range(20)])
        texts = []
        for code in codes.tolist():
            letters = chance.choices("a./:-", k=lengths[code])
            for place in set(places[code]) - {-1}:
                letters[place] = chance.choice("0123456789")
            texts.append("".join(letters))
        wanted = [
            int("".join(text[place] if place >= 0 else "0" for place in places[code]))
            for text, code in zip(texts, codes.tolist(), strict=True)
        ]
        strings = strings_of(["0", *texts])[1:]
        assert numbers_of_digits(Bytes.of(strings), codes, places).tolist() == wanted
    assert (count == 1) or None in runs
    assert (count == 9) or any(run is not None for run in runs)
