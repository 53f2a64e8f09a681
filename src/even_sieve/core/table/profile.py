"""A profile of a table: what each column holds, and what an analyst should look at first."""

from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor, wait
from dataclasses import asdict, dataclass

import numpy as np

from even_sieve.core.answer import Answer
from even_sieve.core.cells import Cell, Kind
from even_sieve.core.cells.likeness import Likeness
from even_sieve.core.notices import Code, counted, times_words
from even_sieve.core.progress import steps
from even_sieve.core.table.arrays import spans
from even_sieve.core.table.columns import Column
from even_sieve.core.table.header_again import header_rows, told_header_again
from even_sieve.core.table.lanes import Array, TextLane
from even_sieve.core.table.likes import count_like, rows_like
from even_sieve.core.table.look_alikes import told_look_alikes
from even_sieve.core.table.marks import Mark
from even_sieve.core.table.origins import listed_rows, row_span
from even_sieve.core.table.repeats import find_totals
from even_sieve.core.table.table import Table
from even_sieve.core.table.totals import Suspect, misfit_words

_MOST_ROWS = 5
#: Columns are taken to be filled alike where they are in so many rows of a hundred.
_ALIKE = 95


@dataclass(frozen=True)
class ColumnProfile:
    """What a column holds. `kinds` counts its cells by kind, in words.

    `least` and `most` are the extremes of the kind that leads it; `number_like` and
    `date_like` count texts that look like numbers or dates, `trimmed` the cells that had
    outer white space, `spellings` lists groups of values that differ in case alone.
    """

    name: str
    kinds: dict[str, int]
    distinct: int
    least: Cell = None
    most: Cell = None
    number_like: int = 0
    date_like: int = 0
    trimmed: int = 0
    spellings: tuple[tuple[str, ...], ...] = ()


@dataclass(frozen=True)
class Finding:
    """Something to look at: a stable `code`, a text, and the source's numbers of the rows."""

    code: str
    text: str
    rows: tuple[int, ...] = ()


@dataclass(frozen=True, repr=False)
class Profile(Answer):
    """The profile of a table: its columns, and what to look at first, the gravest first.

    >>> from even_sieve import table_from
    >>> found = table_from({"dues": [120, "waived", None]}).profile()
    >>> found.columns[0].kinds
    {'numbers': 1, 'text': 1, 'blanks': 1}
    """

    rows: int
    marked: dict[str, int]
    columns: tuple[ColumnProfile, ...]
    findings: tuple[Finding, ...]

    def as_dict(self) -> dict[str, object]:
        """Return the profile as plain Python objects."""
        return asdict(self)


def profile(table: Table) -> Profile:
    """Return the profile of a table."""
    columns = _columns(table.columns)
    every = Mark.SUBTOTAL | Mark.HIDDEN | Mark.FILTERED
    marked = {mark.name.lower(): n for mark, n in table.count_marks(every).items() if mark.name}
    return Profile(table.length, marked, columns, tuple(_findings(table, columns)))


def _columns(columns: Sequence[Column]) -> tuple[ColumnProfile, ...]:
    """Return the profiles of columns; texts that wait are put in order beside the others."""
    waiting = {place for place, column in enumerate(columns) if _waits(column)}
    found: dict[int, ColumnProfile] = {}
    with ThreadPoolExecutor(1) as pool:
        ordered = [pool.submit(getattr, columns[at].lanes[Kind.TEXT], "codes") for at in waiting]
        last = sorted(range(len(columns)), key=waiting.__contains__)
        for place in steps(last, "checking"):
            if place in waiting:
                wait(ordered)
            found[place] = _column(columns[place])
    return tuple(found[place] for place in range(len(columns)))


def _waits(column: Column) -> bool:
    lane = column.lanes.get(Kind.TEXT) if column.is_made else None
    return isinstance(lane, TextLane) and not lane.is_made


