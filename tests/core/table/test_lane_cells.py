"""The cells of a lane, many at once, beside each by itself."""

from datetime import datetime
from decimal import Decimal

import numpy as np
import pytest

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.table import column_from

SHARED = [Decimal("12345678901234567.25"), Decimal("12345678901234567.5")]


@pytest.mark.parametrize(
    "cells",
    [
        [12.5, None, 0.07, -3.0],
        [1, 2, 999_999_999_999_999_999],
        [*SHARED, 7.5e-30, "pier", CellError("#N/A")],
        [datetime(2031, 5, 6, 7, 8, 9, 10), datetime(1, 1, 1), datetime(9999, 12, 31, 23, 59)],
        [True, False, "Mole", None, 1, 2.25],
        [1e300, -0.0, 2.5e-200],
        [],
        [None, None],
    ],
)
def test_cells_at_once_are_those_one_by_one(cells: list[Cell]) -> None:
    column = column_from("dues", cells * 3)
    alone = [column.cell(row) for row in range(column.length)]
    rows = np.random.default_rng(5).permutation(column.length).tolist()
    for found, wanted in (
        (list(column.cells()), alone),
        (list(column.cells(rows)), [alone[row] for row in rows]),
    ):
        assert found == wanted
        assert list(map(type, found)) == list(map(type, wanted))
        assert list(map(repr, found)) == list(map(repr, wanted))


def test_decimals_that_share_a_double_are_both_given_out() -> None:
    assert list(column_from("dues", [*SHARED, 1e300]).cells()) == [*SHARED, 1e300]
