"""Data frames of pandas. The module that has them is imported by whoever made the frame."""

from typing import Any

import numpy as np

from even_sieve.core.cells import Cell
from even_sieve.core.table import Column, Table, column_from, column_from_cells, column_from_codes
from even_sieve.core.table.lanes import narrowest
from even_sieve.sources.text_columns import column_of_texts


def table_from_frame(frame: Any) -> Table:
    """Return a table from a pandas data frame; rows are numbered from 1, the index is left out.

    NaN, NaT, NA and None are blanks; times with a zone are brought to UTC.
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
        return _from_codes(name, series.cat.codes.to_numpy(), list(series.cat.categories))
    if kind == "M":
        if getattr(series.dtype, "tz", None) is not None:
            series = series.dt.tz_convert("UTC").dt.tz_localize(None)
        return column_from(name, series.to_numpy())
    if kind in "iufb":
        if isinstance(series.dtype, np.dtype):
            return column_from(name, series.to_numpy())
        if not series.isna().any():
            return column_from(name, series.to_numpy(dtype=series.dtype.numpy_dtype))
    texts = _strings(series)
    if texts is not None:
        return column_of_texts(name, texts)
    missing = series.isna().to_numpy()
    cells = [None if gone else cell for cell, gone in zip(series, missing, strict=True)]
    return column_from_cells(name, cells)


def _strings(series: Any) -> Any:
    """Return a series of strings as an Arrow array; None for another one."""
    import pyarrow as pa
    from pandas.api.types import infer_dtype

    if series.dtype.kind != "O" and str(series.dtype) not in ("str", "string"):
        return None
    if infer_dtype(series, skipna=True) != "string":
        return None
    try:
        found = pa.array(series, from_pandas=True)
        found = found.combine_chunks() if isinstance(found, pa.ChunkedArray) else found
        return pa.concat_arrays(found.chunks) if isinstance(found, pa.ChunkedArray) else found
    except (pa.ArrowInvalid, UnicodeEncodeError):  # half of a letter is no UTF-8
        return None


def _from_codes(name: str, codes: Any, values: list[Any]) -> Column:
    """Return a column from codes into distinct values, -1 for a blank."""
    plain = column_from_cells(name, [*values, None])
    cells: list[Cell] = list(plain.cells())
    order = np.where(codes < 0, len(values), codes).astype(narrowest(len(cells)))
    return column_from_codes(name, cells, order)
