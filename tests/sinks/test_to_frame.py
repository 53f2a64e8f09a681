"""Data frames: each column of a type of its own, and back again."""

from datetime import date, datetime

import pandas as pd

from even_sieve import CellError, table_from


def test_each_kind_has_its_own_type_and_a_blank_is_missing():
    frame = table_from({
        "tons": [5, -7], "dues": [1.25, None], "whole": [3, None], "rate": [1 / 3, 1e300],
        "arrived": [date(2031, 1, 5), None], "left": [datetime(9999, 12, 31, 23, 59), None],
        "zone": ["Outer", None], "paid": [True, False],
    }).to_frame()  # fmt: skip
    assert [each.dtype.kind for _, each in frame.items()][:6] == ["i", "f", "f", "f", "M", "M"]
    assert pd.api.types.is_string_dtype(frame["zone"])
    assert frame["paid"].dtype == bool
    assert frame["dues"].tolist()[0] == 1.25
    assert frame["arrived"][1] == pd.Timestamp("2031-01-05")
    assert frame.iloc[1][["dues", "whole", "arrived", "left", "zone"]].isna().all()
    assert list(frame.index) == [1, 2]


def test_what_no_type_holds_stands_as_it_is():
    wrong = CellError("#N/A")
    frame = table_from({
        "mixed": [1, "waived"], "wrong": [2, wrong], "long": [2**60 + 1, None],
        "paid": [True, None],
    }).to_frame()  # fmt: skip
    assert frame["mixed"].tolist() == [1, "waived"]
    assert frame["wrong"].tolist() == [2, wrong]
    assert frame["long"].tolist()[0] == 2**60 + 1
    assert frame["paid"].tolist() == [True, None]


def test_strings_of_any_kind_of_column_are_texts():
    words = ["Straße", " 007 ", None, "", "#N/A"]
    for kind in (object, "string", "category"):
        found = table_from(pd.DataFrame({"zone": pd.Series(words, dtype=kind)}))
        assert list(found.column("zone")) == ["Straße", "007", None, None, "#N/A"], kind
    odd = table_from(pd.DataFrame({"zone": pd.Series(["\ud800", "a"], dtype=object)}))
    assert list(odd.column("zone")) == ["\ud800", "a"]
