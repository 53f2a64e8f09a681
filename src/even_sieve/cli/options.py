"""Options that every command on a table shares."""

import re
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from typing import Any, TypeVar

import click

from even_sieve.cli.look_ups import read_look_ups
from even_sieve.core.cells.quoting import unquoted
from even_sieve.core.criteria import ParameterValue, parameter_from_text
from even_sieve.core.errors import CallError, ParameterError
from even_sieve.core.query import Marking, Query
from even_sieve.core.table import Mark
from even_sieve.documents.looks import Presentation
from even_sieve.renderers.renderer import format_names
from even_sieve.sources.source_options import said_options

_Command = TypeVar("_Command", bound=Callable[..., Any])

_ASKED = (
    click.option(
        "--and", "more_files", multiple=True, metavar="FILE",
        help="One more file of the same columns, its rows below. Repeated: one after the other.",
    ),
    click.option(
        "--where", multiple=True, metavar="CRITERIA",
        help='Rows that match, as "zone = Outer and dues > 500". Repeated: all must hold.',
    ),
    click.option(
        "--criteria", "criteria_files", multiple=True, metavar="FILE",
        help="A criteria range: column names and, below, rows of conditions, in a small CSV "
        "or in a workbook: calls.ods!wanted.",
    ),
    click.option(
        "--set", "settings", multiple=True, metavar="NAME=VALUE",
        help="A parameter: the value for {NAME} in criteria. Repeated: any of the values.",
    ),
    click.option(
        "--parameters", "parameter_files", multiple=True, metavar="FILE",
        help="Parameters from a CSV of two columns, name and value; --set goes before them.",
    ),
    click.option(
        "--keep", multiple=True, metavar="WHAT",
        help="Take back in: hidden, filtered, subtotals, blanks, errors.",
    ),
    click.option(
        "--hidden", multiple=True, metavar="CRITERIA",
        help="Mark these rows as hidden: they are left out.",
    ),
    click.option(
        "--subtotal", multiple=True, metavar="CRITERIA",
        help="Mark these rows as subtotals: they repeat others and are left out. found: those "
        "whose numbers equal the sum of the rows above them.",
    ),
    click.option(
        "--hidden-rows", multiple=True, metavar="ROWS",
        help="Mark rows as hidden by their numbers: 12,40-52. Of several files: 12,40-52 of NAME.",
    ),
    click.option(
        "--subtotal-rows", multiple=True, metavar="ROWS",
        help="Mark rows as subtotals by their numbers.",
    ),
    click.option(
        "--marks", metavar="COLUMN",
        help="A column whose texts say hidden, filtered, subtotal or total.",
    ),
    click.option(
        "--look-up", "look_ups", multiple=True, metavar="WORDS",
        help='Columns from another file along a key: "tariff.csv on class", "berths.ods on '
        'berth = name bring depth, length as berth length". Repeated: one after the other.',
    ),
    click.option(
        "--derive", "derived", multiple=True, metavar="COLUMN",
        help='A column worked out from others: "per ton = dues / tonnage", "size = small if '
        'tonnage < 500, else large". Repeated: one after the other.',
    ),
)  # fmt: skip
_ANSWERED = (
    click.option(
        "--as-of", type=click.DateTime(["%Y-%m-%d"]), metavar="DATE",
        help="The date for windows such as last 30 days. Default: today.",
    ),
    click.option(
        "--fiscal-start", type=click.IntRange(1, 12), default=1, metavar="MONTH",
        help="The first month of the fiscal year, 1 to 12.",
    ),
    click.option(
        "--show", "looks", multiple=True, metavar="NAME=LOOK",
        help='How a figure or a column is shown: "sum of dues=EUR 0", "share of dues=percent 2", '
        '"arrived=date long"; all stands for every figure. Repeated: one after the other.',
    ),
    click.option(
        "--locale", metavar="NAME",
        help="The place whose way of writing numbers and dates is used, as de_DE.",
    ),
    click.option(
        "--strict", is_flag=True,
        help="Give no figure, and exit status 1, where any notice casts doubt.",
    ),
    click.option(
        "--format", "form", type=click.Choice(format_names()), default="table", show_default=True,
        help="How the answer is written.",
    ),
)  # fmt: skip


def _source_options() -> Iterator[Callable[[_Command], _Command]]:
    """Yield an option for all that a person can say of a source."""
    for name, (said, default) in said_options().items():
        flag = f"--{name.replace('_', '-')}"
        if said.kind is bool:
            yield click.option(flag, is_flag=True, help=said.help)
            continue
        kind: Any = click.Choice(said.choices) if said.choices else said.kind
        if said.least is not None:
            kind = click.IntRange(said.least)
        yield click.option(
            flag,
            type=kind,
            multiple=said.several,
            metavar=said.metavar,
            default=default if default != () else None,
            show_default=bool(default),
            help=said.help,
        )


#: Of the commands that show nothing of rows that do not match.
prune_option = click.option(
    "--prune", is_flag=True,
    help="Leave groups of rows and files unread that by their own statistics (Parquet) hold no "
    "match; accounts count their rows.",
)  # fmt: skip
_SHARED = (*_ASKED, *_source_options(), *_ANSWERED)


