"""What letters and bytes many strings hold, told by the compiled passes and without them."""

import random

import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from even_sieve.sources import at_hand, letters_held, side_by_side
from even_sieve.sources.letters_held import Case, LettersHeld, case_of, holds

WORDS = st.lists(st.text(st.characters(exclude_categories=["Cs"]), max_size=6), max_size=9)


@pytest.fixture(autouse=True, params=["compiled", "plain"])
def way(request):
    with pytest.MonkeyPatch.context() as patch:
        if request.param == "plain":
            patch.setattr(at_hand, "compiled", None)
        elif at_hand.compiled is None:
            pytest.skip("there was no compiler")
        patch.setattr(side_by_side, "_LEAST", 4)
        patch.setattr(letters_held, "_BLOCK", 5)
        yield


@given(words=WORDS)
def test_how_letters_are_written_is_told(words):
    every = "".join(words)
    wanted = Case.BEYOND if not every.isascii() else Case(every != every.lower())
    assert case_of(pa.array(words, pa.string())) is wanted


@given(words=WORDS, part=st.text(st.characters(exclude_categories=["Cs"]), min_size=1, max_size=3))
def test_parts_are_found_among_the_bytes(words, part):
    strings, every = pa.array(words, pa.large_string()), "".join(words).encode()
    held = LettersHeld(strings)
    held.numbers  # noqa: B018  (then letters are not sought again)
    begins = {part.encode()[:size] for size in range(1, 1 + len(part.encode()))}
    for each in (*begins, part.encode()):
        assert holds(strings, each) == (each in every)
        assert held.hold(each) == LettersHeld(strings).hold(each) == (each in every)


def test_parts_are_found_wherever_they_stand():
    chance = random.Random()
    for _ in range(60):
        octets = bytearray(chance.choice(b"ab ") for _ in range(chance.choice([3, 4095, 9000])))
        part = bytes(chance.choice(b"xy") for _ in range(chance.randrange(1, 4)))
        assert not holds(pa.array([octets.decode()]), part)
        at = chance.randrange(len(octets) - len(part) + 1)
        octets[at : at + len(part)] = part
        assert holds(pa.array([octets.decode()]), part)
        assert case_of(pa.array([octets.decode()])) is Case.SMALL
        octets[at] = ord("Z")
        assert case_of(pa.array([octets.decode()])) is Case.CAPITAL
