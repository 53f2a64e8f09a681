"""Breakdowns of very many groups: what is done a stretch at a time gives the same as at once."""

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from even_sieve import Table
from even_sieve.core.cells import Kind
from even_sieve.core.table import arrays, column_from, distinct
from even_sieve.documents import every_line
from even_sieve.documents.document import Records
from even_sieve.renderers import files
from strategies import rows, table_of


@pytest.mark.parametrize("ending", ["csv", "parquet", "jsonl"])
@settings(
    max_examples=12, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(plain=rows(least=4, most=14), by=st.sampled_from(["zone", "remarks", "dues", "arrived"]))
def test_files_of_lines_are_the_same_written_in_stretches(tmp_path, monkeypatch, ending, plain, by):
    table = Table(table_of(plain))
    asked = ("sum of tons", "max of dues", "first of zone", "rows")
    order = {"sort": "sum of tons desc"}
    at_once, in_stretches = tmp_path / f"one.{ending}", tmp_path / f"many.{ending}"
    table.tally(*asked, by=by, **order).write(at_once)
    with monkeypatch.context() as patch:
        patch.setattr(every_line, "BLOCK", 2)
        patch.setattr(arrays.spans, "__defaults__", (3, 0))
        table.tally(*asked, by=by, **order).write(in_stretches)
    assert in_stretches.read_bytes() == at_once.read_bytes()


@pytest.mark.parametrize(
    "cells", [["Pier", "pier", "Höhe"], ["\ud800", "Pier"], ["Pier", None], [2, "Pier"], [2, 3.5]]
)
def test_a_column_made_of_stretches_is_that_of_its_cells(cells):
    stretched = every_line.Stretched(len(cells), lambda rows: cells[rows], ["PIER", "Mole"])
    (found,) = files.table_of(Records({"mark": stretched})).columns
    plain = column_from("mark", [*cells, "PIER", "Mole"])
    assert list(found.cells()) == [*cells, "PIER", "Mole"]
    texts = [at for at, cell in enumerate(plain.cells()) if isinstance(cell, str)]
    (ours, places), (theirs, wanted) = (each.values_of(Kind.TEXT) for each in (found, plain))
    assert list(ours) == list(theirs)
    assert places[texts].tolist() == wanted[texts].tolist()


@given(st.lists(st.integers(-(2**40), 2**40), min_size=1), st.integers(1, 7))
def test_values_that_lie_far_from_one_another_are_numbered(values, few):
    usual, distinct._FEW = distinct._FEW, few
    try:
        found, codes = distinct.numbered(distinct.Values((np.array(values),)))
    finally:
        distinct._FEW = usual
    assert found.tolist() == sorted(set(values))
    assert found[codes].tolist() == values