@dataclass(frozen=True)
class TableOptions:
    """What the shared options say; `source` is what they say of how the file is read."""

    more_files: tuple[str, ...]
    where: tuple[str, ...]
    criteria_files: tuple[str, ...]
    settings: tuple[str, ...]
    parameter_files: tuple[str, ...]
    keep: tuple[str, ...]
    hidden: tuple[str, ...]
    subtotal: tuple[str, ...]
    hidden_rows: tuple[str, ...]
    subtotal_rows: tuple[str, ...]
    marks: str | None
    look_ups: tuple[str, ...]
    derived: tuple[str, ...]
    as_of: date | None
    fiscal_start: int
    looks: tuple[str, ...]
    locale: str | None
    strict: bool
    form: str
    source: Mapping[str, Any]

    def presentation(self) -> Presentation | None:
        """Return how figures are to be shown; None where nothing is said of it."""
        if not self.looks and self.locale is None:
            return None
        said: dict[str, str] = {}
        for each in self.looks:
            name, equal, look = each.rpartition("=")
            if not equal or not name.strip():
                raise CallError(f"'{each}' says no look\nWrite for example: dues=EUR 0")
            said[unquoted(name.strip())] = look.strip()
        return Presentation.of(said, self.locale)

    def words(self) -> tuple[str, ...]:
        """Return what is written of columns."""
        written = (self.where, self.hidden, self.subtotal, self.look_ups, self.derived)
        return (*(each for words in written for each in words), self.marks or "", *self.settings)

    def query(self) -> Query:
        """Return what is asked of the table besides the measures."""
        from even_sieve.public.criteria import read_criteria

        return replace(
            Query.of(
                where=[*self.where, *map(read_criteria, self.criteria_files)] or None,
                keep=_words(self.keep),
                parameters=self.parameters(),
                as_of=self.as_of,
                fiscal_start=self.fiscal_start,
                look_ups=read_look_ups(self.look_ups, self.source),
                derive=self.derived,
                marked_by=self.marks,
                strict=self.strict,
            ),
            marks=tuple(self._marks()),
        )

    def _marks(self) -> Iterator[Marking]:
        yield from (Marking(Mark.HIDDEN, each) for each in self.hidden)
        yield from (Marking(Mark.SUBTOTAL, each) for each in self.subtotal)
        yield from (Marking(Mark.HIDDEN, _row_numbers(each)) for each in self.hidden_rows)
        yield from (Marking(Mark.SUBTOTAL, _row_numbers(each)) for each in self.subtotal_rows)

    def parameters(self) -> dict[str, ParameterValue]:
        """Return the parameters by name; those of `--set` go before those of files.

        Raises `ParameterError` for a setting without `=`.
        """
        from even_sieve.public.criteria import read_parameters

        read: dict[str, list[Any]] = {}
        for setting in self.settings:
            name, equal, value = setting.partition("=")
            if not equal or not name.strip():
                raise ParameterError(setting, "no value is given", "Write: --set NAME=VALUE")
            read.setdefault(name.strip(), []).append(parameter_from_text(value))
        together: dict[str, ParameterValue] = {}
        for file in self.parameter_files:
            together |= read_parameters(file)
        for name, found in read.items():
            together[name] = found[0] if len(found) == 1 else found
        return together


_OF_SOURCE = re.compile(r"([\d\s,-]+?)\s+of\s+(.+)", re.DOTALL)


def _row_numbers(text: str) -> Any:
    """Return the rows of `12,40-52`, or `12,40-52 of calls.csv`. Raises `CallError` for others."""
    from even_sieve.core.table.marking import RowsOf

    found = _OF_SOURCE.fullmatch(text.strip())
    if found is not None:
        return RowsOf(unquoted(found[2]), _numbers(found[1]))
    return _numbers(text)


def _numbers(text: str) -> Any:
    import numpy as np

    numbers: list[Any] = []
    count = 0
    for part in text.split(","):
        first, dash, last = part.strip().partition("-")
        if not first.strip().isdecimal() or (dash and not last.strip().isdecimal()):
            raise CallError(f"'{text}' is no list of rows\nWrite for example: 12,40-52")
        begin, end = (Decimal(each) for each in (first, last if dash else first))
        count += max(int(end - begin) + 1, 0)
        if count > _MOST_ROWS or end >= 2**62:
            hint = "Mark them by criteria: --hidden, --subtotal"
            raise CallError(f"'{text}': more than {_MOST_ROWS:,} rows\n{hint}")
        kind = np.int32 if end < 2**31 - 1 else np.int64  # ten million of them take 40 MB
        numbers.append(np.arange(int(begin), int(end) + 1, dtype=kind))
    return numbers[0] if len(numbers) == 1 else np.concatenate(numbers)


#: Their numbers stand in memory, some 16 bytes each until they are found.
_MOST_ROWS = 10_000_000


def _words(options: Iterable[str]) -> list[str]:
    """Return the words of options that may each hold several with commas."""
    return [word for option in options for word in option.replace(",", " ").split()]


def table_options(command: _Command) -> _Command:
    """Give a command the shared options; it receives them as one `TableOptions`."""

    def with_options(**values: Any) -> Any:
        source = {name: values.pop(name) for name in said_options()}
        names = [name for name in TableOptions.__dataclass_fields__ if name != "source"]
        shared = {name: values.pop(name) for name in names}
        if shared["as_of"] is not None:
            shared["as_of"] = shared["as_of"].date()
        return command(options=TableOptions(**shared, source=source), **values)

    with_options.__name__, with_options.__doc__ = command.__name__, command.__doc__
    wrapped: Any = with_options
    wrapped.__click_params__ = list(getattr(command, "__click_params__", []))
    for option in reversed(_SHARED):
        wrapped = option(wrapped)
    return wrapped  # type: ignore[no-any-return]
