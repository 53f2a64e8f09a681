"""Tables for Python programs, from files and from data in memory."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any, Unpack

from even_sieve.core.errors import CallError
from even_sieve.core.table import Table as CoreTable
from even_sieve.core.understood import refused
from even_sieve.public.table import Table
from even_sieve.sources.files import read_content
from even_sieve.sources.paths import path_of
from even_sieve.sources.records import table_of_columns, table_of_records
from even_sieve.sources.source_options import SourceKeywords, SourceOptions


def read_table(path: str | Path | Iterable[str | Path], **how: Unpack[SourceKeywords]) -> Table:
    """Return the table of a file: CSV, JSON Lines, Parquet, Arrow, or a workbook (.ods, .xlsx).

    `-` is standard input; gzip is unpacked. A folder, a pattern (`calls/2031-*.csv`), sheets of
    a workbook (`year.xlsx!2031-*`) or a list of these is one table, with columns matched by name
    and kinds settled over all: see docs/several-files.md. The keywords are the fields of
    `SourceOptions`: `blank_as` are tokens that stand for a blank in text, such as `NA`. Of CSV,
    `delimiter` and `encoding` are found if not given; `decimal` is the decimal mark; `date_order`
    (`day-month-year`, `month-day-year`, `year-month-day`) reads dates that are not ISO. Of a
    workbook, `sheet` is a name or a number from 1, `cells` a block (`B2:F30`), a named range
    or a table, `header` the row that names the columns (found if left out), and `sideways`
    says that names stand down the first column. Rows that the sheet hides, filters away or
    works out as subtotals come marked. `progress` is called with the share done of a long
    workbook, 0 to 1. `prune` are criteria: groups of rows of Parquet that by their statistics hold
    no match are left unread, and figures that these rows could matter to are refused.
    Columns of a long file are made when they are first asked for, whatever became of the file.
    `lacking="blank"` takes a column that one of several files lacks as blank;
    `origin` names a column to be added, with the file or sheet of each row.

    Raises `SourceNotFound` where nothing is there, `SourceError` naming file and row for what is
    no table, `UnlikeSources` for files of different shapes, `CallError` for one named twice.

    >>> import even_sieve
    >>> import pathlib, tempfile
    >>> path = pathlib.Path(tempfile.mkdtemp(), "calls.csv")
    >>> _ = path.write_text("zone,dues\\nOuter,120\\nInner,80\\n")
    >>> even_sieve.read_table(path).tally("sum of dues")[0].value
    200
    """
    from even_sieve.sources.several import read_named

    if not isinstance(path, str | Path):
        several = isinstance(path, Iterable) and not hasattr(path, "columns")
        if not several or isinstance(path, Mapping):
            is_data = hasattr(path, "columns") or isinstance(path, Mapping)
            hint = "; of data give table_from(data)" if is_data else ""
            raise refused("what a table is read from", f"a path or a list of paths{hint}", path)
        path = [path_of("a file", each) for each in path]
    options = SourceOptions.of(**how)
    return Table(read_named(path, replace(options, later=options.asks is None)))


def combine(
    tables: Iterable[Table], *, lacking: str | None = None, origin: str | None = None
) -> Table:
    """Return the rows of several tables as one table, in order.

    Columns are matched by name, those of the first table lead; one that a table lacks is refused
    with `UnlikeSources` unless `lacking` is `blank`. A row keeps its number and its marks.
    `origin` names a column to be added with what each table is called: its source, or `table 2`.

    >>> january = table_from({"zone": ["Outer"], "dues": [120]})
    >>> february = table_from({"dues": [80.5], "zone": ["Inner"]})
    >>> both = combine([january, february], origin="month")
    >>> both.tally("max of dues")[0].found_at, both.column("month")
    ((1 of table 1,), ['table 1', 'table 2'])
    """
    from even_sieve.core.table.joined import Part, join_tables, with_origin_column
    from even_sieve.core.table.twins import told_of_twins, twin_sources

    if lacking not in (None, "blank"):
        raise CallError(f"lacking '{lacking}' is not known\nWrite: lacking='blank'")
    if isinstance(tables, Table):
        raise TypeError("several tables are combined: give a list of them")
    cores = [_core(each) for each in tables]
    if not cores:
        raise CallError("there is no table to combine\nGive at least one")
    parts = [Part(f"table {number}", core) for number, core in enumerate(cores, 1)]
    joined = join_tables(parts, f"{len(parts)} tables", lacking)
    told = told_of_twins(dict(twin_sources(joined)))
    joined = replace(joined, own_notices=(*told, *joined.own_notices))
    return Table(joined if origin is None else with_origin_column(joined, origin, ""))


def _core(table: object) -> CoreTable:
    if not isinstance(table, Table):
        raise TypeError(f"tables are combined, not a {type(table).__name__}\nSee table_from")
    return table.core


def table_from_bytes(content: bytes, name: str, *, blank_as: tuple[str, ...] = ()) -> Table:
    """Return the table of a file that is already read; its name tells how to read it."""
    return Table(read_content(content, name, SourceOptions(blank_as=blank_as)))


def table_from(data: Any) -> Table:
    """Return a table from columns, records, a data frame, or an Arrow stream.

    That is a mapping of names to lists or NumPy arrays; a list of mappings; a pandas data
    frame or series; or any object that speaks the Arrow C stream protocol. None and NaN are blanks.
    Raises `LengthMismatch` naming two columns that differ.

    >>> table_from({"zone": ["Outer"], "dues": [1, 2]})
    Traceback (most recent call last):
    even_sieve.core.errors.columns.LengthMismatch: column 'zone' has 1 rows and column 'dues' has 2
    All columns of a table have the same number of rows.
    """
    if isinstance(data, Table):
        return data
    if isinstance(data, Mapping):
        for name, cells in data.items():
            if isinstance(cells, str | bytes) or not isinstance(cells, Iterable):
                raise refused(f"column '{name}'", "a list or an array of cells", cells)
        return Table(table_of_columns(data))
    if hasattr(data, "iloc") and hasattr(data, "to_frame") and not hasattr(data, "columns"):
        data = data.to_frame("column" if data.name is None else str(data.name))
    if hasattr(data, "iloc") and hasattr(data, "columns"):
        from even_sieve.sources.frames import table_from_frame

        return Table(table_from_frame(data))
    if hasattr(data, "__arrow_c_stream__"):
        import pyarrow as pa

        from even_sieve.sources.arrow_tables import table_of_arrow

        return Table(table_of_arrow(pa.table(data), "Arrow stream", SourceOptions()))
    if isinstance(data, Sequence) and data and all(isinstance(each, Mapping) for each in data):
        return Table(table_of_records(data, "records"))
    if isinstance(data, str | Path):
        raise TypeError(f"a table is made from data, not from a path: read_table({str(data)!r})")
    if isinstance(data, list | tuple) and not data:
        raise TypeError(
            "an empty list has no columns: give names, such as {'zone': [], 'dues': []}"
        )
    accepted = (
        "a mapping of names to lists or arrays, a list of mappings, a pandas data frame, or an "
        "object with an Arrow C stream"
    )
    raise refused("what a table is made from", accepted, data)
