"""How a source is to be read: one record, from which every way in takes its options.

An option is a field here and whatever reads by it: Python's keywords, the command line and the
report file are made from the fields.
"""

import re
from collections.abc import Callable, Iterable, Sequence
from contextlib import suppress
from dataclasses import dataclass, field, fields, replace
from typing import Any, TypedDict, Unpack

from even_sieve.core.cells import fold
from even_sieve.core.cells.written import DateOrder
from even_sieve.core.errors import CallError, SieveError, closest, listed
from even_sieve.core.notices import Notice
from even_sieve.core.query import Query
from even_sieve.core.table import Table
from even_sieve.core.understood import refused, text_of, texts_of
from even_sieve.sources.limits import Limits

_DELIMITER = re.compile(r'[\x01-\x7f](?<!["\r\n])')


@dataclass(frozen=True)
class Said:
    """How a person says an option: what stands for its value, what it does, what is accepted."""

    kind: type
    help: str
    metavar: str | None = None
    choices: tuple[str, ...] = ()
    least: int | None = None
    several: bool = False


def _said(*words: Any, **more: Any) -> dict[str, Said]:
    """Return how an option is said, as what a field of it notes."""
    return {"said": Said(*words, **more)}


@dataclass(frozen=True)
class SourceOptions:
    """What a person can say about a source.

    Of a text file, `delimiter`, `quote` and `encoding` are found if not given, `decimal` is
    the decimal mark, `date_order` reads dates that are not ISO. In a workbook, `sheet` is a
    sheet by name or number (from 1), `cells` an area (`B2:F30`), a named range or a table,
    `header` the sheet row that names the columns, and `sideways` says that names stand down
    the first column and records across. `blank_as` are tokens that stand for a blank.
    Of several files, `lacking` (`blank`) takes a column that one lacks as blank; `origin` names a
    column to be added, with the file or sheet of each row. `memory` (`2GiB`) is how much of it
    tables may take from now on, half of what is free if nothing is said.
    Of a database, `sql` is a query whose rows are read.
    `cluster` is the address of the scheduler of a cluster whose workers read the files, `here`
    for workers on this machine, or in Python a client of one.
    `at_most` are limits, such as `unpacked=4GiB`: see `Limits`.
    `prune` are criteria: groups of rows in which, by the file's own statistics, they can hold for
    no row are left unread.
    `progress` is told now and then which share of a long reading is done, 0 to 1. `asks` are the
    words of the question, if they are known: columns that they do not name may be left to be read
    when they are asked for. `later` says that no column is made before it is asked for, as far as
    what they are made of goes into memory as it stands: the file may change or go meanwhile.
    """

    delimiter: str | None = field(default=None, metadata=_said(
        str, "What stands between fields of a text file (tab for a tab). Default: found.", "CHAR",
    ))  # fmt: skip
    encoding: str | None = field(default=None, metadata=_said(
        str, "How a text file is encoded: utf-8, utf-16, latin-1. Default: found.", "NAME",
    ))  # fmt: skip
    decimal: str | None = field(default=None, metadata=_said(
        str, "The decimal mark of a text file. Default: a point.", choices=(".", ","),
    ))  # fmt: skip
    date_order: DateOrder | None = field(default=None, metadata=_said(
        str, "The order in which dates name their parts, where they are not ISO dates.",
        choices=tuple(each.value for each in DateOrder),
    ))  # fmt: skip
    sheet: str | None = field(default=None, metadata=_said(
        str, "The sheet of a workbook, by name or number. Default: the first.", "NAME",
    ))  # fmt: skip
    cells: str | None = field(default=None, metadata=_said(
        str, "The table's place in a workbook: a block such as B2:F30, a named range, a table.",
        "BLOCK",
    ))  # fmt: skip
    header: int | None = field(default=None, metadata=_said(
        int, "The row of a sheet that names the columns. Default: found.", "ROW", least=1,
    ))  # fmt: skip
    leave_out_top: int = field(default=0, metadata=_said(
        int, "Lines of a text file to leave out before the header.", "LINES", least=0,
    ))  # fmt: skip
    leave_out_foot: int = field(default=0, metadata=_said(
        int, "Lines of a text file to leave out at the end.", "LINES", least=0,
    ))  # fmt: skip
    sideways: bool = field(default=False, metadata=_said(
        bool, "Names stand down the first column, records across.",
    ))  # fmt: skip
    blank_as: tuple[str, ...] = field(default=(), metadata=_said(
        str, "A token that stands for a blank, such as NA.", "TEXT", several=True,
    ))  # fmt: skip
    lacking: str | None = field(default=None, metadata=_said(
        str, "Of several files: blank takes a column that one lacks as blank there. Default: it is "
        "refused.", choices=("blank",),
    ))  # fmt: skip
    origin: str | None = field(default=None, metadata=_said(
        str, "Add a column of this name with the file or sheet that each row came from.", "NAME",
    ))  # fmt: skip
    memory: str | None = field(default=None, metadata=_said(
        str, "How much memory a table may take: 2GiB. What does not go into it stands on disk. "
        "Default: half of what is free.", "SIZE",
    ))  # fmt: skip
    cluster: Any = field(default=None, compare=False, metadata=_said(
        str, "Have the workers of a cluster read the files: the address of its scheduler, or here "
        "for workers on this machine.", "ADDRESS",
    ))  # fmt: skip
    at_most: tuple[str, ...] = field(default=(), metadata=_said(
        str, "What a file may hold at the most: unpacked=4GiB, ratio=2000, cells, columns, cell.",
        "LIMIT", several=True,
    ))  # fmt: skip
    sql: str | None = field(default=None, metadata=_said(
        str, "Of a database: the query whose rows are read, instead of a table's.", "QUERY",
    ))  # fmt: skip
    as_number: tuple[str, ...] = field(default=(), metadata=_said(
        str, "A column whose texts are numbers: read by the source's conventions, what cannot be "
        "is counted.", "COLUMN", several=True,
    ))  # fmt: skip
    as_date: tuple[str, ...] = field(default=(), metadata=_said(
        str, "A column whose texts, or numbers such as 20310105 or 47853 (days since 1899-12-30, "
        "or what the workbook names), are dates.", "COLUMN", several=True,
    ))  # fmt: skip
    quote: str = '"'
    limits: Limits = field(default_factory=Limits)
    progress: Callable[[float], None] | None = field(default=None, compare=False)
    asks: str | None = field(default=None, compare=False)
    named: Callable[[Sequence[str], Sequence[Notice]], None] | None = field(
        default=None, compare=False
    )
    prune: Query | None = field(default=None, compare=False)
    later: bool = field(default=False, compare=False)

    def is_asked(self, name: str) -> bool:
        """Tell whether the question may be about a column: whether its words hold the name."""
        if self.asks is None or "#" in self.asks or '"' in name:
            return True
        return fold(name) in fold(self.asks)

    def alone(self) -> "SourceOptions":
        """Return the options for others: nobody is told how far they are, or of names."""
        return replace(self, cluster=None, progress=None, named=None, later=False)

    def tell_names(self, names: Sequence[str], notices: Sequence[Notice] = ()) -> None:
        """Tell whoever wants to know the names of columns before their cells are read."""
        if self.named is not None:
            self.named(names, notices)

    def telling(self, low: float, high: float) -> "SourceOptions":
        """Return the options for a part of the reading, which tells its share of the whole."""
        tell = self.progress
        if tell is None:
            return self
        return replace(self, progress=lambda share: tell(low + (high - low) * share))

    @property
    def decimal_mark(self) -> str:
        """The decimal mark: a point unless a person says otherwise."""
        return self.decimal or "."

    @property
    def needs_whole(self) -> bool:
        """Whether a text file must be held whole: where fields are chosen, or lines twice."""
        return bool(self.cells or self.sideways or (self.header and self.leave_out_top))

    @property
    def lines_chosen(self) -> bool:
        """Whether it is said which lines of a text file are header and rows."""
        return bool(self.header or self.leave_out_top or self.leave_out_foot)

    @classmethod
    def of(cls, **keywords: Unpack["SourceKeywords"]) -> "SourceOptions":
        """Return the options of keywords as a person gives them. Raises `CallError`.

        >>> SourceOptions.of(sheet=2, blank_as="NA").sheet
        '2'
        """
        given: dict[str, Any] = dict(keywords)
        _refuse_mistaken(given)
        for name in ("blank_as", "at_most", "as_number", "as_date"):
            given[name] = texts_of(name, None if given.get(name, "") == "" else given[name])
        if given.get("prune") is not None and not isinstance(given["prune"], Query):
            given["prune"] = Query.of(where=given["prune"])
            with suppress(SieveError):  # names are known when the file is open
                given["prune"].criteria(Table((), 0))
        given["limits"] = given.get("limits", Limits()).with_words(given["at_most"])
        if given.get("sheet") is not None:
            given["sheet"] = str(given["sheet"])
        if given.get("date_order") is not None:
            orders = [each.value for each in DateOrder]
            if given["date_order"] not in orders:
                fact = f"date_order '{given['date_order']}': there is no such order"
                raise CallError(f"{fact}\nWrite one of: {', '.join(orders)}")
            given["date_order"] = DateOrder(given["date_order"])
        if str(given.get("delimiter")).lower() == "tab":
            given["delimiter"] = "\t"
        delimiter = given.get("delimiter")
        if delimiter and not _DELIMITER.fullmatch(delimiter):
            fact = f"delimiter '{delimiter}': one character is needed, such as ; or |, or tab"
            raise CallError(fact)
        return cls(**given)


