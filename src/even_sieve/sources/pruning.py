"""Groups of rows that by a file's own statistics can hold no match: they are left unread."""

from collections.abc import Callable, Sequence, Set
from dataclasses import dataclass
from functools import cache
from typing import TYPE_CHECKING

from even_sieve.core.cells import Kind, fold
from even_sieve.core.cells.quoting import unquoted
from even_sieve.core.criteria import Criteria, prepare, write_criteria
from even_sieve.core.criteria.certain import Certainty, EndsOf, hangs_on_cells
from even_sieve.core.errors import CallError, UnknownColumn
from even_sieve.core.query import Query
from even_sieve.core.table import Table
from even_sieve.core.table.joined import blanks
from even_sieve.core.table.table import key_of
from even_sieve.core.table.unread import Unread
from even_sieve.sources.source_options import SourceOptions

if TYPE_CHECKING:
    from even_sieve.sources.long_typed import LongFile, Opened


@dataclass(frozen=True)
class Group:
    """Rows that a file has together: how many, and the ends of its columns."""

    rows: int
    ends_of: EndsOf


@dataclass(frozen=True)
class Groups:
    """The groups of rows of a file, and what gives it with some of them alone.

    `kind_of` is the kind of a column's cells, BLANK where there are none, None if not of one.
    """

    every: Sequence[Group]
    kind_of: Callable[[str], Kind | None]
    kept: Callable[[Sequence[int]], "LongFile"]


def without_hopeless(
    opened: Sequence["Opened"], names: Sequence[str], options: SourceOptions
) -> Unread | None:
    """Leave out of files the groups of rows in which the criteria can hold for no row.

    One group stays in any case: it tells what the columns are. Returns what was left out. Raises
    `CallError` where rows are to be marked, which goes before criteria.
    """
    query = options.prune
    if query is None:
        return None
    if query.marks or query.marked_by is not None or query.given:
        raise CallError("prune: rows that are not read cannot be marked\nMark none, or read all")
    added = [] if options.origin is None else [options.origin]
    criteria = _criteria(query, [*names, *added])
    read_so = {key_of(unquoted(name)) for name in (*options.as_number, *options.as_date)}
    if criteria is None or _hangs_on_cells(opened, query, criteria, names, read_so):
        return None
    known = [(each, groups) for each in opened if (groups := each.file.groups) is not None]
    keep = [_kept(groups.every, criteria, read_so) for _, groups in known]
    if keep and not any(keep):
        keep[0] = [0]
    rows = left = every = 0
    for (each, groups), own in zip(known, keep, strict=True):
        every += len(groups.every)
        left += len(groups.every) - len(own)
        if len(own) < len(groups.every):
            gone = set(range(len(groups.every))) - set(own)
            rows += sum(groups.every[number].rows for number in gone)
            each.file = groups.kept(own)
    return Unread(rows, left, every, criteria, write_criteria(criteria)) if rows else None


def _hangs_on_cells(
    opened: Sequence["Opened"],
    query: Query,
    criteria: Criteria,
    names: Sequence[str],
    read_so: Set[str],
) -> bool:
    """Tell whether rows that are not read could tell what the criteria mean."""
    own = {key_of(name): _kinds(opened, name) for name in names}
    if any(len(kinds - {Kind.BLANK}) > 1 for kinds in own.values()):
        return True
    alike = {key for key, kinds in own.items() if None not in kinds} - read_so
    # Of a ladder that asks a column which is worked out itself nothing is known.
    worked_out = [text.partition("=")[0].strip() for text in query.derived]
    worked_out += [
        name for each in query.look_ups for name in (each.bring.values() or each.table.names)
    ]
    for text in query.derived:
        rest = fold(text.partition("=")[2])
        if "'" in rest or (" if " in rest and any(fold(name) in rest for name in worked_out)):
            return True
    return hangs_on_cells(criteria, lambda name: key_of(name) in alike)


def _kinds(opened: Sequence["Opened"], name: str) -> set[Kind | None]:
    groups = [each.file.groups for each in opened]
    return {None if each is None else each.kind_of(name) for each in groups}


def _kept(groups: Sequence[Group], criteria: Criteria, read_so: Set[str]) -> list[int]:
    """Return the groups that may hold a match; `read_so` are columns whose cells mean others."""
    certainty = Certainty(criteria)

    def may_match(group: Group) -> bool:
        known = cache(lambda name: None if key_of(name) in read_so else group.ends_of(name))
        return certainty.of(known) is not False

    return [number for number, group in enumerate(groups) if may_match(group)]


def _criteria(query: Query, names: Sequence[str]) -> Criteria | None:
    """Return the criteria of a query as they are prepared; None where these hang on cells."""
    try:
        made = query.made_table(Table(tuple(blanks(name, 0) for name in names), 0))
    except UnknownColumn:
        raise
    except Exception:  # whatever it is, of cells that are not there
        return None
    return prepare(query.criteria(made).criteria, query.settings).criteria
