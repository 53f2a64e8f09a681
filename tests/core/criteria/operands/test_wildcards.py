"""Wildcards: over the whole cell, without regard to case, in linear time."""

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from even_sieve.core.cells import fold
from even_sieve.core.criteria.operands import Pattern, read_letters
from even_sieve.core.criteria.operands.wildcards import matcher

MATCHES = [
    ("B*", "Bold", True), ("B*", "b", True), ("B*", "ab", False), ("*b", "ab", True),
    ("a*b", "ab", True), ("a*b", "a b c b", True), ("a*b", "abc", False), ("?", "x", True),
    ("?", "", False), ("??", "x", False), ("*", "", True), ("**", "x", True), ("a?c", "abc", True),
    ("a?*c", "ac", False), ("*a*a*", "a", False), ("*a*a*", "aa", True), ("*aa", "aaa", True),
    ("ab*ba", "aba", False), ("a*?", "a", False), ("?*?", "ab", True), ("*\n*", "a\nb", True),
    ("a.c*", "abc", False), ("[a]*", "[A]x", True), ("str*sse", "STRASSE", True),
    ("ß*", "ssx", True), ("É?", "éa", True), ("e\u0301*", "Éa", True),
]  # fmt: skip


def parts(pattern):
    read = read_letters(pattern)
    assert isinstance(read, Pattern)
    return read.parts


@pytest.mark.parametrize(("pattern", "text", "wanted"), MATCHES)
def test_a_pattern_matches_the_whole_text(pattern, text, wanted):
    assert matcher(parts(pattern))(fold(text)) is wanted


@given(
    st.text("ab*?", min_size=1, max_size=8).filter(lambda text: set(text) & set("*?")),
    st.text("ab", max_size=12),
)
def test_a_pattern_matches_what_a_regular_expression_does(pattern, text):
    written = "".join({"*": ".*", "?": "."}.get(char, char) for char in pattern)
    assert matcher(parts(pattern))(text) == bool(re.fullmatch(written, text))


def test_no_piece_is_looked_for_twice_however_hopeless_the_pattern(monkeypatch):
    """Each piece is searched for once, from where the one before ended."""
    steps = []
    usual = re.compile

    class Counted:
        def __init__(self, written, flags):
            self.inner = usual(written, flags)

        def __getattr__(self, name):
            steps.append(name)
            return getattr(self.inner, name)

    monkeypatch.setattr("even_sieve.core.criteria.operands.wildcards.re.compile", Counted)
    hopeless = matcher(parts("a*" * 30 + "b"))
    assert hopeless("a" * 100_000 + "c") is False
    assert len(steps) <= 31
