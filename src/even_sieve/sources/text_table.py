"""The table of text files: their fields, one file below the other, settled as one column each."""

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial
from itertools import chain
from typing import Any

import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.core.errors import SourceError
from even_sieve.core.notices import Notice
from even_sieve.core.table import Column, Table
from even_sieve.core.table.joined import aligned, joined_numbers, told_together
from even_sieve.core.table.lanes import Array
from even_sieve.core.table.origins import Origins
from even_sieve.sources.apostrophes import without_apostrophes
from even_sieve.sources.arrow_buffers import scalar_of
from even_sieve.sources.dialect import Dialect
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.string_columns import column_from_strings
from even_sieve.sources.thousands import first_cells, told_of_thousands

_THREADS = 2
#: The share of reading a long text that is done when its fields are apart.
_PARTED = 0.4
#: So few rows are made sooner than they are handed to a thread, so few cells than left for later.
_FEW_ROWS, _FEW_CELLS = 20_000, 200_000


@dataclass
class TextFile:
    """The fields of a text file under the names of its header, not yet read as cells.

    `strings` are Arrow arrays, one a column, or None where one was let go; `head` is how the
    text begins, its header first, `numbers` are the lines of the rows. `origin` is what its rows
    are said to come from.
    """

    source: str
    names: Sequence[str]
    strings: list[Any]
    rows: int
    numbers: Array | int
    dialect: Dialect
    head: bytes
    notices: tuple[Notice, ...] = ()
    origin: str = ""


def table_of_texts(files: Sequence[TextFile], source: str, options: SourceOptions) -> Table:
    """Return the one table of files, in order; what a column is, all its fields tell together.

    The fields are let go on the way. Raises `UnlikeSources` where the columns differ,
    `SourceError` for a cell that is too long.
    """
    found = aligned([(file.origin, file.names) for file in files], options.lacking)
    rows = sum(file.rows for file in files)
    many = rows * len(found) >= _FEW_CELLS
    firsts = cells_of_first(files, [places for _, places in found], options)

    def make(which: int) -> Column:
        name, places = found[which]
        make_now = partial(
            told_column, name, _taken(files, places, options), firsts[which], options
        )
        wait = many and (options.later or not options.is_asked(name))
        return Column.later(name, rows, partial(_late, make_now)) if wait else make_now()

    if rows < _FEW_ROWS:
        columns = list(map(make, range(len(found))))
    else:  # several at a time: Arrow works outside the interpreter's lock
        with ThreadPoolExecutor(_THREADS) as pool:
            columns = []
            for column in pool.map(make, range(len(found))):
                columns.append(column)
                if options.progress is not None and len(files) == 1 and not options.later:
                    options.progress(_PARTED + (1 - _PARTED) * len(columns) / len(found))
    return of_several(columns, files, [(file.rows, file.numbers) for file in files], source)


def cells_of_first(
    files: Sequence[TextFile], places: Sequence[Sequence[int | None]], options: SourceOptions
) -> list[list[str]]:
    """Return, of each column, the first cells of all files, as far as they can tell anything.

    `places` are, for each column, those that it has in every file.
    """
    heads = [
        first_cells(file.head, file.dialect, [each[i] for each in places], options)
        for i, file in enumerate(files)
    ]
    return [list(chain.from_iterable(own)) for own in zip(*heads, strict=True)]


def of_several(
    columns: Sequence[Column],
    files: Sequence[TextFile],
    rows: Sequence[tuple[int, Array | int]],
    source: str,
) -> Table:
    """Return the table of columns read from files, each of so many rows with these numbers."""
    lengths, numbers = [length for length, _ in rows], [own for _, own in rows]
    if len(files) == 1:
        return Table(tuple(columns), lengths[0], numbers[0], None, source, files[0].notices)
    told = told_together([(file.origin, file.notices) for file in files])
    origins = Origins.of([file.origin for file in files], lengths)
    together = joined_numbers(numbers, lengths)
    return Table(tuple(columns), sum(lengths), together, None, source, told, origins)


def _taken(files: Sequence[TextFile], places: Sequence[int | None], options: SourceOptions) -> Any:
    """Return the fields that stand at these places of the files, which let go of them."""
    found = []
    for file, place in zip(files, places, strict=True):
        if place is None:
            found.append(blank_strings(file.rows))
        else:
            strings, file.strings[place] = file.strings[place], None
            refuse_long(strings, file.source, file.names[place], options)
            found.append(strings)
    return together(found)


def blank_strings(count: int) -> Any:
    """Return so many blank fields."""
    return pa.repeat(scalar_of(""), count)


def together(strings: Sequence[Any]) -> Any:
    """Return arrays, or chunked arrays, of strings as one; a single one as it is."""
    if len(strings) == 1:
        return strings[0]
    chunks = [each.chunks if isinstance(each, pa.ChunkedArray) else [each] for each in strings]
    return pa.chunked_array(list(chain.from_iterable(chunks)), pa.string())


def longest_of(strings: Any, options: SourceOptions) -> int:
    """Return the bytes of the longest field, or 0 where none can be longer than a cell may be."""
    if strings.nbytes <= options.limits.cell:
        return 0
    longest: int = pc.max(pc.binary_length(strings)).as_py() or 0
    return longest


def refuse_long(strings: Any, source: str, name: str, options: SourceOptions) -> None:
    """Raise `SourceError` for fields of which one is longer than a cell may be."""
    longest = longest_of(strings, options)
    if longest > options.limits.cell:
        fact = f"a cell of column '{name}' has {longest:,} bytes"
        raise SourceError(source, fact, f"At most {options.limits.cell:,} are read")


def column_of(name: str, strings: Any, options: SourceOptions) -> Column:
    """Return the column of fields: an apostrophe that keeps a text from being run is no part."""
    return column_from_strings(name, without_apostrophes(strings), options)


def _late(make: Callable[[], Column]) -> Column:
    """Return what is made; what Arrow took for it goes back to the system."""
    made = make()
    pa.default_memory_pool().release_unused()
    return made


def told_column(
    name: str, strings: Any, first_cells: Sequence[str], options: SourceOptions
) -> Column:
    """Return the column of fields with what its first cells tell of it."""
    return told_of_thousands(column_of(name, strings, options), first_cells)
