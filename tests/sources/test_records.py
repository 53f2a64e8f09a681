"""Many texts of a list are read as few are, and NumPy's as Python's."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from even_sieve import read_table, table_from
from even_sieve.core.errors import CallError, SourceError, SourceNotFound
from even_sieve.core.table import column_from
from even_sieve.sources import records

_CELLS = st.one_of(
    st.none(),
    st.text("aÄß \u00a0\x1c\x85\u200b\0é0東\u0301\n'#", max_size=4),
    st.sampled_from(["#N/A", "Pier", "PIER", "\ud800"]),
)


@given(st.lists(_CELLS, min_size=1, max_size=40))
def test_many_texts_are_what_few_are(cells):
    few = column_from("zone", cells)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(records, "_MANY", 1)
        many = table_from({"zone": cells}).core.columns[0]
    assert list(many.cells()) == list(few.cells())
    assert (many.counts, many.notices) == (few.counts, few.notices)
    for kind, lane in few.lanes.items():
        assert list(many.lanes[kind].folded) == list(lane.folded)


def test_arrays_of_texts_are_lists_of_them():
    texts = ["Outer", "inner", "", "Outer"] * 5000
    for cells in (np.array(texts), np.array(texts, dtype=object), iter(texts), tuple(texts)):
        assert table_from({"zone": cells}).column("zone") == [each or None for each in texts]


def test_names_that_are_no_texts_keep_their_cells():
    table = table_from([{2031: 5, "zone": "Outer"}, {2031: 7, None: 1}])
    assert table.names == ("2031", "zone", "None")
    assert [table.column(name) for name in table.names] == [[5, 7], ["Outer", None], [None, 1]]


def test_a_table_without_a_column_is_neither_read_nor_written(tmp_path):
    path = tmp_path / "calls.jsonl"
    path.write_text("{}\n{}\n")
    for read in (lambda: read_table(path), lambda: table_from([{}, {}])):
        with pytest.raises(SourceError, match="no record has a name"):
            read()
    for ending in ("csv", "jsonl", "parquet", "arrow", "xlsx", "ods"):
        with pytest.raises(CallError, match="a table without a column is not written"):
            table_from({}).write(tmp_path / f"out.{ending}")
        assert not (tmp_path / f"out.{ending}").exists()
    with pytest.raises(SourceNotFound, match="no file has such a name"):
        read_table([tmp_path / "a\0.csv", path])
