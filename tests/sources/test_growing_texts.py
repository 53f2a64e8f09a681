"""Texts of a column that come in pieces, few or many different ones: the same as all at once."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from even_sieve.core.cells import Kind
from even_sieve.core.table import column_from
from even_sieve.core.table.growing import Growing
from even_sieve.sources import growing_texts
from even_sieve.sources.arrow_buffers import strings_of
from even_sieve.sources.growing_cells import read_in_bulk

WORDS = st.text("aAbBöÖİß ", min_size=1, max_size=3).map(str.strip)
CELLS = st.lists(st.one_of(WORDS, WORDS, st.sampled_from(["", "5", "2031-04-01"])), max_size=12)


@given(st.lists(CELLS, max_size=6), st.sampled_from([0, 3, 1 << 16]), st.integers(0, 8))
def test_pieces_are_one_column(pieces, many, waiting):
    whole = [cell for piece in pieces for cell in piece]
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(growing_texts, "_MANY", many)
        patch.setattr(growing_texts, "_WAITING", waiting)
        grown = Growing("zone", len(whole) + 2, growing_texts.GrowingTexts)
        for number, piece in enumerate(pieces):
            by_arrow = read_in_bulk("zone", strings_of(piece))
            grown.add(by_arrow if number % 2 else column_from("zone", list(by_arrow.cells())))
        found = grown.column()
    wanted = read_in_bulk("zone", strings_of(whole))
    assert list(found.cells()) == list(wanted.cells())
    own, other = (column.lanes.get(Kind.TEXT) for column in (found, wanted))
    if other is not None:
        used = sorted(set(found.used_texts.tolist()))
        assert [own.spellings[code] for code in used] == list(other.spellings)
        assert found.different(Kind.TEXT) == wanted.different(Kind.TEXT)
