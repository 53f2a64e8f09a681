"""Tables as Arrow tables: a column of one kind keeps it, a mixed one is spelt out.

Spelt out cells are tokens, as in CSV; a note in the column's metadata tells the reader.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.cells import Kind
from even_sieve.core.progress import steps
from even_sieve.core.table import Column, Table
from even_sieve.core.table.arrays import spans
from even_sieve.core.table.lanes import DateLane, FixedLane, FloatLane, Lane, TextLane
from even_sieve.sinks.arrow_tokens import ROWS, Spelling, tokens_of
from even_sieve.sinks.tokens import token
from even_sieve.sources.arrow_buffers import array_of, strings_of
from even_sieve.sources.arrow_strings import Strings
from even_sieve.sources.arrow_tables import SPELT_OUT

#: Rows that are made into Arrow arrays at once.
PIECE = 1 << 20


def to_arrow(table: Table) -> Any:
    """Return an Arrow table of the cells; blanks are nulls."""
    schema, batches = in_batches(table)
    return pa.Table.from_batches(batches, schema)


def in_batches(table: Table) -> tuple[Any, Iterator[Any]]:
    """Return the schema of a table in Arrow, and its rows a million at a time."""
    made = [_writing(column) for column in table.columns]
    fields = [
        pa.field(column.name, own.kind, metadata=own.note)
        for column, own in zip(table.columns, made, strict=True)
    ]
    schema = pa.schema(fields)
    stretches = list(spans(table.length, PIECE)) or [slice(0, 0)]

    def batches() -> Iterator[Any]:
        for rows in steps(stretches, "writing", len(stretches)):
            yield pa.record_batch([own.make(rows) for own in made], schema=schema)

    return schema, batches()


@dataclass(frozen=True)
class _Writing:
    """How a column is written: its type, a note on it, and what makes an array of some rows."""

    kind: Any
    make: Callable[[slice], Any]
    note: dict[bytes, bytes] | None = None


def _writing(column: Column) -> _Writing:
    kinds = set(column.counts) - {Kind.BLANK}
    if not kinds:
        return _Writing(pa.null(), lambda rows: pa.nulls(rows.stop - rows.start))
    if len(kinds) == 1 and Kind.ERROR not in kinds and not _longer_than_doubles(column):
        return _one_kind(column, column.lanes[kinds.pop()])
    tokens = tokens_of(column, _TOKENS)

    def spelt(rows: slice) -> Any:
        made = []
        for some in spans(rows.stop, ROWS, rows.start):
            texts, blank = tokens(some).cast(pa.string()), _blank(column, some)
            if blank is not None:
                nothing = pa.nulls(len(texts), pa.string())
                texts = pc.if_else(array_of(blank, pa.bool_()), nothing, texts)
            made.append(texts)
        return pa.concat_arrays(made) if made else pa.array([], pa.string())

    return _Writing(pa.string(), spelt, SPELT_OUT)


#: Cells of several kinds in one column are spelt as in CSV.
_TOKENS = Spelling(token)


def _blank(column: Column, rows: slice) -> Any:
    return None if column.states is None else column.states[rows] == Kind.BLANK


def _longer_than_doubles(column: Column) -> bool:
    """Tell whether numbers have more digits than the doubles that they would be written as."""
    lane = column.lanes.get(Kind.NUMBER)
    given = isinstance(lane, FloatLane) and lane.given is not None
    return given and any(isinstance(cell, Decimal) for cell in column.cells())


def _one_kind(column: Column, lane: Lane) -> _Writing:
    values: Any = lane.values

    def stored(kind: Any, change: Callable[[Any], Any] = lambda own: own) -> _Writing:
        return _Writing(
            kind, lambda rows: array_of(change(values[rows]), kind, _blank(column, rows))
        )

    if isinstance(lane, FixedLane) and lane.scale:  # the lower half, the upper one
        kind = pa.decimal128(38, lane.scale)
        return stored(kind, lambda own: np.stack((own, own >> _SIGN), axis=1))
    if isinstance(lane, FixedLane | FloatLane):
        return stored(pa.from_numpy_dtype(values.dtype))
    if isinstance(lane, DateLane):
        kind, width = (pa.timestamp("us"), "i8") if lane.has_time else (pa.date32(), "i4")
        return stored(kind, lambda own: own.astype(width))
    if isinstance(lane, TextLane):
        spelt = lane.spellings
        words = spelt.array if isinstance(spelt, Strings) else strings_of(spelt)
        codes = stored(pa.int32(), lambda own: own.astype(np.int32)).make
        return _Writing(
            pa.dictionary(pa.int32(), words.type),
            lambda rows: pa.DictionaryArray.from_arrays(codes(rows), words),
        )
    return stored(pa.bool_())


_SIGN = 63
