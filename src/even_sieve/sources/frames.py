"""Data frames of pandas. The module that has them is imported by whoever made the frame."""

from dataclasses import replace
from typing import Any

import numpy as np

from even_sieve.core.table import Column, Table, column_from
from even_sieve.core.table.coded_column import column_of_places
from even_sieve.core.table.offsets import zone_notices
from even_sieve.sources.arrow_columns import column_of_array
from even_sieve.sources.text_columns import column_of_texts


def table_from_frame(frame: Any) -> Table:
    """Return a table from a pandas data frame; rows are numbered from 1, the index is left out.

    NaN, NaT, NA and None are blanks; times with a zone are brought to UTC. Lengths of time,
    periods and intervals become texts: `1 day, 2:30:00`, `2031-Q1`, `(0, 10]`. Ordered categories
    keep their order on an axis.
    """
    names = [str(name).strip() for name in frame.columns]
    columns = tuple(_column(name, frame.iloc[:, i]) for i, name in enumerate(names))
    return Table(columns, len(frame), 1, None, "data frame")


def frame_rows(frame: Any) -> list[list[Any]]:
    """Return the frame's rows as lists of plain values, None for what is missing."""
    cells = [_column(str(i), frame.iloc[:, i]).cells() for i in range(frame.shape[1])]
    return [list(row) for row in zip(*cells, strict=True)]


def _column(name: str, series: Any) -> Column:
    kind = series.dtype.kind
    if hasattr(series.dtype, "categories"):
        values = _column(name, series.cat.categories.to_series())
        column = column_of_places(values, series.cat.codes.to_numpy().astype(np.int32))
        return replace(column, order=tuple(values.cells())) if series.cat.ordered else column
    if kind == "M" and not hasattr(series.dtype, "pyarrow_dtype"):
        zone = getattr(series.dtype, "tz", None)
        if zone is None:
            return column_from(name, series.to_numpy())
        column = column_from(name, series.dt.tz_convert("UTC").dt.tz_localize(None).to_numpy())
        return replace(column, notices=(*column.notices, *zone_notices(name, str(zone))))
    if kind == "m" or (kind != "O" and hasattr(series.array, "__arrow_array__")):
        return column_of_array(name, _arrow(series), "data frame")
    if kind in "iufb":
        return column_from(name, series.to_numpy())
    if str(series.dtype).startswith(("period", "interval")):
        series = series.astype(str).where(series.notna(), None)
    texts = _strings(series)
    if texts is not None:
        return column_of_texts(name, texts)
    missing = series.isna().to_numpy()
    cells = [None if gone else cell for cell, gone in zip(series, missing, strict=True)]
    return column_from(name, cells)


def _arrow(series: Any) -> Any:
    """Return a series as an Arrow array of one piece."""
    import pyarrow as pa

    found = pa.array(series, from_pandas=True)
    return pa.concat_arrays(found.chunks) if isinstance(found, pa.ChunkedArray) else found


def _strings(series: Any) -> Any:
    """Return a series of strings as an Arrow array; None for another one."""
    import pyarrow as pa
    from pandas.api.types import infer_dtype

    if series.dtype.kind != "O" and str(series.dtype) not in ("str", "string"):
        return None
    if infer_dtype(series, skipna=True) != "string":
        return None
    try:
        return _arrow(series)
    except (pa.ArrowInvalid, UnicodeEncodeError):  # half of a letter is no UTF-8
        return None
