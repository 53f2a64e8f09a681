"""The report file (TOML 1.0): what may stand in it, checked before anything is read.

An error names the file, the key, what it got, and what is accepted.
"""

import tomllib
from collections.abc import Collection
from datetime import date
from pathlib import Path
from typing import Annotated, Any, Literal, Union

from pydantic import BaseModel, Field, ValidationError, create_model, model_validator

from even_sieve.core.cells import fold
from even_sieve.core.errors import CallError, SourceNotFound, closest, listed
from even_sieve.documents.looks import Presentation
from even_sieve.reports.blocks import BLOCK_KINDS, lines
from even_sieve.reports.blocks.block import Strict, Text, Texts, with_ending
from even_sieve.sources.source_options import said_options

Value = int | float | date | str


class _Files(Strict):
    """One file, or several that are one table."""

    @model_validator(mode="after")
    def _are_named_in_one_way(self) -> "_Files":
        named = self.model_dump(include={"file", "files"})
        if bool(named["file"]) == bool(named["files"]):
            raise ValueError("a source has a file, or a list of files, and not both")
        return self


def _all_said(without: Collection[str] = ()) -> dict[str, Any]:
    """Return the fields of a model for all that can be said of a source, but for some."""
    found: dict[str, Any] = {}
    for name, (said, default) in said_options().items():
        if name in without:
            continue
        kind: Any = Literal[said.choices] if said.choices else said.kind
        kind = str | int if name == "sheet" else kind
        if said.several:
            found[name] = (Texts if kind is str else list[kind], [])
        else:
            found[name] = (kind if default is not None else kind | None, default)
    return found


#: Files beside the report, and all that can be said of them.
_Source = create_model(
    "Source", __base__=_Files, file=(Text | None, None), files=(Texts, []), **_all_said()
)


class Marks(Strict):
    """Rows to mark, by criteria; `found` in subtotal is the arithmetic search."""

    hidden: Texts = []
    filtered: Texts = []
    subtotal: Texts = []
    by: str | None = None


class LookUpModel(Strict):
    """Columns from another file: own key columns with the other's, columns with new names."""

    file: Text
    on: Texts | dict[str, Text]
    bring: Texts | dict[str, Text] = []

    @property
    def how(self) -> dict[str, Any]:
        """How the file is to be read."""
        return self.model_dump(exclude={"file", "on", "bring"})


#: What is said of all that is read is said of the source.
_OF_ALL = ("cluster", "memory", "origin")
_LookUp = create_model("LookUp", __base__=LookUpModel, **_all_said(_OF_ALL))


class ReportParameter(Strict):
    """A value that a person may set: its default, and the values that are accepted.

    `kind` says what it must be; `allowed_from` names a column whose values are accepted.
    A list stands for any of its values.
    """

    kind: Literal["number", "date", "period", "text", "yes or no"] | None = None
    default: Value | list[Value] | None = None
    label: str = ""
    allowed: list[Value] = []
    allowed_from: str | None = None


_BLOCK: Any = Annotated[
    Union[tuple(each.model for each in BLOCK_KINDS.values())],  # noqa: UP007
    Field(discriminator="kind"),
]


class Outputs(Strict):
    """Files to write, beside the report unless another folder is named.

    `outside` lets names lead out of that folder.
    """

    html: Text | None = None
    markdown: Text | None = None
    json_: Annotated[Text | None, Field(alias="json")] = None
    workbook: Annotated[Text | None, with_ending(".ods", ".xlsx")] = None
    csv: Annotated[Text | None, with_ending(".csv")] = None
    outside: bool = False


class Follow(Strict):
    """Rows that are told apart by a key from run to run, and whose values are kept."""

    key: Annotated[Texts, Field(min_length=1)]
    columns: Texts = []


class ReportFile(Strict):
    """A whole report file."""

    title: Text
    as_of: date | None = None
    fiscal_start: Annotated[int, Field(ge=1, le=12)] = 1
    where: str | None = None
    keep: Texts = []
    strict: bool = False
    locale: Text | None = None
    shown: dict[str, Text] = {}
    source: _Source  # type: ignore[valid-type]
    parameters: dict[str, ReportParameter] = {}
    criteria: dict[str, Text] = {}
    marks: Marks = Marks()
    look_ups: list[_LookUp] = []  # type: ignore[valid-type]
    derived: dict[str, Text] = {}
    follow: Follow | None = None
    blocks: Annotated[list[_BLOCK], Field(min_length=1)]
    outputs: Outputs = Outputs()

    @model_validator(mode="after")
    def _names_are_told_apart(self) -> "ReportFile":
        parameters = {fold(name) for name in self.parameters}
        for name in self.criteria:
            if fold(name) in parameters:
                raise ValueError(f"'{name}' is both a parameter and criteria")
        return self

    @model_validator(mode="after")
    def _looks_exist(self) -> "ReportFile":
        try:
            self.presentation()
        except CallError as error:
            raise ValueError(str(error).replace("\n", "; ")) from None
        return self

    def presentation(self) -> Presentation | None:
        """Return how figures are to be shown; None where nothing is said of it."""
        if self.locale is None and not self.shown:
            return None
        return Presentation.of(self.shown, self.locale)


class ReportError(CallError):
    """A report file that cannot be used. Carries `file` and, for each fault, `key` and fact."""

    def __init__(self, file: str, faults: list[tuple[str, str]]) -> None:
        self.file, self.faults = file, tuple(faults)
        lines = [f"{file}: {key}: {fact}" if key else f"{file}: {fact}" for key, fact in faults]
        super().__init__("\n".join(lines))


def schema() -> dict[str, Any]:
    """Return the JSON Schema of the report file: editors complete and check with it."""
    found = ReportFile.model_json_schema(by_alias=True)
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **found}


def source_of(file: ReportFile) -> tuple[list[str], dict[str, Any]]:
    """Return the names of a report's files, and how they are to be read."""
    source: Strict = file.source
    how = source.model_dump()
    one, several = how.pop("file"), how.pop("files")
    return several or [one], how


def read_report(path: str | Path) -> ReportFile:
    """Return the checked report file. Raises `SourceNotFound`, `ReportError`."""
    file = Path(path)
    try:
        plain = tomllib.loads(file.read_text(encoding="utf-8"))
    except FileNotFoundError:
        raise SourceNotFound(str(path), "there is no such file") from None
    except tomllib.TOMLDecodeError as error:
        raise ReportError(str(path), [("", f"this is no TOML: {error}")]) from None
    except (OSError, ValueError) as error:
        raise ReportError(str(path), [("", f"the file cannot be read: {error}")]) from None
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
    message = message.replace("value should have", "list should have")
    whole = isinstance(got, dict) and "kind" in got  # a block: too long to be shown
    return _key(place), f"{message}, not {got!r}" if place and not whole else message


_KINDS = tuple(BLOCK_KINDS)
_MODELS: dict[str, type[BaseModel]] = {
    "source": _Source, "marks": Marks, "look_ups": _LookUp, "parameters": ReportParameter,
    "outputs": Outputs, "follow": Follow,
    **{name: kind.model for name, kind in BLOCK_KINDS.items()},
}  # fmt: skip


def _keys_beside(place: tuple[Any, ...]) -> list[str]:
    model: type[BaseModel] = ReportFile
    for part in place[:-1]:
        inner = model is lines.LinesBlock and part == "lines"
        found = _MODELS.get(part, model) if isinstance(part, str) else model
        model = lines.Entry if inner else found
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
