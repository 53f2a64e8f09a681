"""Long files of typed formats, read piece by piece: only the columns are ever held whole.

One thread unpacks while others make columns. What is out of the ordinary (columns in columns,
two of one name) is left to the readers of whole files, which tell it in full.
"""

from collections import deque
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from functools import partial
from importlib import import_module
from typing import Any

from even_sieve.core.errors import SieveError, SourceError
from even_sieve.core.notices import Notice, each_once
from even_sieve.core.table import Column, Table
from even_sieve.core.table.arrays import keep_memory, let_go
from even_sieve.core.table.growing import Growing
from even_sieve.core.table.joined import aligned, blanks, joined_numbers, told_together
from even_sieve.core.table.lanes import Array
from even_sieve.core.table.origins import Origins
from even_sieve.sources.growing_texts import GrowingTexts
from even_sieve.sources.guard import guarded, state_of
from even_sieve.sources.pruning import Groups, without_hopeless
from even_sieve.sources.readers import READERS
from even_sieve.sources.shelf import go_in
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.unpacking import LongAt

#: The rows of a piece, more or less.
PIECE = 1 << 18
#: So many pieces wait, at the most, while the one before them is made and the next one is read.
_AHEAD = 1
#: So many files are opened for the names of their columns alone.
_MOST_OPENED = 256
#: So many files are kept as they stand, at the most; a cell takes so many bytes while it is made.
_MOST_KEPT, _CELL = 64, 16


@dataclass(frozen=True)
class Piece:
    """Some rows of a file: how many, what numbers they have there, and what makes a column."""

    length: int
    numbers: Array | int
    column: Callable[[str], Column]


@dataclass(frozen=True)
class LongFile:
    """A file that can be read in pieces: its columns' names, and how many rows it has at the most.

    `pieces` yields what there is of some of the columns; `parts` says that these can be read
    apart from the others; `notices` tell of columns that are left out. `groups` are those of its
    rows, where it tells of them.
    """

    names: tuple[str, ...]
    most: int
    pieces: Callable[[Sequence[str]], Iterator[Piece]]
    parts: bool = True
    notices: tuple[Notice, ...] = ()
    groups: Groups | None = None


@dataclass
class Opened:
    """A source that is read in pieces, and what reading it brought.

    `about` tells what changes when the source does.
    """

    source: str
    origin: str
    file: LongFile
    about: Callable[[], object] = lambda: None
    rows: int = 0
    numbers: list[tuple[Array | int, int]] = field(default_factory=list)
    kept: object = None

    def __post_init__(self) -> None:
        self.was = self.about()

    def refuse_change(self) -> None:
        """Raise `SourceError` if the source is not the one that was opened."""
        if self.about() != self.was:
            raise SourceError(self.source, "the file changed while it was read", "Ask again")


def read(files: Sequence[LongAt], source: str, options: SourceOptions) -> Table | None:
    """Return the one table of files, the same as read whole; None where they must be.

    Raises `UnlikeSources`, `SourceError` for a file that is damaged, or changes while it is read.
    """
    opened: list[Opened] = []
    for path, origin, name, kept in files:
        about = partial(state_of, path, name)
        before = about()
        with guarded(name):
            opening = import_module(READERS[path.suffix.lower()]).open_long
            file: LongFile | None = opening(path, name, options)
        if file is None:
            return None
        opened.append(Opened(name, origin, file, about, kept=kept))
        opened[-1].was = before
    if options.later and options.prune is None and _can_wait(files, opened):
        return None
    return table_in_pieces(opened, source, options)


#: The endings of files that say the names of columns apart from their rows.
_SAY_NAMES = {".parquet", ".arrow", ".feather"}


def _can_wait(files: Sequence[LongAt], opened: Sequence[Opened]) -> bool:
    """Tell whether files can be kept as they stand until their columns are asked for.

    What a column is made of must go into memory beside it.
    """
    if len(files) > _MOST_KEPT or any(path.suffix.lower() not in _SAY_NAMES for path, *_ in files):
        return False
    cells = sum(each.file.most for each in opened)
    return go_in([cells * _CELL, *(path.stat().st_size for path, *_ in files)])


def tell_names_of(files: Sequence[LongAt], options: SourceOptions) -> None:
    """Tell the names of the columns of files that say them apart from their rows.

    Of a file that is out of the ordinary, or cannot be opened, whoever reads it tells.
    """
    endings = {path.suffix.lower() for path, *_ in files}
    if options.named is None or len(files) > _MOST_OPENED or endings - _SAY_NAMES:
        return
    opened: list[Opened] = []
    try:
        for path, origin, name, _ in files:
            if not path.is_file():  # a pipe would wait
                return
            with guarded(name):
                file = import_module(READERS[path.suffix.lower()]).open_long(path, name, options)
            if file is None:
                return
            opened.append(Opened(name, origin, file))
        found = aligned([(each.origin, each.file.names) for each in opened], options.lacking)
    except SieveError:
        return
    options.tell_names([name for name, _ in found], _told(opened))


