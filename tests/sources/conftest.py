"""Columns of texts are read by one compiled pass where there is one, and by several of NumPy."""

import pytest

from even_sieve.sources import at_hand


@pytest.fixture
def by_passes(monkeypatch):
    """Read as where no compiler was at hand."""
    monkeypatch.setattr(at_hand, "compiled", None)


@pytest.fixture(params=["at once", "by passes"])
def each_way(request, monkeypatch):
    """Read both ways, one after the other."""
    if request.param == "by passes":
        monkeypatch.setattr(at_hand, "compiled", None)
    elif at_hand.compiled is None:
        pytest.skip("there was no compiler")
