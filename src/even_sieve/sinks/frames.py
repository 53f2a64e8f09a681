"""Tables as data frames of pandas, each column of a type of its own where it has one."""

from typing import TYPE_CHECKING, Any

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.table import Column, Table
from even_sieve.core.table.lanes import Array, DateLane, FixedLane, FloatLane, TextLane, YesNoLane
from even_sieve.sinks.files import with_marks

if TYPE_CHECKING:
    import pandas as pd

#: Up to here whole numbers are doubles.
MOST_EXACT = 2**53


def frame_of(table: Table) -> "pd.DataFrame":
    """Return the table's cells, its row numbers as the index, its marks in a column `mark`.

    The rows of several sources have the name of their own before their number in the index.
    Whole numbers are int64, or doubles where cells are blank, other numbers doubles, dates
    datetime64, texts strings; a blank is missing. What is of several kinds, has longer decimals
    than a double, or holds errors stands as Python objects.
    """
    import pandas as pd

    own = table.row_numbers
    numbers = np.arange(own, own + table.length) if isinstance(own, int) else own
    index: Any = pd.Index(numbers, name="row")
    if table.origins is not None:
        codes: Any = table.origins.codes
        origins = pd.Categorical.from_codes(codes, pd.Index(table.origins.names))
        index = pd.MultiIndex.from_arrays([origins, numbers], names=["origin", "row"])
    columns = with_marks(table).columns
    made = {each.name: pd.Series(_values(each), index=index) for each in columns}
    return pd.DataFrame(made, index=index)


def _values(column: Column) -> Any:
    """Return a column's cells as pandas holds them."""
    kinds = set(column.counts) - {Kind.BLANK}
    made = None
    if len(kinds) == 1:
        (kind,) = kinds
        blank = None if column.states is None else column.states != kind
        if blank is not None and not blank.any():
            blank = None
        made = _typed(column.lanes[kind], blank)
    if made is None:  # as Python objects: pandas would round long whole numbers among gaps
        made = np.empty(column.length, dtype=object)
        made[:] = list(column.cells())
    return made


def _typed(lane: Any, blank: Array | None) -> Any:
    """Return the values of a lane as one array; None where they have no type of their own."""
    if isinstance(lane, FixedLane):
        return _numbers(lane, blank)
    if isinstance(lane, FloatLane):
        return None if lane.longer else _with_gaps(lane.values + 0.0, blank)  # -0.0 is 0.0
    if isinstance(lane, DateLane):
        unit = "us" if lane.has_time else "D"
        values = lane.values.astype(np.int64).astype(f"datetime64[{unit}]").astype("datetime64[us]")
        return values if blank is None else np.where(blank, np.datetime64("NaT"), values)
    if isinstance(lane, TextLane):
        return _texts(lane, blank)
    return lane.values if isinstance(lane, YesNoLane) and blank is None else None


def _numbers(lane: FixedLane, blank: Array | None) -> Any:
    if not lane.scale and blank is None:
        return lane.values
    if lane.bound >= MOST_EXACT:
        return None
    return _with_gaps(lane.values / 10**lane.scale, blank)


def _with_gaps(values: Array, blank: Array | None) -> Array:
    return values if blank is None else np.where(blank, np.nan, values)


def _texts(lane: TextLane, blank: Array | None) -> Any:
    import pandas as pd

    spellings = np.empty(len(lane.spellings) + 1, dtype=object)
    spellings[:-1] = list(lane.spellings)
    codes = lane.codes if blank is None else np.where(blank, len(lane.spellings), lane.codes)
    kind: Any = text_type()
    return pd.array(spellings[codes], dtype=kind)


def text_type() -> str:
    """Return what pandas calls its type of texts."""
    import pandas as pd

    return "str" if pd.__version__ >= "3" else "string"
