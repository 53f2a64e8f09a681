"""Lanes of texts that Arrow folds and sorts are those that plain Python makes."""

import unicodedata
from dataclasses import replace
from operator import ne

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import assume, example, given
from hypothesis import strategies as st

from even_sieve.core.criteria.operands import Pattern, read_letters
from even_sieve.core.criteria.operands.wildcards import may_fold_longer, one_to_one
from even_sieve.core.table.coded_lanes import text_lane
from even_sieve.core.table.ordered_texts import places_equal_to_each
from even_sieve.sources import folding, letters_held, side_by_side, string_order, text_lanes
from even_sieve.sources.arrow_buffers import Bytes
from even_sieve.sources.arrow_strings import Strings
from even_sieve.sources.string_order import in_order
from even_sieve.sources.string_words import Words
from even_sieve.sources.text_lanes import text_lane_of

_LETTERS = st.sampled_from(
    [
        "ab",
        "aAbB\0",
        "aäößÄẞé",
        "aσΣςİi",
        "東京都a",
        "a\u0301e",
        "01",
        "각\u11a8",
        "⚓️🚢a",
        "٣ب-",
        "कि़ा",
        "กรุงเทพ้ัี",
        "ñÑn\u0303N\u0331h\u0323",
        "בְּרָאכ",
        "e\u0323\u0301E",
        "ΐΰʹ\u0344\u212b",
        "ＡＢﬁ",
    ]
)
_WORDS = _LETTERS.flatmap(
    lambda letters: st.tuples(
        st.sampled_from(["", "prefix99", "prefix9", "prefix99" * 2 + "x", "prefix" * 20]),
        st.lists(st.text(letters, min_size=1, max_size=12), min_size=1, max_size=40),
    )
).map(lambda each: [each[0] + word for word in each[1]])


@pytest.mark.parametrize("threads", [1, 3])
@given(words=_WORDS)
@example(words=["Straße", "STRASSE", "strasse", "Strasse"])
def test_texts_are_folded_and_ordered_as_one_by_one(threads, words):
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(side_by_side, "_LEAST", 2)
        patch.setattr(side_by_side, "cpu_count", lambda: threads)
        patch.setattr(string_order, "_PART", 3)
        patch.setattr(string_order, "_KEPT", threads)
        patch.setattr(string_order, "_MANY", threads)
        patch.setattr(text_lanes, "_BLOCK", 5)
        _compare_with_one_by_one(words)


def _compare_with_one_by_one(words):
    array = pa.array(words)
    order = sorted(range(len(words)), key=words.__getitem__)
    sort, new = in_order(array)
    assert sort.tolist() == order
    for beside in (pa.array(["zz", *words, "0"])[1:-1], pa.array([*words, "tail of them"])[:-1]):
        assert in_order(beside)[0].tolist() == order
    ordered = [words[each] for each in order]
    assert new.tolist() == [True, *map(ne, ordered[1:], ordered)]
    lane, different = text_lane_of(array), list(dict.fromkeys(words))
    plain = text_lane(different, np.array([different.index(each) for each in words]))
    assert [lane.spellings[code] for code in lane.codes] == words
    assert list(lane.spellings) == list(plain.spellings)
    assert list(lane.folded) == list(plain.folded)
    asked = [*lane.folded, "", "aa", "zz", "\udcff"]
    assert places_equal_to_each(lane.folded, asked[:-1]) == list(map(plain.range_of, asked[:-1]))
    assert places_equal_to_each(lane.folded, asked) == list(map(plain.range_of, asked))


@given(
    st.sampled_from(["ab", "0123456789.-: T", "01234567", "01234567890kr. é"]).flatmap(
        lambda letters: st.lists(st.text(letters, max_size=40), min_size=1, max_size=12)
    )
)
@example(["", ""])
def test_texts_of_few_kinds_of_letters_are_ordered_by_more_of_them_at_a_time(words):
    ends = [*words, *map(str, range(30, 60)), *map(str, range(30, 60))]
    many = pa.array([*(f"0000 {'1' * 8}{each}" for each in ends), "1"])
    kinds = set("".join(map(str, many)).encode())
    taken = Words.of(Bytes.of(many), 0).step
    assert taken > 8 if len(kinds) <= 15 else taken == 8
    _compare_with_one_by_one(many.to_pylist())
    _compare_with_one_by_one(words)


def test_marks_are_joined_only_where_they_are_not():
    words = ["กุ้ง", "น้ำ", "ปู", "e\u0301", "é", "E\u0323\u0301", "ê"]
    letters = sorted({ord(letter) for word in words for letter in word})
    unjoined = folding._Unjoined.among(letters)
    made, changed = unjoined.joined(pa.array(words))
    assert made.to_pylist() == [unicodedata.normalize("NFC", word) for word in words]
    assert changed.to_pylist() == ["é", "Ẹ\u0301"]


@given(_WORDS, st.text("aAbß.é0東\n*?*?*?", min_size=1, max_size=6))
@example(["Straße", "STRASSE"], "stra?e")
@example(["s\u0307a", "sab", "stab", "sßb"], "?a")
@example(["s\u0307a", "sab", "stab", "sßb", "t"], "s??")
@example(["a" * 3000, "b"], "*" + "a" * 2999)
def test_wildcards_search_them_as_one_by_one(words, written):
    pattern = read_letters(written)
    assume(isinstance(pattern, Pattern))
    lane = text_lane_of(pa.array(list(dict.fromkeys(words))))
    plain = replace(lane, spellings=tuple(lane.spellings), folded=tuple(lane.folded))
    assert pattern.codes_in(lane).tolist() == pattern.codes_in(plain).tolist()


def test_letters_that_fold_to_several_are_found_however_they_are_written():
    letters = (chr(each) for each in range(0x80, 0x110000) if not 0xD800 <= each < 0xE000)
    longer = [each for each in letters if not one_to_one(each)]
    texts = dict.fromkeys([*longer, *(unicodedata.normalize("NFD", each) for each in longer)])
    assert len(texts) > 100
    for text in texts:
        assert [*may_fold_longer(Strings(pa.array([f"Quay {text}"])))] == [0]
    assert [*may_fold_longer(Strings(pa.array(["Möwe", "港", "é"])))] == []


@given(words=st.lists(st.text(st.characters(exclude_categories=["Cs"])), max_size=9))
@example(words=["a\0\x7f", "\x80\u07ff", "\u0800\uffff", "\U00010000\U0010ffff"])
def test_letters_of_texts_are_told_both_ways(words):
    strings = pa.array(words, pa.string())
    wanted = sorted({ord(letter) for word in words for letter in word})
    assert letters_held.letters_of(strings).tolist() == wanted
    assert letters_held._by_pairs(strings).tolist() == wanted


@pytest.mark.parametrize("written", ["?ß*x", "?ß\u0301x", "e?*x", "*?\u0301x"])
def test_letters_with_marks_match_as_they_are_written(written):
    lane = text_lane_of(pa.array(["eß\u0301x", "essx", "eßy", "mole"]))
    found = read_letters(written).codes_in(lane)
    assert [lane.spellings[at] for at in np.flatnonzero(found)][-1:] == ["eß\u0301x"]