def _column(column: Column) -> ColumnProfile:
    found = {kind: column.different(kind) for kind in column.counts}
    _, least, most = found.get(column.leading, (0, None, None))
    lane = column.lanes.get(Kind.TEXT)
    return ColumnProfile(
        column.name,
        {kind.words: count for kind, count in column.counts.items()},
        sum(count for count, _, _ in found.values()),
        least,
        most,
        count_like(column, Likeness.NUMBER),
        count_like(column, Likeness.DATE),
        column.trimmed,
        _spellings(column, lane) if isinstance(lane, TextLane) else (),
    )


def _spellings(column: Column, lane: TextLane) -> tuple[tuple[str, ...], ...]:
    if len(lane.group_starts) == len(lane.spellings):
        return ()
    used = column.used_texts
    starts = np.flatnonzero(np.diff(lane.groups[used], prepend=-1))
    ends = np.append(starts[1:], len(used))
    several = np.flatnonzero(ends - starts > 1)
    return tuple(
        tuple(lane.spellings[code] for code in used[starts[i] : ends[i]].tolist()) for i in several
    )


def _findings(table: Table, columns: Sequence[ColumnProfile]) -> Iterator[Finding]:
    totals = find_totals(table)
    suspects = totals.suspects
    for misfit in totals.misfits:
        text = misfit_words(table, misfit)
        yield Finding("total-does-not-add-up", text, (table.number(misfit.row),))
    yield from _double_counting(table, suspects)
    yield from _errors(table)
    header = header_rows(table, table.columns)
    for notice in told_header_again(table, header):
        yield Finding(str(notice.code), notice.text, _numbers(table, header))
    for column, found in zip(table.columns, columns, strict=True):
        yield from _mixed(table, column, found)
    for notice in table.notices:
        if notice.code is not Code.TEXT_LIKE_DATES:  # told already, with the rows
            yield Finding(str(notice.code), notice.text)
    for column in table.columns:
        pair = column.times_out_of_order()
        if pair is not None:
            yield Finding("times-out-of-order", times_words(column.name, pair))
        for notice in told_look_alikes(column.name, column.look_alikes):
            yield Finding(str(notice.code), notice.text)
    yield from _filled_unlike(table, suspects)
    for found in columns:
        if found.spellings:
            groups = [" = ".join(group) for group in found.spellings[:_MOST_ROWS]]
            more = ", …" if len(found.spellings) > _MOST_ROWS else ""
            text = f"column '{found.name}': spellings that differ in case count as one: "
            yield Finding("spellings", text + ", ".join(groups) + more)


def _some_of(names: Sequence[str]) -> str:
    """Return the first names of some, and how many more there are."""
    shown, more = ", ".join(names[:_MOST_ROWS]), len(names) - _MOST_ROWS
    return shown if more <= 0 else f"{shown} and {counted(more, 'more column')}"


def _double_counting(table: Table, every: Sequence[Suspect]) -> Iterator[Finding]:
    suspects = [each for each in every if not _is_subtotal(table, each)]
    if not suspects:
        return
    first = suspects[0]
    rows = tuple(table.number(each.row) for each in suspects)
    span = row_span(table.number(first.repeats[0]), table.number(first.repeats[-1]))
    label = f" ('{first.label}')" if first.label else ""
    verb = "looks like a subtotal" if len(rows) == 1 else "look like subtotals"
    yield Finding(
        "possible-double-counting",
        f"{counted(len(rows), 'row')} {verb} and would be counted twice: row {rows[0]}{label} "
        f"repeats {span} in {_some_of(first.columns)}; to leave them out: --subtotal found",
        rows,
    )


def _is_subtotal(table: Table, suspect: Suspect) -> bool:
    return table.marks is not None and bool(table.marks[suspect.row] & Mark.SUBTOTAL)


def _errors(table: Table) -> Iterator[Finding]:
    for column in table.columns:
        if Kind.ERROR in column.counts:
            wrong = _of_kind(column, Kind.ERROR)
            first = column.cell(int(wrong[0]))
            yield Finding(
                "errors",
                f"column '{column.name}' holds {counted(len(wrong), 'error')}, "
                f"the first one {first} in row {table.number(int(wrong[0]))}",
                _numbers(table, wrong),
            )


