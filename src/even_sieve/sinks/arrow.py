"""Tables as Arrow tables: a column of one kind keeps it, a mixed one is spelt out.

Spelt out cells are tokens, as in CSV; a note in the column's metadata tells the reader.
"""

from decimal import Decimal
from typing import Any

import numpy as np
import pyarrow as pa

from even_sieve.core.cells import Kind
from even_sieve.core.table import Column, Table
from even_sieve.core.table.lanes import DateLane, FixedLane, FloatLane, Lane, TextLane
from even_sieve.sinks.tokens import token
from even_sieve.sources.arrow_buffers import array_of, strings_of
from even_sieve.sources.arrow_tables import SPELT_OUT


def to_arrow(table: Table) -> Any:
    """Return an Arrow table of the cells; blanks are nulls."""
    fields, arrays = [], []
    for column in table.columns:
        array, note = _array(column)
        fields.append(pa.field(column.name, array.type, metadata=note))
        arrays.append(array)
    return pa.table(arrays, schema=pa.schema(fields))


def _array(column: Column) -> tuple[Any, dict[bytes, bytes] | None]:
    kinds = set(column.counts) - {Kind.BLANK}
    if not kinds:
        return pa.nulls(column.length), None
    if len(kinds) == 1 and Kind.ERROR not in kinds and not _longer_than_doubles(column):
        return _one_kind(column, column.lanes[kinds.pop()]), None
    spelt = ["" if c is None else token(c, column.decimals) for c in column.cells()]
    missing = None if column.states is None else column.states == Kind.BLANK
    return array_of(spelt, pa.string(), missing), SPELT_OUT


def _longer_than_doubles(column: Column) -> bool:
    """Tell whether numbers have more digits than the doubles that they would be written as."""
    lane = column.lanes.get(Kind.NUMBER)
    given = isinstance(lane, FloatLane) and lane.given is not None
    return given and any(isinstance(cell, Decimal) for cell in column.cells())


def _one_kind(column: Column, lane: Lane) -> Any:
    blank = None if column.states is None else column.states == Kind.BLANK
    values: Any = lane.values
    if isinstance(lane, FixedLane) and lane.scale:
        wide = np.stack((values, values >> _SIGN), axis=1)  # the lower half, the upper one
        return array_of(wide, pa.decimal128(38, lane.scale), blank)
    if isinstance(lane, FixedLane | FloatLane):
        return array_of(values, pa.from_numpy_dtype(values.dtype), blank)
    if isinstance(lane, DateLane):
        kind = pa.timestamp("us") if lane.has_time else pa.date32()
        return array_of(values.astype(np.int64 if lane.has_time else np.int32), kind, blank)
    if isinstance(lane, TextLane):
        codes = array_of(lane.codes.astype(np.int32), pa.int32(), blank)
        return pa.DictionaryArray.from_arrays(codes, strings_of(lane.spellings))
    return array_of(values, pa.bool_(), blank)


_SIGN = 63
