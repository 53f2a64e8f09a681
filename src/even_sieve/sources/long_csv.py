"""Long CSV files, read piece by piece: only the columns are ever held whole.

One thread parses while another makes columns. What is out of the ordinary (another
encoding, a broken row) is left to the reader of whole files, which tells it in full.
"""

from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import replace
from functools import partial
from typing import Any

import pyarrow as pa

from even_sieve.core.table import Column, Table
from even_sieve.core.table.arrays import let_go
from even_sieve.core.table.far import Elsewhere
from even_sieve.core.table.joined import aligned
from even_sieve.core.table.sketch import Sketch
from even_sieve.sources.apostrophes import without_apostrophes
from even_sieve.sources.encoding import encoding_of
from even_sieve.sources.growing_columns import Gathering
from even_sieve.sources.in_utf8 import in_utf8
from even_sieve.sources.long_csv_file import LongCsv, batches
from even_sieve.sources.shelf import go_in
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.text_table import (
    blank_strings,
    cells_of_first,
    longest_of,
    of_several,
    table_of_texts,
    together,
    told_column,
)
from even_sieve.sources.thousands import told_of_thousands
from even_sieve.sources.unpacking import LongAt

#: Columns are taken in by so many threads, beside the one that parses.
_AT_ONCE = 2
#: So few rows of a piece are taken in sooner than they are handed to threads.
_FEW = 1 << 12

#: Has a function done to each of several things, by whoever; gives what comes of it, in order.
Share = Callable[[Callable[[Any], Any], Sequence[Any]], Iterable[Any]]

#: The share of rewriting in the time until files that are not plain UTF-8 are read.
_REWRITING = 0.4
#: Files of so many bytes in all, or each, are written anew where they must be.
_MUCH, _EACH = 1 << 26, 1 << 20
#: What needs no rewriting.
_PLAIN = (None, "utf-8", "utf-8-sig")


def read(
    files: Sequence[LongAt],
    source: str,
    options: SourceOptions,
    share: Share | None = None,
    gather: "Gather | None" = None,
) -> Table | None:
    """Return the one table of files, the same as read whole; None where they must be.

    `share` has others look at each file, and `gather` has them gather the columns. Raises
    `DuplicateColumn` for two columns of one name, `UnlikeSources`, `SourceError` for too many.
    """
    if options.needs_whole:
        return None
    opened = _opened(files, options, share)
    if opened is None:
        return None
    if any(file.path != at.path for file, at in zip(opened, files, strict=True)):
        options = options.telling(_REWRITING, 1)
    found = aligned([(file.fields.origin, file.fields.names) for file in opened], options.lacking)
    options.tell_names([name for name, _ in found])
    if options.later and gather is None and go_in(file.about[0] for file in opened):
        for number, file in enumerate(opened):
            part = options.telling(number / len(opened), (number + 1) / len(opened))
            if not file.take_in(part.progress):
                return None
        return table_of_texts([file.fields for file in opened], source, options)
    wanted = [number for number, (name, _) in enumerate(found) if options.is_asked(name)] or [0]
    chosen = [found[number] for number in wanted]
    gathered = (gather or gather_here)(opened, chosen, options)
    if gathered is None:
        return None
    columns, elsewhere = gathered
    texts = [file.fields for file in opened]
    firsts = cells_of_first(texts, [places for _, places in found], options)

    def later(number: int) -> Column:
        name, places = found[number]
        pairs = zip(opened, places, strict=True)
        fields = together([file.strings(place, options) for file, place in pairs])
        return told_column(name, fields, firsts[number], options)

    rows = sum(file.fields.rows for file in opened)
    every = [Column.later(name, rows, partial(later, i)) for i, (name, _) in enumerate(found)]
    for number, column in zip(wanted, columns, strict=True):
        if column is None:
            every[number] = later(number)
            continue
        known = column.column if isinstance(column, Sketch) else column
        if known.is_made:
            known = told_of_thousands(known, firsts[number])
        every[number] = known
        if isinstance(column, Sketch):
            sketch = replace(column, column=known)
            every[number] = Column.later(known.name, rows, partial(later, number), sketch)
    lengths = [(file.fields.rows, file.numbers()) for file in opened]
    return replace(of_several(every, texts, lengths, source), elsewhere=elsewhere)


def _opened(
    files: Sequence[LongAt], options: SourceOptions, share: Share | None
) -> list[LongCsv] | None:
    """Return the files as they are read in pieces; None if one of them cannot be."""
    opening = partial(_open, options.alone())
    found = _here(files, options) if share is None else share(opening, files)
    opened: list[LongCsv] = []
    for file in found:
        if file is None:
            return None
        opened.append(file)
    return opened