def _of_kind(column: Column, kind: Kind) -> Array:
    if column.states is None:
        return np.arange(column.length if kind in column.lanes else 0)
    return np.flatnonzero(column.states == kind)


def _numbers(table: Table, rows: Array) -> tuple[int, ...]:
    own = table.row_numbers
    if table.origins is not None:
        return tuple(map(table.number, rows.tolist()))
    return tuple((rows + own if isinstance(own, int) else own[rows]).tolist())


def _mixed(table: Table, column: Column, found: ColumnProfile) -> Iterator[Finding]:
    kinds = [kind for kind in column.counts if kind not in (Kind.BLANK, Kind.ERROR)]
    if len(kinds) > 1:
        rare = min(kinds, key=column.counts.__getitem__)
        rows = _of_kind(column, rare)
        one = column.cell(int(rows[0]))
        one = {True: "yes", False: "no"}[one] if isinstance(one, bool) else one
        yield Finding(
            "mixed-kinds",
            f"column '{column.name}' mixes {column.words}: {rare.words} in "
            f"{counted(len(rows), 'row')}, such as '{one}' in row {table.number(int(rows[0]))}",
            _numbers(table, rows),
        )
    for like, words in ((Likeness.NUMBER, "numbers"), (Likeness.DATE, "dates")):
        if found.number_like if like is Likeness.NUMBER else found.date_like:
            held = rows_like(column, like)
            rows = np.flatnonzero(held if held is not None else ())
            look = "looks" if len(rows) == 1 else "look"
            yield Finding(
                f"{words}-as-text",
                f"column '{column.name}': {counted(len(rows), 'text')} that {look} like {words}, "
                f"such as '{column.cell(int(rows[0]))}' in row {table.number(int(rows[0]))}",
                _numbers(table, rows),
            )


def _filled_unlike(table: Table, suspects: Sequence[Suspect]) -> Iterator[Finding]:
    """Columns that are filled as most others are but for a few rows; subtotals aside."""
    records = np.ones(table.length, dtype=bool)
    records[[suspect.row for suspect in suspects]] = False
    if table.marks is not None:
        records &= (table.marks & np.uint8(Mark.SUBTOTAL)) == 0
    kept = np.packbits(records)
    alike: dict[bytes, list[str]] = {}
    for column in table.columns:
        alike.setdefault((_blanks(column) & kept).tobytes(), []).append(column.name)
    usual = max(alike, key=lambda pattern: len(alike[pattern]), default=b"")
    for pattern, names in alike.items():
        unlike = np.frombuffer(pattern, np.uint8) ^ np.frombuffer(usual, np.uint8)
        count = int(np.bitwise_count(unlike).sum(dtype=np.int64))
        if pattern != usual and count <= table.length * (100 - _ALIKE) / 100:
            rows = np.flatnonzero(np.unpackbits(unlike, count=table.length))
            yield _unlike(table, names, alike[usual], rows)


def _blanks(column: Column) -> Array:
    """Return which cells are blank, eight to a byte."""
    if column.states is None:
        return np.packbits(np.full(column.length, Kind.BLANK in column.counts))
    blank = np.zeros(column.length, dtype=bool)
    for rows in spans(column.length):
        blank[rows] = column.states[rows] == Kind.BLANK
    return np.packbits(blank)


def _unlike(table: Table, names: list[str], usual: list[str], rows: Array) -> Finding:
    numbers = _numbers(table, rows)
    shown = listed_rows(numbers, _MOST_ROWS)
    others = ", ".join(usual[:3]) + (", …" if len(usual) > 3 else "")
    return Finding(
        "filled-unlike",
        f"{', '.join(names)}: filled as {others} are but for {counted(len(rows), 'row')}: {shown}",
        numbers,
    )
