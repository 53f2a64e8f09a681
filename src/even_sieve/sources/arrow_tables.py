"""Tables of Arrow: from Parquet and Arrow files, and from whatever speaks the C stream protocol.

A column that our writer had to spell out (numbers with words among them) carries a note in
its metadata and is read as tokens again; any other column of strings is text.
"""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.cells import Kind
from even_sieve.core.errors import SourceError
from even_sieve.core.table import Column, Table, column_from, column_from_cells
from even_sieve.core.table.build import assemble
from even_sieve.core.table.from_arrays import column_of_moments, fixed_together
from even_sieve.core.table.lanes import FixedLane, Lane, YesNoLane
from even_sieve.sources.arrow_buffers import mask_of, scalar_of, stored
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.string_columns import column_from_strings
from even_sieve.sources.text_columns import column_of_coded, column_of_texts
from even_sieve.sources.tokens import offset_notice

#: The note on a column whose cells are spelt out as tokens.
SPELT_OUT = {b"even-sieve": b"tokens"}

#: Names under which times are in UTC already.
_UTC = ("UTC", "Etc/UTC", "Z", "+00:00")


def refuse_large(rows: int, columns: int, packed: int, source: str, options: SourceOptions) -> None:
    """Raise `SourceError` for a small file that says it holds far more than it has bytes for."""
    size, limits = rows * columns * _LEAST_BYTES, options.limits
    if columns > limits.columns:
        raise SourceError(source, f"{columns:,} columns: at most {limits.columns:,}")
    if size > _ALWAYS and size > limits.ratio * packed:
        fact = f"{rows:,} rows of {columns:,} columns unpack to more than {limits.ratio:,} times"
        hint = "If that is right say: --at-most ratio=20000"
        raise SourceError(source, f"{fact} the {packed:,} bytes of the file", hint)


_INT64 = 2**63 - 1
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


def is_plain(schema: Any) -> bool:
    """Tell whether each column can be read in pieces, and by its name.

    Not those that hold columns themselves, and not those whose cells are spelt out: what these
    are, all of a column tells.
    """
    names = {name.strip().casefold() for name in schema.names}
    whole = any(
        pa.types.is_nested(field.type) or (field.metadata or {}).items() >= SPELT_OUT.items()
        for field in schema
    )
    return len(names) == len(schema.names) and not whole


def column_of_arrow(
    arrow: Any, names: Mapping[str, str], source: str, options: SourceOptions, name: str
) -> Column:
    """Return one column of an Arrow table, called `name` by us and otherwise in the table."""
    return table_of_arrow(arrow.select([names[name]]), source, options).columns[0]


def _column(field: Any, chunked: Any, source: str, options: SourceOptions) -> Column:
    name, kind = field.name.strip(), field.type
    array = chunked.combine_chunks()
    if isinstance(array, pa.ChunkedArray):
        array = pa.concat_arrays(array.chunks)
    if (field.metadata or {}).items() >= SPELT_OUT.items():
        return column_from_strings(name, filled(array, ""), options)
    if pa.types.is_dictionary(kind):
        return column_of_coded(name, array)
    if pa.types.is_string_view(kind):
        array, kind = pc.cast(array, pa.string()), pa.string()
    if pa.types.is_string(kind) or pa.types.is_large_string(kind):
        return column_of_texts(name, array)
    if pa.types.is_boolean(kind):
        return _of_kind(name, array, YesNoLane(mask_of(pc.fill_null(array, scalar_of(False)))))
    if pa.types.is_floating(kind):
        return _of_doubles(name, array)
    if pa.types.is_integer(kind) and kind != pa.uint64():
        values = stored(filled(pc.cast(array, pa.int64()), 0), np.int64)
        lane = FixedLane(values, 0)
        if lane.ends[0] < -_INT64:  # it has no counterpart above: kept as a double, as from a text
            return column_from_cells(name, array.to_pylist())
        return _of_kind(name, array, lane)
    if pa.types.is_date(kind):
        return _days(name, array)
    if pa.types.is_timestamp(kind):
        return _moments(name, array)
    if pa.types.is_decimal128(kind) and kind.precision <= _MOST_DIGITS and kind.scale >= 0:
        return _of_kind(name, array, _decimals(array, kind.scale))
    if pa.types.is_decimal(kind) or pa.types.is_null(kind) or pa.types.is_integer(kind):
        return column_from_cells(name, array.to_pylist())
    if pa.types.is_time(kind) or pa.types.is_duration(kind):
        return column_from_cells(name, [None if v is None else str(v) for v in array.to_pylist()])
    raise SourceError(source, f"column '{name}' holds {kind}", "Cells are single values")


#: Decimals of so many digits go into whole numbers of 64 bits.
_MOST_DIGITS = 18


def _decimals(array: Any, scale: int) -> FixedLane:
    """Return decimals with as few places as all of them need."""
    whole = filled(array, "0")
    values = np.frombuffer(whole.buffers()[1], dtype=np.int64)[::_WORDS]
    values = values[whole.offset : whole.offset + len(whole)].copy()
    while scale and not (values % 10).any():
        values //= 10
        scale -= 1
    return FixedLane(values, scale)


#: A decimal takes so many words of 64 bits, the lowest first.
_WORDS = 2


def _of_doubles(name: str, array: Any) -> Column:
    """Return the column of doubles, or of shorter ones; NaN is a blank."""
    if pa.types.is_float64(array.type):
        fixed = fixed_together(stored(filled(array, 0.0), np.float64))
        if fixed is not None:
            return _of_kind(name, array, FixedLane(*fixed))
        return column_from(name, stored(filled(array, float("nan")), np.float64))
    short = stored(filled(array, float("nan")), array.type.to_pandas_dtype())
    return column_from(name, short)


def filled(array: Any, value: Any) -> Any:
    """Return an array with a value in the place of nulls."""
    return pc.fill_null(array, scalar_of(value, array.type)) if array.null_count else array


def _of_kind(name: str, array: Any, lane: Lane) -> Column:
    """Return a column of the lane's kind, blank where the array has nulls."""
    if not array.null_count:
        return assemble(name, len(array), {lane.kind: lane}, None)
    kinds = np.array([Kind.BLANK, lane.kind], dtype=np.uint8)
    states = kinds[mask_of(pc.is_valid(array)).view(np.uint8)]
    lanes: dict[Kind, Lane] = {lane.kind: lane} if array.null_count < len(array) else {}
    return assemble(name, len(array), lanes, states)


def _moments(name: str, array: Any) -> Column:
    """Return the column of times in UTC; of days where no cell has a time."""
    values = stored(filled(pc.cast(array, pa.int64()), 0), np.int64)
    column = column_of_moments(name, values, array.type.unit, _missing(array))
    zone = str(array.type.tz or "UTC")
    if zone not in _UTC:
        return replace(column, notices=(*column.notices, offset_notice(name, zone)))
    return column


def _days(name: str, array: Any) -> Column:
    if pa.types.is_date64(array.type):
        days = stored(filled(pc.cast(array, pa.int64()), 0), np.int64) // _MILLIS
    else:
        days = stored(filled(pc.cast(array, pa.int32()), 0), np.int32)
    return column_of_moments(name, days, "D", _missing(array))


#: The milliseconds of a day.
_MILLIS = 86_400_000


def _missing(array: Any) -> Any:
    """Return which cells are null, bool, shape (n,); None if none is."""
    return mask_of(pc.is_null(array)) if array.null_count else None
