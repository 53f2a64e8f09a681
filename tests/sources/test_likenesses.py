"""Whatever looks like a number, a date or a time is among what may look so."""

import random
import sys
import unicodedata

import numpy as np
import pytest

from even_sieve.core.cells import (
    all_like_dates,
    all_like_numbers,
    all_like_times,
    looks_like_date,
    looks_like_number,
    looks_like_time,
)
from even_sieve.core.cells.likeness import Likeness
from even_sieve.core.cells.named_dates import NAMES
from even_sieve.core.cells.text import CURRENCIES
from even_sieve.sources import at_hand
from even_sieve.sources.arrow_buffers import strings_of
from even_sieve.sources.arrow_strings import Strings

TESTS = {
    Likeness.NUMBER: (looks_like_number, all_like_numbers),
    Likeness.DATE: (looks_like_date, all_like_dates),
    Likeness.TIME: (looks_like_time, all_like_times),
}
AMOUNTS = ["(", "+", "-", " ", "\t", "\n", "\u00a0", *CURRENCIES, "€", "$", "%", ".", ",", "'", "’",
           "1", "23", "456", "-", ",--", ")", "e5", "E-3", "\u0663", "\u0e55", "kr.", "x", "_", "é"]  # fmt: skip
DAYS = ["1", "12", "2031", "31", ".", "/", "-", " ", "st", "nd", ". ", ", ", *NAMES, "FEB", "mai", "März",
        "aoû", "Wednesday ", "年", "月", "日", "T", "10:20", ":", "kl. 9h", "am", "Z", "\u0663", "\u212a",
        "days", "day, ", "_"]  # fmt: skip


def drawn(chance, parts):
    return "".join(chance.choice(parts) for _ in range(chance.randrange(1, 9)))


def likely(chance):
    one = chance.choice
    return one([
        one(["", "(", "-"]) + one(["", "€", *CURRENCIES]) + one(["", " ", "."]) + one(["12", "1'200"])
        + one(["", "-", ",--", " "]) + one(["", "%", *CURRENCIES]) + one(["", ")", "e5"]),
        one(["", "Mon ", "tuesday, "]) + one(["1", "2nd", "3.", "4-"]) + one(["jan", "Mai", "aoû"])
        + one(["", ".", "uary"]) + one(["", " ", "-", ", "]) + "2031" + one(["", " 10:20", "T09:30Z"]),
        one(["", "3 days, ", "1 day, -"]) + one(["9", "123456789"]) + one([":30", ":5", ":30:15.5"])
        + one(["", " am"]),
    ])  # fmt: skip


@pytest.mark.parametrize("what", Likeness)
def test_all_that_look_like_something_are_found_at_once(each_way, what):
    chance, (one, many) = random.Random(), TESTS[what]
    texts = [drawn(chance, chance.choice([AMOUNTS, DAYS, AMOUNTS + DAYS])) for _ in range(3000)]
    strings = Strings(strings_of([*texts, *(likely(chance) for _ in range(1500))]))
    wanted = [place for place, text in enumerate(strings) if one(text)]
    assert len(wanted) > 100
    assert set(wanted) <= set(strings.may_be_like(what).tolist())
    assert list(many(strings)) == wanted


def test_digits_of_every_script_may_be_numbers(each_way):
    letters = [chr(each) for each in range(128, sys.maxunicode) if not 0xD800 <= each < 0xE000]
    digits = [at for at, each in enumerate(letters) if unicodedata.decimal(each, None) is not None]
    found = Strings(strings_of(letters)).may_be_like(Likeness.NUMBER)
    assert len(digits) > 600
    assert np.isin(digits, found).all()


@pytest.mark.skipif(at_hand.compiled is None, reason="there was no compiler")
def test_codes_words_and_links_are_ruled_out_by_their_bytes():
    texts = [
        "7f3a9c1b2e",
        "a4-771-b",
        "wharf.example/12/calls",
        "Größe 12",
        "pier 2031",
        "12-b",
        "1.2.3.4",
    ]
    strings = Strings(strings_of([text for text in texts if "1.2" not in text]))
    assert [strings.may_be_like(what).tolist() for what in Likeness] == [[], [], []]
    with pytest.raises(ValueError, match="not the buffers"):
        at_hand.compiled.liken(
            b"12", np.array([0, 3], np.int32), 1, bytes(1 << 16), b"", bytearray(1)
        )
