"""Tables of Arrow: from Parquet and Arrow files, and from whatever speaks the C stream protocol.

A column that our writer had to spell out (numbers with words among them) carries a note in
its metadata and is read as tokens again; any other column of strings is text.
"""

from dataclasses import replace
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.cells import Kind
from even_sieve.core.cells.dates import DAY
from even_sieve.core.errors import SourceError
from even_sieve.core.table import Column, Table, column_from, column_from_cells
from even_sieve.core.table.build import assemble
from even_sieve.core.table.lanes import DateLane, FixedLane, Lane
from even_sieve.sources.arrow_buffers import mask_of, stored
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.string_columns import column_from_strings
from even_sieve.sources.text_columns import column_of_coded, column_of_texts
from even_sieve.sources.tokens import offset_notice

#: The note on a column whose cells are spelt out as tokens.
SPELT_OUT = {b"even-sieve": b"tokens"}

#: Names under which times are in UTC already.
_UTC = ("UTC", "Etc/UTC", "Z", "+00:00")


def refuse_large(
    rows: int, columns: int, content: bytes, source: str, options: SourceOptions
) -> None:
    """Raise `SourceError` for a small file that says it holds far more than it has bytes for."""
    size, limits = rows * columns * _LEAST_BYTES, options.limits
    if columns > limits.columns:
        raise SourceError(source, f"{columns:,} columns: at most {limits.columns:,}")
    if size > _ALWAYS and size > limits.ratio * len(content):
        fact = f"{rows:,} rows of {columns:,} columns unpack to more than {limits.ratio:,} times"
        hint = "If that is right say: --at-most ratio=20000"
        raise SourceError(source, f"{fact} the {len(content):,} bytes of the file", hint)


_LEAST_BYTES, _ALWAYS = 4, 1 << 29


def table_of_arrow(arrow: Any, source: str, options: SourceOptions) -> Table:
    """Return the table of an Arrow table; rows are numbered from 1.

    Nulls and NaN are blanks. Raises `SourceError` for a column of lists or records.
    """
    try:
        arrow.validate(full=True)  # before any buffer is touched: a forged offset would crash
    except (pa.ArrowInvalid, pa.ArrowIndexError) as error:
        words = " ".join(str(error).split())[:160]
        raise SourceError(source, f"the data is damaged: {words}", "Write it again") from error
    if not arrow.num_columns:
        raise SourceError(source, "the table has no column")
    if arrow.num_columns > options.limits.columns:
        raise SourceError(
            source, f"{arrow.num_columns:,} columns: at most {options.limits.columns:,}"
        )
    columns = tuple(
        _column(field, arrow.column(i), source, options) for i, field in enumerate(arrow.schema)
    )
    return Table(columns, arrow.num_rows, 1, None, source)


def _column(field: Any, chunked: Any, source: str, options: SourceOptions) -> Column:
    name, kind = field.name.strip(), field.type
    array = chunked.combine_chunks()
    if isinstance(array, pa.ChunkedArray):
        array = pa.concat_arrays(array.chunks)
    if (field.metadata or {}).items() >= SPELT_OUT.items():
        filled = pc.fill_null(array, "")
        return column_from_strings(name, filled, options)
    if pa.types.is_dictionary(kind):
        return column_of_coded(name, array)
    if pa.types.is_string_view(kind):
        array, kind = pc.cast(array, pa.string()), pa.string()
    if pa.types.is_string(kind) or pa.types.is_large_string(kind):
        return column_of_texts(name, array)
    if pa.types.is_boolean(kind):
        return column_from_cells(name, array.to_pylist())
    if pa.types.is_floating(kind):
        return column_from(name, _floats(array))
    if pa.types.is_integer(kind) and kind != pa.uint64():
        values = stored(pc.fill_null(pc.cast(array, pa.int64()), 0), np.int64)
        return _of_kind(name, array, FixedLane(values, 0))
    if pa.types.is_date(kind):
        days = stored(pc.fill_null(pc.cast(pc.cast(array, pa.date32()), pa.int32()), 0), np.int32)
        return _of_kind(name, array, DateLane(days, False))
    if pa.types.is_timestamp(kind):
        return _moments(name, array)
    if pa.types.is_decimal(kind) or pa.types.is_null(kind) or pa.types.is_integer(kind):
        return column_from_cells(name, array.to_pylist())
    if pa.types.is_time(kind) or pa.types.is_duration(kind):
        return column_from_cells(name, [None if v is None else str(v) for v in array.to_pylist()])
    raise SourceError(source, f"column '{name}' holds {kind}", "Cells are single values")


def _floats(array: Any) -> Any:
    return stored(pc.fill_null(pc.cast(array, pa.float64()), float("nan")), np.float64)


def _of_kind(name: str, array: Any, lane: Lane) -> Column:
    """Return a column of the lane's kind, blank where the array has nulls."""
    states = np.full(len(array), lane.kind, dtype=np.uint8)
    if array.null_count:
        states[~mask_of(pc.is_valid(array))] = Kind.BLANK
    lanes: dict[Kind, Lane] = {lane.kind: lane} if (states == lane.kind).any() else {}
    if not lanes and len(array):
        return assemble(name, len(array), {}, states)
    return assemble(name, len(array), lanes or {lane.kind: lane}, states)


def _moments(name: str, array: Any) -> Column:
    """Return the column of times in UTC; of days where no cell has a time."""
    plain = pc.cast(array, pa.timestamp("us", tz=array.type.tz), safe=False)
    micros = stored(pc.fill_null(pc.cast(plain, pa.int64()), 0), np.int64)
    zone = str(array.type.tz or "UTC")
    if zone not in _UTC:
        column = _of_kind(name, array, DateLane(micros, True))
        return replace(column, notices=(*column.notices, offset_notice(name, zone)))
    if (micros % DAY).any():
        return _of_kind(name, array, DateLane(micros, True))
    return _of_kind(name, array, DateLane((micros // DAY).astype(np.int32), False))
