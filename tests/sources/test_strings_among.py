"""Strings that are among others: by the compiled pass, by Arrow, and one by one."""

import random

import numpy as np
import pyarrow as pa
import pytest

from even_sieve.core.cells import fold
from even_sieve.sources import at_hand, side_by_side
from even_sieve.sources.arrow_strings import Strings
from even_sieve.sources.letters_held import Case, case_of
from even_sieve.sources.strings_among import among, small_among

ENDS = "aAzZ@[`{09\0~"


def some_strings(chance: random.Random, letters: str) -> list[str]:
    sizes = chance.choice(
        [(0, 1, 2, 3), (4, 5, 7), (7, 8, 9), (15, 16, 17, 40), (4094, 4097, 5000)]
    )
    few = chance.choice([letters, ENDS])  # most of them are of ASCII
    return [
        "".join(chance.choice(chance.choice([few, few, letters])) for _ in range(size))
        for size in chance.choices(sizes, k=chance.choice([1, 3, 90]))
    ]


@pytest.mark.parametrize("kind", [pa.string(), pa.large_string()])
def test_strings_among_others_are_told_in_every_way(monkeypatch, kind):
    monkeypatch.setattr(side_by_side, "_LEAST", 16)
    chance, told = random.Random(), 0
    for _ in range(150):
        texts = some_strings(chance, ENDS if chance.random() < 0.7 else ENDS + "éß\U0001f6a2")
        wanted = [*chance.sample(texts, chance.randrange(1 + len(texts))), "quay", ""]
        wanted += [each.swapcase() for each in wanted] + [each[:-1] + "q" for each in wanted]
        start = chance.randrange(len(texts))
        strings, texts = pa.array(texts, kind)[start:], texts[start:]
        expected = [each in wanted for each in texts], set(wanted) & set(texts)
        found, there = among(strings, wanted)
        assert (found.tolist(), there) == expected
        with pytest.MonkeyPatch.context() as patch:
            patch.setattr(at_hand, "compiled", None)
            found, there = among(strings, wanted)
            assert (found.tolist(), there) == expected
            assert small_among(strings, wanted, Case.CAPITAL) is None
        if at_hand.compiled is None:
            continue
        wanted = [fold(each) for each in wanted]
        beyond = [not each.isascii() for each in texts]
        folded = [each.lower() for each in texts]
        found, there = small_among(strings, wanted, case_of(strings))
        expected = [2 if far else each in wanted for far, each in zip(beyond, folded, strict=True)]
        assert found.tolist() == expected
        assert there == {each for each, is_one in zip(folded, expected, strict=True) if is_one == 1}
        found = Strings(strings).equal_to_folded(wanted)
        folded = [fold(each) for each in texts]
        if found is not None:
            assert found[0].tolist() == [each in wanted for each in folded]
            assert found[1] == set(wanted) & set(folded)
            told += sum(beyond) > 0
    assert told or at_hand.compiled is None


def test_one_string_is_looked_for_by_itself():
    found, there = among(pa.array(["mole", "Mole", "pole", "mole 1"]), ["mole"])
    assert (found.tolist(), there) == ([True, False, False, False], {"mole"})
    with pytest.raises(UnicodeEncodeError):
        among(pa.array(["mole"]), ["\ud800"])


@pytest.mark.skipif(at_hand.compiled is None, reason="there was no compiler")
def test_buffers_that_do_not_belong_together_are_refused():
    one, ends = np.zeros(4, dtype=np.uint8), np.array([0, 9], dtype=np.int32)
    room, found = np.zeros(4, dtype=np.int32), np.zeros(1, dtype=np.uint8)
    for data, offsets, slots in (
        (one, ends, room), (one, ends[:1], room), (one, ends * 0, room[:3]), (one, ends * 0, room[:1]),
    ):  # fmt: skip
        with pytest.raises(ValueError, match="not the buffers"):
            at_hand.compiled.match(data, offsets, one, ends * 0, True, slots, found, found.copy())
