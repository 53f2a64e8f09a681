"""Options that every command on a table shares."""

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import date
from typing import TYPE_CHECKING, Any, TypeVar

import click

from even_sieve.core.criteria import ParameterValue, parameter_from_text
from even_sieve.core.errors import CallError, ParameterError
from even_sieve.sources.written_numbers import DateOrder
from even_sieve.views.formats import FORMATS

if TYPE_CHECKING:
    from even_sieve.public.table import Table

_Command = TypeVar("_Command", bound=Callable[..., Any])

_SHARED = (
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
        help="Mark rows as hidden by their numbers: 12,40-52.",
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
    click.option(
        "--delimiter", metavar="CHAR", callback=lambda ctx, option, value: _tab(value),
        help="What stands between fields of a text file (tab for a tab). Default: found.",
    ),
    click.option(
        "--encoding", metavar="NAME",
        help="How a text file is encoded: utf-8, utf-16, latin-1. Default: found.",
    ),
    click.option(
        "--decimal", type=click.Choice([".", ","]), default=".", show_default=True,
        help="The decimal mark of a text file.",
    ),
    click.option(
        "--date-order", type=click.Choice([each.value for each in DateOrder]),
        help="The order in which dates name their parts, where they are not ISO dates.",
    ),
    click.option(
        "--sheet", metavar="NAME",
        help="The sheet of a workbook, by name or number. Default: the first.",
    ),
    click.option(
        "--cells", metavar="BLOCK",
        help="The table's place in a workbook: a block such as B2:F30, a named range, a table.",
    ),
    click.option(
        "--header", type=click.IntRange(1), metavar="ROW",
        help="The row of a sheet that names the columns. Default: found.",
    ),
    click.option(
        "--sideways", is_flag=True, help="Names stand down the first column, records across."
    ),
    click.option(
        "--blank-as", multiple=True, metavar="TEXT",
        help="A token that stands for a blank, such as NA.",
    ),
    click.option(
        "--as-of", type=click.DateTime(["%Y-%m-%d"]), metavar="DATE",
        help="The date for windows such as last 30 days. Default: today.",
    ),
    click.option(
        "--fiscal-start", type=click.IntRange(1, 12), default=1, metavar="MONTH",
        help="The first month of the fiscal year, 1 to 12.",
    ),
    click.option(
        "--format", "form", type=click.Choice(list(FORMATS)), default="table", show_default=True,
        help="How the answer is written.",
    ),
)  # fmt: skip


@dataclass(frozen=True)
class TableOptions:
    """What the shared options say."""

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
    delimiter: str | None
    encoding: str | None
    decimal: str
    date_order: str | None
    sheet: str | None
    cells: str | None
    header: int | None
    sideways: bool
    blank_as: tuple[str, ...]
    as_of: date | None
    fiscal_start: int
    form: str

    def source(self) -> dict[str, Any]:
        """Return what `read_table` takes as keywords."""
        names = ("blank_as", "delimiter", "encoding", "decimal", "date_order", "sheet", "cells",
                 "header", "sideways")  # fmt: skip
        return {name: getattr(self, name) for name in names}

    def marked(self, table: "Table") -> "Table":
        """Return the table with columns looked up and derived, and the marks that are set."""
        given = self.parameters()
        for words in self.look_ups:
            table = _looked_up(table, words)
        settings = {"as_of": self.as_of, "fiscal_start": self.fiscal_start}
        table = table.derive(*self.derived, parameters=given, **settings)  # type: ignore[arg-type]
        for criteria in self.hidden:
            table = table.mark(hidden=criteria, parameters=given)
        for criteria in self.subtotal:
            table = table.mark(subtotal=criteria, parameters=given)
        for rows in self.hidden_rows:
            table = table.mark(hidden=_row_numbers(rows))
        for rows in self.subtotal_rows:
            table = table.mark(subtotal=_row_numbers(rows))
        return table if self.marks is None else table.mark(by=self.marks)

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

    def asked(self) -> dict[str, Any]:
        """Return what a table's methods take as keywords: criteria, keep, and settings."""
        from even_sieve.public.criteria import read_criteria

        return {
            "where": [*self.where, *map(read_criteria, self.criteria_files)],
            "keep": _words(self.keep),
            "parameters": self.parameters(),
            "as_of": self.as_of,
            "fiscal_start": self.fiscal_start,
        }


_LOOK_UP = re.compile(r"(.+?)\s+on\s+(.+?)(?:\s+bring\s+(.+))?\Z", re.IGNORECASE | re.DOTALL)
_LIST = re.compile(r"\s*,\s*")


def _looked_up(table: "Table", words: str) -> "Table":
    """Return the table with columns of another file. Raises `CallError` for other words."""
    from even_sieve.public.reading import read_table

    found = _LOOK_UP.match(words.strip())
    if found is None:
        raise CallError(f"'{words}' is no look-up\nWrite for example: tariff.csv on class")
    file, keys, bring = found.groups()
    on = dict(_pair(each, "=") for each in _LIST.split(keys))
    brought = dict(_pair(each, " as ") for each in _LIST.split(bring)) if bring else {}
    return table.look_up(read_table(file), on, bring=brought)


def _pair(text: str, joint: str) -> tuple[str, str]:
    first, _, second = text.partition(joint)
    return first.strip(), second.strip() or first.strip()


def _tab(delimiter: str | None) -> str | None:
    if delimiter is not None and len(delimiter) != 1 and delimiter.lower() != "tab":
        raise click.BadParameter("one character is needed, or tab")
    return "\t" if delimiter is not None and delimiter.lower() == "tab" else delimiter


def _row_numbers(text: str) -> list[int]:
    """Return the numbers of `12,40-52`. Raises `CallError` for anything else."""
    numbers: list[int] = []
    for part in text.split(","):
        first, dash, last = part.strip().partition("-")
        if not first.strip().isdecimal() or (dash and not last.strip().isdecimal()):
            raise CallError(f"'{text}' is no list of rows\nWrite for example: 12,40-52")
        numbers.extend(range(int(first), int(last if dash else first) + 1))
    return numbers


def _words(options: Iterable[str]) -> list[str]:
    """Return the words of options that may each hold several with commas."""
    return [word for option in options for word in option.replace(",", " ").split()]


def table_options(command: _Command) -> _Command:
    """Give a command the shared options; it receives them as one `TableOptions`."""

    def with_options(**values: Any) -> Any:
        shared = {name: values.pop(name) for name in TableOptions.__dataclass_fields__}
        if shared["as_of"] is not None:
            shared["as_of"] = shared["as_of"].date()
        return command(options=TableOptions(**shared), **values)

    with_options.__name__, with_options.__doc__ = command.__name__, command.__doc__
    wrapped: Any = with_options
    wrapped.__click_params__ = list(getattr(command, "__click_params__", []))
    for option in reversed(_SHARED):
        wrapped = option(wrapped)
    return wrapped  # type: ignore[no-any-return]
