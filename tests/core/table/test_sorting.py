import random
from datetime import date, datetime

import numpy as np
import pytest

from even_sieve.core.cells import CellError
from even_sieve.core.table import column_from
from even_sieve.core.table.sorting import _ranks, sort_keys

MAKE = [
    [1, -5, 3, 10**17], [0.5, -2.25, 1e-9, 1 / 3, -0.0, 0], ["Mole", "mole", "East", "é", "É"], [True, False],
    [date(2031, 1, 5), date(1, 1, 1)], [datetime(2031, 1, 5, 12), datetime(2031, 1, 5)],
    [CellError("#N/A", "lost"), 5], [5, "5", date(2031, 1, 5)], [1e300, 2, 1 / 7],
]  # fmt: skip


@pytest.mark.parametrize("cells", MAKE)
@pytest.mark.parametrize("descending", [False, True])
def test_rows_stand_in_the_order_of_the_ranks_of_their_values(cells, descending):
    rng = random.Random()
    for more in ([], [None]):
        column = column_from("x", [rng.choice([*cells, *more]) for _ in range(60)])
        rows = np.array(rng.sample(range(60), 40))
        wanted = np.lexsort(_ranks(column, descending)(rows))
        assert (
            np.lexsort(sort_keys(column, descending=descending)(rows)).tolist() == wanted.tolist()
        )
