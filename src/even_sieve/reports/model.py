"""The report file (TOML 1.0): what may stand in it, checked before anything is read.

An error names the file, the key, what it got, and what is accepted.
"""

import tomllib
from datetime import date
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import (
    AfterValidator,
    BaseModel,
    ConfigDict,
    Field,
    ValidationError,
    model_validator,
)

from even_sieve.core.errors import CallError, SourceNotFound, closest, listed

Text = Annotated[str, Field(min_length=1)]
Texts = list[Text]
Value = int | float | date | str


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=True)


class Source(_Strict):
    """Where the table comes from: a file beside the report, and how to read it."""

    file: Text
    sheet: str | int | None = None
    cells: str | None = None
    header: int | None = None
    sideways: bool = False
    delimiter: str | None = None
    encoding: str | None = None
    decimal: Literal[".", ","] = "."
    date_order: Literal["day-month-year", "month-day-year", "year-month-day"] | None = None
    blank_as: list[str] = []


class Marks(_Strict):
    """Rows to mark, by criteria; `found` in subtotal is the arithmetic search."""

    hidden: Texts = []
    filtered: Texts = []
    subtotal: Texts = []
    by: str | None = None


class LookUp(_Strict):
    """Columns from another file: own key columns with the other's, columns with new names."""

    file: Text
    on: Texts | dict[str, Text]
    bring: Texts | dict[str, Text] = []


class ReportParameter(_Strict):
    """A value that a person may set: its default, and the values that are accepted.

    `kind` says what it must be; `allowed_from` names a column whose values are accepted.
    A list stands for any of its values.
    """

    kind: Literal["number", "date", "period", "text", "yes or no"] | None = None
    default: Value | list[Value] | None = None
    label: str = ""
    allowed: list[Value] = []
    allowed_from: str | None = None


def _with_ending(name: str | None, endings: tuple[str, ...]) -> str | None:
    """Return the name if it ends so. Raises `ValueError` with what is accepted."""
    if name is not None and Path(name).suffix.lower() not in endings:
        raise ValueError(f"a name that ends in {' or '.join(endings)} is needed")
    return name


def _is_chart(name: str | None) -> str | None:
    return _with_ending(name, (".png", ".svg"))


#: The name of a chart's file.
Chart = Annotated[Text | None, AfterValidator(_is_chart)]


class _Block(_Strict):
    title: str = ""
    where: str | None = None


class Figures(_Block):
    """Single figures, one under the other."""

    kind: Literal["figures"]
    measures: Annotated[Texts, Field(min_length=1)]


class BreakdownBlock(_Block):
    """Measures by the groups of axes."""

    kind: Literal["breakdown"]
    measures: Annotated[Texts, Field(min_length=1)]
    by: Annotated[Texts, Field(min_length=1)]
    across: str | None = None
    sort: str | None = None
    top: Annotated[int, Field(ge=1)] | None = None
    chart: Chart = None

    @model_validator(mode="after")
    def _charted_along_one_axis(self) -> "BreakdownBlock":
        if self.chart is not None and (len(self.by) > 1 or self.across is not None):
            raise ValueError("a chart goes along one axis: leave out across, and all but one of by")
        return self


class Entry(_Strict):
    """One entry of a block of lines: a heading, a line of rows, or a line of others."""

    heading: Text | None = None
    label: Text | None = None
    where: Text | None = None
    sum: Texts = []

    @model_validator(mode="after")
    def _one_of_three(self) -> "Entry":
        given = (self.heading is not None, self.where is not None, bool(self.sum))
        if sum(given) != 1 or (self.heading is None) != (self.label is not None):
            raise ValueError("an entry is a heading, or a label with either where or sum")
        return self


class LinesBlock(_Block):
    """Labelled lines with criteria of their own."""

    kind: Literal["lines"]
    measures: Annotated[Texts, Field(min_length=1)]
    lines: Annotated[list[Entry], Field(min_length=1)]


class BridgeBlock(_Block):
    """The walk from the bare column to a figure."""

    kind: Literal["bridge"]
    measure: Text
    chart: Chart = None


class RowsBlock(_Block):
    """The rows that match, or all rows with a verdict on each."""

    kind: Literal["rows"]
    all: bool = False
    columns: Texts = []
    sort: Texts = []
    limit: Annotated[int, Field(ge=1)] | None = None


Block = Annotated[
    Figures | BreakdownBlock | LinesBlock | BridgeBlock | RowsBlock, Field(discriminator="kind")
]


def _is_workbook(name: str | None) -> str | None:
    return _with_ending(name, (".ods", ".xlsx"))