def _refuse_mistaken(given: dict[str, Any]) -> None:
    """Raise `TypeError` for a keyword that there is not, or a value of another type."""
    said, known = said_options(), [each.name for each in fields(SourceOptions)]
    for name, value in given.items():
        if name not in known:
            near = closest(name, said)
            hint = f"did you mean {listed(near)}?" if near else f"known are {', '.join(said)}"
            raise TypeError(f"there is no keyword '{name}'; {hint}")
        if name == "progress" and value is not None and not callable(value):
            raise refused(name, "a function that takes the share done", value)
        if name == "asks" and value is not None:
            text_of(name, value, "one text, of all names that will be asked for")
        if name not in said or value is None or said[name][0].several or name in _FREE:
            continue
        kind = said[name][0].kind
        if not isinstance(value, kind) or (kind is int and isinstance(value, bool)):
            raise refused(name, _ACCEPTED.get(kind, kind.__name__), value)


_ACCEPTED = {str: "a text", int: "a whole number", bool: "True or False"}
#: A sheet has a name or a number, a cluster is an address or a client.
_FREE = ("sheet", "cluster")


class SourceKeywords(TypedDict, total=False):
    """The keywords of `read_table`: see `SourceOptions`."""

    delimiter: str | None
    encoding: str | None
    decimal: str | None
    date_order: str | None
    sheet: str | int | None
    cells: str | None
    header: int | None
    leave_out_top: int
    leave_out_foot: int
    sideways: bool
    blank_as: str | Iterable[str]
    lacking: str | None
    memory: str | None
    cluster: Any
    origin: str | None
    at_most: str | Iterable[str]
    as_number: str | Iterable[str]
    as_date: str | Iterable[str]
    sql: str | None
    quote: str
    limits: Limits
    progress: Callable[[float], None] | None
    asks: str | None
    prune: Any


def said_options() -> dict[str, tuple[Said, Any]]:
    """Return what a person can say of each option by its name, and its default."""
    return {
        each.name: (each.metadata["said"], each.default)
        for each in fields(SourceOptions)
        if "said" in each.metadata
    }
