"""Tables of Arrow: from Parquet and Arrow files, and from whatever speaks the C stream protocol.

A column that our writer had to spell out (numbers with words among them) carries a note in
its metadata and is read as tokens again; any other column of strings is text.
"""

from collections.abc import Mapping
from typing import Any

import pyarrow as pa

from even_sieve.core.errors import SourceError
from even_sieve.core.notices import Code, Notice
from even_sieve.core.table import Column, Table
from even_sieve.core.table.table import key_of
from even_sieve.sources.arrow_columns import column_of_array, filled, holds_single_values
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.string_columns import column_from_strings

#: The note on a column whose cells are spelt out as tokens.
SPELT_OUT = {b"even-sieve": b"tokens"}


def refuse_large(rows: int, columns: int, packed: int, source: str, options: SourceOptions) -> None:
    """Raise `SourceError` for a small file that says it holds far more than it has bytes for."""
    size, limits = rows * columns * _LEAST_BYTES, options.limits
    if columns > limits.columns:
        raise SourceError(source, f"{columns:,} columns: at most {limits.columns:,}")
    if size > _ALWAYS and size > limits.ratio * packed:
        fact = f"{rows:,} rows of {columns:,} columns unpack to more than {limits.ratio:,} times"
        hint = "If that is right say: --at-most ratio=20000"
        raise SourceError(source, f"{fact} the {packed:,} bytes of the file", hint)


_LEAST_BYTES, _ALWAYS = 4, 1 << 29


def table_of_arrow(arrow: Any, source: str, options: SourceOptions) -> Table:
    """Return the table of an Arrow table; rows are numbered from 1.

    Nulls and NaN are blanks. Columns of lists or records are left out, with a notice; raises
    `SourceError` where there are no others.
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
    left_out, read = columns_left_out(arrow.schema), []
    for i, field in enumerate(arrow.schema):
        if holds_single_values(field.type) or len(left_out) == arrow.num_columns:
            read.append(_column(field, arrow.column(i), source, options))
    return Table(tuple(read), arrow.num_rows, 1, None, source, own_notices=left_out)


def columns_left_out(schema: Any) -> tuple[Notice, ...]:
    """Return a notice on each column whose cells are no single values."""
    return tuple(
        Notice(
            Code.COLUMN_LEFT_OUT,
            f"column '{field.name.strip()}' was left out: it holds {field.type}, no single values",
        )
        for field in schema
        if not holds_single_values(field.type)
    )


def names_read(schema: Any) -> list[str]:
    """Return the names of the columns that are not left out; of all where each one would be."""
    found = [field.name for field in schema if holds_single_values(field.type)]
    return found or list(schema.names)


def is_plain(schema: Any) -> bool:
    """Tell whether each column can be read in pieces, and by its name.

    Not those whose cells are spelt out: what these are, all of a column tells.
    """
    names = set(map(key_of, schema.names))
    spelt = any((field.metadata or {}).items() >= SPELT_OUT.items() for field in schema)
    some = any(holds_single_values(field.type) for field in schema)
    return len(names) == len(schema.names) and some and not spelt


def column_of_arrow(
    arrow: Any, names: Mapping[str, str], source: str, options: SourceOptions, name: str
) -> Column:
    """Return one column of an Arrow table, called `name` by us and otherwise in the table."""
    return table_of_arrow(arrow.select([names[name]]), source, options).columns[0]


def _column(field: Any, chunked: Any, source: str, options: SourceOptions) -> Column:
    if pa.types.is_dictionary(chunked.type) and chunked.num_chunks > 1:
        chunked = pa.chunked_array([_with_room(chunk) for chunk in chunked.chunks])
    array = chunked.combine_chunks()
    if isinstance(array, pa.ChunkedArray):
        array = pa.concat_arrays(array.chunks)
    if (field.metadata or {}).items() >= SPELT_OUT.items():
        return column_from_strings(field.name.strip(), filled(array, ""), options)
    return column_of_array(field.name.strip(), array, source)


def _with_room(coded: Any) -> Any:
    """Return a dictionary array whose codes have room for the texts of others beside its own."""
    codes = coded.indices.cast(pa.int32())
    return pa.DictionaryArray.from_arrays(codes, coded.dictionary, ordered=coded.type.ordered)