def _is_csv(name: str | None) -> str | None:
    return _with_ending(name, (".csv",))


class Outputs(_Strict):
    """Files to write, beside the report unless another folder is named."""

    html: Text | None = None
    markdown: Text | None = None
    json_: Annotated[Text | None, Field(alias="json")] = None
    workbook: Annotated[Text | None, AfterValidator(_is_workbook)] = None
    csv: Annotated[Text | None, AfterValidator(_is_csv)] = None


class ReportFile(_Strict):
    """A whole report file."""

    title: Text
    as_of: date | None = None
    fiscal_start: Annotated[int, Field(ge=1, le=12)] = 1
    where: str | None = None
    keep: list[str] = []
    source: Source
    parameters: dict[str, ReportParameter] = {}
    criteria: dict[str, Text] = {}
    marks: Marks = Marks()
    look_ups: list[LookUp] = []
    derived: dict[str, Text] = {}
    blocks: Annotated[list[Block], Field(min_length=1)]
    outputs: Outputs = Outputs()

    @model_validator(mode="after")
    def _names_are_told_apart(self) -> "ReportFile":
        parameters = {name.casefold() for name in self.parameters}
        for name in self.criteria:
            if name.casefold() in parameters:
                raise ValueError(f"'{name}' is both a parameter and criteria")
        return self


class ReportError(CallError):
    """A report file that cannot be used. Carries `file` and, for each fault, `key` and fact."""

    def __init__(self, file: str, faults: list[tuple[str, str]]) -> None:
        self.file, self.faults = file, tuple(faults)
        lines = [f"{file}: {key}: {fact}" if key else f"{file}: {fact}" for key, fact in faults]
        super().__init__("\n".join(lines))


def read_report(path: str | Path) -> ReportFile:
    """Return the checked report file. Raises `SourceNotFound`, `ReportError`."""
    file = Path(path)
    try:
        plain = tomllib.loads(file.read_text(encoding="utf-8"))
    except FileNotFoundError:
        raise SourceNotFound(str(path), "there is no such file") from None
    except (OSError, UnicodeDecodeError) as error:
        raise ReportError(str(path), [("", f"the file cannot be read: {error}")]) from None
    except tomllib.TOMLDecodeError as error:
        raise ReportError(str(path), [("", f"this is no TOML: {error}")]) from None
    try:
        return ReportFile.model_validate(plain)
    except ValidationError as error:
        raise ReportError(str(path), [_fault(each) for each in error.errors()]) from None


def _fault(error: Any) -> tuple[str, str]:
    """Return the key of a fault as a person finds it in the file, and what is wrong there."""
    place = [part for i, part in enumerate(error["loc"]) if i != 2 or part not in _KINDS]
    kind, got = error["type"], error["input"]
    if kind == "extra_forbidden":
        known = _keys_beside(error["loc"])
        near = closest(str(place[-1]), known)
        hint = f"; did you mean {listed(near)}?" if near else f"; known are {', '.join(known)}"
        return _key(place[:-1]), f"no key '{place[-1]}' here{hint}"
    if kind == "missing":
        return _key(place[:-1]), f"the key '{place[-1]}' is missing"
    if kind in ("union_tag_invalid", "union_tag_not_found"):
        return _key(place), f"a block needs a kind: {', '.join(_KINDS)}"
    message = error["msg"].removeprefix("Value error, ")
    message = message[0].lower() + message[1:]
    whole = isinstance(got, dict) and "kind" in got  # a block: too long to be shown
    return _key(place), f"{message}, not {got!r}" if place and not whole else message


_KINDS = ("figures", "breakdown", "lines", "bridge", "rows")
_MODELS: dict[str, type[BaseModel]] = {
    "source": Source, "marks": Marks, "look_ups": LookUp, "parameters": ReportParameter,
    "outputs": Outputs, "figures": Figures, "breakdown": BreakdownBlock, "lines": LinesBlock,
    "bridge": BridgeBlock, "rows": RowsBlock,
}  # fmt: skip


def _keys_beside(place: tuple[Any, ...]) -> list[str]:
    model: type[BaseModel] = ReportFile
    for part in place[:-1]:
        inner = model is LinesBlock and part == "lines"
        model = Entry if inner else _MODELS.get(part, model) if isinstance(part, str) else model
    return [field.alias or name for name, field in model.model_fields.items()]


def _key(place: list[Any]) -> str:
    """Return a place such as `blocks 2, measures 1`: counted from 1."""
    words: list[str] = []
    for part in place:
        if isinstance(part, int) and words:
            words[-1] += f" {part + 1}"
        else:
            words.append(str(part))
    return ", ".join(words)