def _here(files: Sequence[LongAt], options: SourceOptions) -> Iterator[LongCsv | None]:
    """Yield each file as it is read in pieces, written anew where it must be; None for another."""
    sizes = [at.path.stat().st_size for at in files]
    worth = sum(sizes) >= _MUCH or min(sizes) >= _EACH  # many short ones are read sooner whole
    for number, at in enumerate(files):
        part = options.telling(*(_REWRITING * each / len(files) for each in (number, number + 1)))
        alone = replace(options.alone(), progress=part.progress)
        yield _open(alone, at) or (_rewritten(at, alone) if worth else None)


def _open(options: SourceOptions, file: LongAt) -> "LongCsv | None":
    if options.leave_out_foot or encoding_of(b"", options.encoding) not in _PLAIN:
        return None
    return LongCsv.opened(file, options)


def _rewritten(at: LongAt, options: SourceOptions) -> LongCsv | None:
    """Return a file that is written anew so that it can be read in pieces, None for another one."""
    found = in_utf8(at, options)
    return None if found is None else LongCsv.opened(found[0], options, found[1])


#: The name of a column, and the place that it has in each file; None where one lacks it.
Wanted = tuple[str, list[int | None]]
#: Columns (None where one must be read whole); sketches of those whose rows are elsewhere.
Gathered = tuple[Sequence[Column | Sketch | None], Elsewhere | None]
#: Gathers the wanted columns of files, and tells the files their rows.
Gather = Callable[[Sequence[LongCsv], Sequence[Wanted], SourceOptions], Gathered | None]


def gather_here(
    files: Sequence[LongCsv], wanted: Sequence[Wanted], options: SourceOptions
) -> Gathered | None:
    """Return the wanted columns; tells files their rows.

    None if a row is broken or a cell beyond the limit: for the reader of whole files to tell.
    """
    found = gatherings(files, wanted, options)
    if found is None:
        for file in files:
            file.refuse_ragged()
        return None
    with ThreadPoolExecutor(
        _AT_ONCE
    ) as pool:  # Arrow sorts different texts, and needs no interpreter
        return list(pool.map(Gathering.column, found, [name for name, _ in wanted])), None


def gatherings(
    files: Sequence[LongCsv],
    wanted: Sequence[Wanted],
    options: SourceOptions,
) -> list[Gathering] | None:
    """Return what was gathered of the wanted columns; None if a whole file must be read.

    Columns that are not wanted are parted from the others, and left out.
    """
    most = sum(file.found.lines for file in files)
    every = [Gathering(most, options) for _ in wanted]
    done = 0

    with ThreadPoolExecutor(_AT_ONCE) as pool:
        waiting: list[Future[bool]] = []
        try:
            for number, file in enumerate(files):
                places = [own[number] for _, own in wanted]
                asked = sorted({place for place in places if place is not None}) or [0]
                where = {place: at for at, place in enumerate(asked)}
                chosen = [None if place is None else where[place] for place in places]
                for batch in batches(file, asked):
                    if not all(each.result() for each in waiting):
                        return None
                    file.fields.rows += len(batch)
                    done += len(batch)
                    if file.fields.rows >= file.found.lines:  # lines end in another way too
                        return None
                    if options.progress is not None:
                        options.progress(min(1.0, done / most))
                    own = zip(every, chosen, strict=True)
                    if len(batch) < _FEW:
                        waiting = []
                        if not all(_take_in(each, batch, at, options) for each, at in own):
                            return None
                        continue
                    waiting = [pool.submit(_take_in, each, batch, at, options) for each, at in own]
        except pa.ArrowInvalid:
            return None
        for file in files:
            file.refuse_change()
        if not all(each.result() for each in waiting):
            return None
    if any(not 0 < file.fields.rows < file.found.lines for file in files):
        return None
    return every


def _take_in(
    gathering: Gathering, batch: Any, position: int | None, options: SourceOptions
) -> bool:
    """Give a gathering the next rows of its column; False for a cell beyond the limit."""
    if position is None:
        gathering.add(blank_strings(len(batch)))
        return True
    strings = batch.column(position)
    if isinstance(strings, pa.ChunkedArray):
        strings = strings.combine_chunks()
    if longest_of(strings, options) > options.limits.cell:
        return False
    gathering.add(without_apostrophes(strings))
    let_go()
    return True
