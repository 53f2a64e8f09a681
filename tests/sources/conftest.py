"""Columns of texts are read by one compiled pass where there is one, and by several of NumPy."""

import pytest

from even_sieve.sources import told_cells


@pytest.fixture
def by_passes(monkeypatch):
    """Read as where no compiler was at hand."""
    monkeypatch.setattr(told_cells, "compiled", None)


@pytest.fixture(params=["at once", "by passes"])
def each_way(request, monkeypatch):
    """Read both ways, one after the other."""
    if request.param == "by passes":
        monkeypatch.setattr(told_cells, "compiled", None)
    elif told_cells.compiled is None:
        pytest.skip("there was no compiler")