def table_in_pieces(
    opened: Sequence[Opened], source: str, options: SourceOptions, threads: int = 2
) -> Table:
    """Return the one table of sources that are opened; other columns than are asked come later.

    No threads where a column is made that was left for later: see `_grown`.
    """
    found = aligned([(each.origin, each.file.names) for each in opened], options.lacking)
    names = [name for name, _ in found]
    options.tell_names(names, _told(opened))
    unread = without_hopeless(opened, names, options)
    apart = all(each.file.parts for each in opened)
    wanted = [i for i, (name, _) in enumerate(found) if not apart or options.is_asked(name)] or [0]
    made = _grown(opened, [found[i] for i in wanted], options, threads)
    rows = sum(each.rows for each in opened)

    def later(number: int) -> Column:
        for each in opened:
            each.refuse_change()
        # On no other thread: whoever asks may hold a lock that making a column needs.
        return _grown(opened, [found[number]], options, threads=0)[0]

    columns = [Column.later(name, rows, partial(later, i)) for i, (name, _) in enumerate(found)]
    for number, column in zip(wanted, made, strict=True):
        columns[number] = column
    table = _table(columns, opened, source)
    if unread is None:
        return table
    return replace(table, unread=unread, own_notices=(*table.own_notices, unread.notice))


def _told(opened: Sequence[Opened]) -> tuple[Notice, ...]:
    return each_once(notice for each in opened for notice in each.file.notices)


def _table(columns: Sequence[Column], opened: Sequence[Opened], source: str) -> Table:
    """Return the table of columns, with the numbers that its rows have in their files."""
    rows = sum(each.rows for each in opened)
    numbers = [own for each in opened for own in each.numbers]
    together: Array | int = 1
    if numbers:
        together = joined_numbers([own for own, _ in numbers], [count for _, count in numbers])
    table = Table(tuple(columns), rows, together, None, source, own_notices=_told(opened))
    if len(opened) == 1:
        return table
    origins = Origins.of([each.origin for each in opened], [each.rows for each in opened])
    return replace(table, origins=origins)


def _grown(
    opened: Sequence[Opened],
    wanted: Sequence[tuple[str, Sequence[int | None]]],
    options: SourceOptions,
    threads: int = 2,
) -> list[Column]:
    """Return the columns of all files; they are told how many rows they have."""
    keep_memory()
    most = sum(each.file.most for each in opened)
    growing = [_Told(Growing(name, most, GrowingTexts)) for name, _ in wanted]
    done = 0
    with ThreadPoolExecutor(threads) if threads else _Here() as pool:
        for number, each in enumerate(opened):
            places = [own[number] for _, own in wanted]
            names = [None if place is None else each.file.names[place] for place in places]
            before, each.rows, each.numbers = each.rows, 0, []
            waiting: deque[list[Future[None]]] = deque()
            with guarded(each.source):
                for piece in each.file.pieces([name for name in names if name is not None]):
                    while len(waiting) > _AHEAD:
                        _wait(waiting.popleft())
                    each.rows += piece.length
                    each.numbers.append((piece.numbers, piece.length))
                    last = waiting[-1] if waiting else [None] * len(growing)
                    tasks = zip(growing, names, last, strict=True)
                    waiting.append(
                        [pool.submit(g.add, piece, each.origin, n, own) for g, n, own in tasks]
                    )
                    done += piece.length
                    if options.progress is not None and most:
                        options.progress(min(1.0, done / most))
                while waiting:
                    _wait(waiting.popleft())
            each.refuse_change()
            if before not in (0, each.rows):
                raise SourceError(each.source, "the file changed while it was read", "Ask again")
    return [each.column(several=len(opened) > 1) for each in growing]


class _Here(Executor):
    """Does at once what it is given, on the thread that gives it."""

    def submit(self, task: Callable[..., Any], /, *given: Any, **named: Any) -> Future[Any]:
        """Return the task, done."""
        done: Future[Any] = Future()
        done.set_result(task(*given, **named))
        return done


def _wait(tasks: Sequence[Future[None]]) -> None:
    """Wait for all tasks, and raise what one of them raised; then let go of what they looked at."""
    for task in tasks:
        task.result()
    let_go()


class _Told:
    """A growing column, with what is to be told of its pieces."""

    def __init__(self, grown: Growing) -> None:
        self._grown = grown
        self._told: list[tuple[str, tuple[Notice, ...]]] = []

    def add(
        self, piece: Piece, origin: str, name: str | None, before: "Future[None] | None"
    ) -> None:
        """Take in the column of a name; blanks where the file lacks it.

        It is made at once, and taken in after that of the piece `before`.
        """
        column = blanks("", piece.length) if name is None else piece.column(name)
        if before is not None:
            before.result()
        if column.notices and (origin, column.notices) not in self._told:
            self._told.append((origin, column.notices))
        self._grown.add(column)

    def column(self, *, several: bool) -> Column:
        """Return the column of all rows; notices name the file where there are several."""
        made = self._grown.column()
        if several:
            own = told_together(self._told)
        else:
            own = each_once(notice for _, found in self._told for notice in found)
        return replace(made, notices=each_once((*own, *made.notices)))
