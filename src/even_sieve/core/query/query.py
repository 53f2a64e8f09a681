"""The query: the one record in which options travel, from wherever they were given."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from datetime import date
from typing import Any, TypedDict, Unpack

from even_sieve.core.criteria import (
    EVERYTHING,
    ParameterValue,
    RangeCriteria,
    Settings,
    Where,
    read_where,
)
from even_sieve.core.derive import derive
from even_sieve.core.errors import CallError, closest, listed
from even_sieve.core.measures import Keep, parse_keep
from even_sieve.core.notices import each_once
from even_sieve.core.query.asked import (
    chosen_of,
    day_of,
    derived_of,
    look_ups_of,
    parameters_of,
    words_of_keep,
)
from even_sieve.core.query.given import GivenColumn, given_rows
from even_sieve.core.query.marking import Chosen, Marking, chosen_rows, notices_on
from even_sieve.core.table import Mark, Table
from even_sieve.core.table.lookup import look_up
from even_sieve.core.table.marking import marked_by
from even_sieve.core.understood import refused, text_of, texts_of, whole_of, yes_no_of


@dataclass(frozen=True)
class LookUp:
    """Columns of another table, along a key.

    `on` maps own key columns to the other table's, `bring` its columns to their new names;
    all but the keys are brought where it is empty.

    >>> from even_sieve import table_from
    >>> tariff = table_from({"class": ["barge"], "rate": [0.06]})
    >>> calls = table_from({"class": ["barge", "barge"], "tons": [100, 50]})
    >>> asked = {"look_ups": LookUp.of(tariff, "class"), "derive": "due = rate * tons"}
    >>> calls.tally("sum of due", **asked)[0].value
    9
    """

    table: Table
    on: Mapping[str, str]
    bring: Mapping[str, str] = field(default_factory=dict)

    @classmethod
    def of(
        cls,
        table: Any,
        on: str | Iterable[str] | Mapping[str, str],
        bring: str | Iterable[str] | Mapping[str, str] = (),
    ) -> "LookUp":
        """Return the look-up that the words describe. Raises `CallError` without a key."""
        table = getattr(table, "core", table)  # that of the public package
        if not isinstance(table, Table):
            raise refused("what is looked up in", "a table", table)
        keys = _mapping(on)
        if not keys:
            name = table.names[0] if table.names else "class"
            raise CallError(f"look up needs a key column\nWrite for example: on {name}")
        return cls(table, keys, _mapping(bring))


class Asked(TypedDict, total=False):
    """The keywords of everything that asks a table, as a person gives them.

    `where` is criteria: text, nodes, a criteria range, or several of which all must hold; or
    rows: a mask (yes/no, one for each row), or row numbers of the source.
    `keep` takes back in what is left out: hidden, filtered, subtotals, blanks, errors.
    `parameters` are the values for `{name}` in criteria, `as_of` the date for windows such as
    `last 30 days` (today if left out), `fiscal_start` the first month of the fiscal year,
    1 to 12. `look_ups`, `derive` and the marks (`hidden`, `filtered`, `subtotal`: criteria or
    row numbers; `marked_by`: a column) make the table ready first, in that order. `threads`
    share the work (all cores if left out); the figures are the same on any number. `strict`
    makes any notice of doubt a `DoubtError`.

    >>> import even_sieve
    >>> calls = even_sieve.table_from({"zone": ["Outer", "Inner"], "dues": [120, 80]})
    >>> asked: even_sieve.Asked = {"where": "zone = Outer", "strict": True}
    >>> calls.tally("sum of dues", **asked)[0].value
    120
    """

    where: Where
    keep: str | Iterable[str]
    parameters: Mapping[str, ParameterValue] | None
    as_of: date | str | None
    fiscal_start: int
    look_ups: Iterable[LookUp]
    derive: str | Iterable[str]
    hidden: Chosen
    filtered: Chosen
    subtotal: Chosen
    marked_by: str | None
    strict: bool
    threads: int | None


_COLUMN = "the name of a column"
#: The marks by the keywords that set them.
MARK_NAMES = {"hidden": Mark.HIDDEN, "filtered": Mark.FILTERED, "subtotal": Mark.SUBTOTAL}


@dataclass(frozen=True)
class Query:
    """What is asked of a table besides the measures.

    >>> query = Query.of(where="zone = Outer", keep="hidden")
    >>> query.where, sorted(query.keep)
    (('zone = Outer',), [<Keep.HIDDEN: 'hidden'>])
    """

    where: tuple[Any, ...] = ()
    keep: frozenset[Keep] = frozenset()
    parameters: Mapping[str, ParameterValue] = field(default_factory=dict)
    as_of: date = field(default_factory=date.today)
    fiscal_start: int = 1
    look_ups: tuple[LookUp, ...] = ()
    derived: tuple[str, ...] = ()
    marks: tuple[Marking, ...] = ()
    marked_by: str | None = None
    strict: bool = False
    threads: int = field(default=0, compare=False)
    given: tuple[GivenColumn, ...] = ()

    @classmethod
    def of(cls, **asked: Unpack[Asked]) -> "Query":
        """Return the query of keywords as a person gives them. Raises `TypeError` for others.

        >>> Query.of(were="zone = Outer")
        Traceback (most recent call last):
        TypeError: there is no keyword 'were'; did you mean 'where' or 'derive'?
        """
        _refuse_unknown(asked)
        chosen = [(name, mark, asked.get(name)) for name, mark in MARK_NAMES.items()]
        found = cls(
            (),
            parse_keep(words_of_keep(asked.get("keep"))),
            parameters_of(asked.get("parameters")),
            day_of(asked.get("as_of")),
            whole_of("fiscal_start", asked.get("fiscal_start", 1), 1),
            look_ups_of(asked.get("look_ups"), LookUp),
            derived_of(asked.get("derive")),
            tuple(
                Marking(mark, chosen_of(name, rows))
                for name, mark, rows in chosen
                if rows is not None
            ),
            None if (by := asked.get("marked_by")) is None else text_of("marked_by", by, _COLUMN),
            yes_no_of("strict", asked.get("strict", False)),
            whole_of("threads", asked.get("threads") or 0, 0),
        )
        return found.narrowed_by(asked.get("where"))

    @property
    def settings(self) -> Settings:
        """What criteria hang on: parameters, the as-of date, the fiscal year."""
        return Settings(self.parameters, self.as_of, self.fiscal_start)

    def criteria(self, table: Table) -> RangeCriteria:
        """Return the criteria with what is to be known of them, read against a table's names."""
        return read_where(self.where or None, table.names)

    def narrowed_by(self, where: Where) -> "Query":
        """Return the query with more criteria, all of which must hold; rows may be given too."""
        rows = given_rows(where)
        if rows is None:
            return replace(self, where=(*self.where, *_several(where)))
        column = GivenColumn.after(self.given, rows)
        return replace(self, where=(*self.where, column.criteria), given=(*self.given, column))

    @property
    def making(self) -> tuple[Any, ...]:
        """What makes a table ready: columns looked up and derived, marks; empty for nothing."""
        made = self.given, self.look_ups, self.derived, self.marks, self.marked_by
        return (*made, self.parameters, self.as_of, self.fiscal_start) if any(made) else ()

    def made_as(self, other: "Query") -> "Query":
        """Return the query with what makes the table ready for another one."""
        return replace(
            self,
            given=other.given,
            look_ups=other.look_ups,
            derived=other.derived,
            marks=other.marks,
            marked_by=other.marked_by,
        )

    def with_derived(self, derived: Iterable[str]) -> "Query":
        """Return the query with more derived columns, after its own."""
        return replace(self, derived=(*self.derived, *derived))

    def of_made_table(self) -> "Query":
        """Return the same query for a table that is made ready already."""
        return self.made_as(Query())

    def made_table(self, table: Table) -> Table:
        """Return the table with columns looked up and derived, and with its marks.

        Raises `LookUpError`, `CallError`, `MarkError`, `UnknownColumn`.
        """
        for column in self.given:
            table = column.added_to(table)
        for each in self.look_ups:
            table = look_up(table, each.table, each.on, each.bring)
        for text in self.derived:
            table = derive(table, text, self.settings)
        for marking in self.marks:
            chosen = chosen_rows(table, marking, self.settings)
            told = each_once((*table.own_notices, *chosen.notices))
            table = replace(table.marked(marking.mark, chosen.rows), own_notices=told)
        return table if self.marked_by is None else self._marked_by(table, self.marked_by)

    @staticmethod
    def _marked_by(table: Table, name: str) -> Table:
        marked = marked_by(table, name)
        told = notices_on(f"marks by '{name}'", marked.marks, table.length)
        return replace(marked, own_notices=each_once((*table.own_notices, *told)))


def _refuse_unknown(asked: Asked) -> None:
    for name in asked:
        if name not in Asked.__annotations__:
            near = closest(name, Asked.__annotations__)
            known = f"known are {', '.join(Asked.__annotations__)}"
            hint = f"did you mean {listed(near)}?" if near else known
            raise TypeError(f"there is no keyword '{name}'; {hint}")


def _several(where: Where) -> tuple[Any, ...]:
    """Return criteria that were given as one, or as several, as several."""
    if where is None:
        return ()
    if hasattr(where, "iloc"):
        raise TypeError(
            "where is criteria, a mask or row numbers; of a criteria range in a data frame give "
            "read_criteria(frame)"
        )
    if isinstance(where, Iterable) and not isinstance(where, str | Mapping):
        return tuple(where) or (RangeCriteria(EVERYTHING, read_where((), ()).notices),)
    return (where,)


def _mapping(names: str | Iterable[str] | Mapping[str, str]) -> dict[str, str]:
    if isinstance(names, Mapping):
        return dict(names)
    return {name: name for name in texts_of("a look-up's columns", names, "names of columns")}
