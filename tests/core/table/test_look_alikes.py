import random

import pytest

from even_sieve import Code, table_from
from even_sieve.core.cells import fold
from even_sieve.core.cells.unseen import all_with_unseen, as_seen, with_signs
from even_sieve.sources.arrow_buffers import strings_of
from even_sieve.sources.arrow_strings import Strings

ODD = ["\u200b", "\u00a0", "\u00ad", "\ufeff", "\u202f", "\u2060", "\t", "  ", "\u3000", "\u200e"]


@pytest.mark.parametrize("long", [0, 70_000])
def test_texts_that_hold_unseen_signs_are_found_alike(long):
    rng = random.Random()
    letters = [*"ab –“ñß船🚢", " ", *ODD]
    texts = ["".join(rng.choices(letters, k=rng.randint(1, 9))) for _ in range(300)]
    texts += [f"Quay {each}" for each in range(long)]
    rng.shuffle(texts)
    told = [at for at, text in enumerate(texts) if any(each in text for each in ODD)]
    assert list(all_with_unseen(texts)) == told
    assert list(all_with_unseen(Strings(strings_of(texts)))) == told
    assert list(all_with_unseen(Strings(strings_of(["Quay 3", "Pärnu"] * 9)))) == []


def test_values_that_look_alike_are_told_where_they_are_asked():
    berths = [
        "East",
        "East\u200b",
        "WEST\u00a0Mole",
        "West Mole",
        "West  Mole",
        "No\u00adrth",
        "\ufeffSouth",
    ]
    table = table_from({"berth": berths, "dues": list(range(len(berths)))})
    text = (
        "column 'berth': 3 values look like others and are not equal to them: "
        "'East[U+200B]' and 'East', 'West [U+0020]Mole' and 'West Mole', "
        "'WEST[U+00A0]Mole' and 'West Mole'"
    )
    for asked in ({"where": "berth = East"}, {"by": "berth"}, {"where": "berth = W*"}):
        (notice,) = table.tally("sum of dues", **asked).notices
        assert (notice.code, notice.text, notice.counts) == (Code.LOOK_ALIKES, text, {"values": 3})
    assert not table.tally("sum of dues", where="dues > 1").notices
    assert text in [finding.text for finding in table.profile().findings]
    assert not table.sift("berth = East or berth = North").tally("rows", by="berth").notices
    (nearest,) = table.sift("dues = 1").tally("rows", where="berth = East").notices
    assert nearest.text.endswith("the closest is 'East[U+200B]'")


def test_of_several_without_a_plain_one_each_is_told_beside_the_first():
    table = table_from({"berth": ["a\u00a0b", "a\u202fb", "a\tb", "c\u200b"]})
    (notice,) = table.tally("rows", by="berth").notices
    assert notice.counts == {"values": 2}


def test_what_is_seen_is_what_all_look_alikes_share():
    rng = random.Random()
    for _ in range(300):
        words = ["".join(rng.choices("abñ", k=3)) for _ in range(2)]
        text = rng.choice([" ", *ODD[1:8:3]]).join(words)
        odd = rng.choice(ODD[:1] + ODD[2:4]) + text
        assert fold(as_seen(odd)) == fold(as_seen(text))
        assert with_signs(odd).isprintable()
