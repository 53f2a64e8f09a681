"""What a workbook of ISO/IEC 29500 is made of: its sheets, its names, how its numbers are shown.

Of each part only what tells about cells is looked at: writers differ in all the rest, and leave
out, add and damage what is of no concern here. Both conformance classes are read, whose parts
differ in the addresses that stand for the kinds of elements and relations.
"""

import re
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime
from posixpath import basename, dirname, join, normpath
from typing import Any
from xml.etree.ElementTree import Element, ParseError, parse

from even_sieve.core.errors import SourceError
from even_sieve.sources.packed import Packed
from even_sieve.sources.shown_by_source import PERCENT, look_of_format

_TYPES = "[Content_Types].xml"
_WORKBOOK, _MAIN = "xl/workbook.xml", ".main+xml"
_YES = frozenset({"1", "true", "t", "on"})
#: Day 0 of the dates that are stored as numbers of days.
_SINCE_1900, _SINCE_1904 = datetime(1899, 12, 30), datetime(1904, 1, 1)
#: Names that begin so stand for what a program does with a sheet.
_RESERVED = "_xlnm."
#: The formats of dates, lengths of time and shares that the standard numbers for Chinese,
#: Japanese, Korean and Thai (18.8.30): no file spells them out.
_EASTERN = {
    **dict.fromkeys((*range(27, 37), *range(50, 59), *range(71, 79), 80, 81), "yyyy-mm-dd"),
    79: "[h]:mm:ss",
    67: "0%",
    68: "0.00%",
}
#: What some programs call the plain format, by letters that would be those of dates.
_PLAIN = frozenset(
    {"standard", "estándar", "yleinen", "všeobecný", "általános", "standardowy", "ogólny"}
)
#: A block of one sheet, whose name stands in quotes where it has other letters.
_OF_SHEET = re.compile(r"(?:'((?:[^']|'')+)'|([^'!\[\]()*?,;:\"]+))!([$:\w]+)\Z")


@dataclass(frozen=True)
class SheetPart:
    """A sheet as the workbook lists it, and the path of its part."""

    name: str
    path: str
    is_hidden: bool


@dataclass(frozen=True)
class Name:
    """A name of the workbook, or of a sheet alone: `sheet` and `block` are what it stands for."""

    name: str
    sheet: str
    block: str
    within: str | None = None


@dataclass(frozen=True)
class Styles:
    """Which styles of cells show dates or lengths of time, and which percent or a currency."""

    dates: frozenset[int]
    lengths: frozenset[int]
    looks: dict[int, str]


class Package:
    """The parts of a workbook. Raises `SourceError` for one that lacks what it names."""

    def __init__(self, archive: Packed, source: str) -> None:
        self.archive, self._source = archive, source
        self._paths = {name.lower(): name for name in archive.namelist()}
        self._workbook = self._found_workbook()
        root = self._root(self._workbook) if self._workbook else None
        self._parts = [] if root is None else root
        self._related = list(self._relations(self._workbook or ""))

    @property
    def is_workbook(self) -> bool:
        """Whether there is a workbook among the parts, whatever it is called."""
        return self._workbook is not None

    @property
    def epoch(self) -> datetime:
        """Day 0 of the dates that are stored as numbers of days."""
        told = (each.get("date1904", "") for each in self._parts if _is(each, "workbookPr"))
        return _SINCE_1904 if any(each.lower() in _YES for each in told) else _SINCE_1900

    def sheets(self) -> list[SheetPart]:
        """Return the sheets that hold cells, in their order."""
        targets = {ident: (kind, path) for ident, kind, path in self._related}
        found = []
        for each in self._within("sheets"):
            name = each.get("name", "")
            ident = next((own for key, own in each.items() if key.endswith("}id")), None)
            if ident is None:  # what some programs leave of a sheet that is gone
                continue
            kind, path = targets.get(ident, ("worksheet", ""))
            if kind != "worksheet":  # a sheet that is a chart, or a dialog
                continue
            held = self._part(path)
            if held is None:
                fact = f"sheet '{name}' is named, and is not among the parts of the file"
                raise SourceError(self._source, fact, "The file is damaged; save it again")
            found.append(SheetPart(name, held, each.get("state", "visible") != "visible"))
        return found

    def shared_texts(self) -> str | None:
        """Return the path of the part with the texts that cells share; None where none do."""
        return self._one("sharedStrings")

    def styles(self) -> Styles:
        """Return how the styles of cells show numbers."""
        from openpyxl.styles.numbers import BUILTIN_FORMATS, is_date_format, is_timedelta_format

        path = self._one("styles")
        root = [] if path is None else self._root(path)
        own = {
            each.get("numFmtId"): each.get("formatCode", "")
            for part in root
            if _is(part, "numFmts")
            for each in part
        }
        dates, lengths, looks = set(), set(), {}
        cells = [each for part in root if _is(part, "cellXfs") for each in part if _is(each, "xf")]
        for number, cell in enumerate(cells):
            ident = cell.get("numFmtId", "0")
            given = int(ident) if ident.isdecimal() else 0
            known = BUILTIN_FORMATS.get(given) or _EASTERN.get(given, "")
            code = own.get(ident, known)
            if code.lower() in _PLAIN:
                continue
            if is_date_format(code):
                dates.add(number)
            if is_timedelta_format(code):
                lengths.add(number)
            # The currency of a format that is not spelt out is its reader's, not its own.
            look = look_of_format(code)
            if look and (look == PERCENT or ident in own):
                looks[number] = look
        return Styles(frozenset(dates), frozenset(lengths), looks)

    def names(self) -> Iterator[Name]:
        """Yield the names that may stand for a block of cells; those of the workbook first."""
        listed = [each.get("name", "") for each in self._within("sheets")]
        named = [
            (each.get("name", ""), (each.text or "").strip(), each.get("localSheetId"))
            for each in self._within("definedNames")
        ]
        for name, means, place in sorted(named, key=lambda each: each[2] is not None):
            if not name or name.startswith(_RESERVED):
                continue
            block = _OF_SHEET.match(means)
            sheet = (block[1] or "").replace("''", "'") or block[2] if block else ""
            within = None
            with suppress(ValueError, IndexError):
                within = None if place is None else listed[int(place)]
            yield Name(name, sheet, block[3].replace("$", "") if block else "", within)

    def tables(self, sheet: str) -> Iterator[tuple[str, str, bool]]:
        """Yield the name and the block of every table of a sheet, by the path of its part.

        With them it tells whether a filter is at work in it. One without names of columns above
        its rows is none here.
        """
        for _, kind, path in self._relations(sheet):
            if kind != "table" or self._part(path) is None:
                continue
            root = self._root(path)
            if root.get("headerRowCount") != "0":
                filtered = any(_is(each, "autoFilter") and len(each) for each in root)
                name = root.get("displayName") or root.get("name")
                yield str(name), str(root.get("ref")), filtered

    def _within(self, name: str) -> list[Element]:
        return [each for part in self._parts if _is(part, name) for each in part]

    def _found_workbook(self) -> str | None:
        """Return the path of the part that lists the sheets; None if there is none."""
        told = [path for _, kind, path in self._relations("") if kind == "officeDocument"]
        for path in (
            *told,
            *(path for path, kind in self._kinds().items() if _MAIN in kind),
            _WORKBOOK,
        ):
            held = self._part(path)
            with suppress(ParseError):  # one of another standard, or of none
                if held is not None and _is(self._root(path), "workbook"):
                    return held
        return None

    def _kinds(self) -> dict[str, str]:
        """Return what each part is said to hold, by its path."""
        if self._part(_TYPES) is None:
            return {}
        parts = self._root(_TYPES)
        return {each.get("PartName", "").lstrip("/"): each.get("ContentType", "") for each in parts}

    def _one(self, kind: str) -> str | None:
        """Return the workbook's part of a kind, by its relations or by what it is said to be."""
        told = [path for _, own, path in self._related if own == kind]
        told += [
            path
            for path, own in self._kinds().items()
            if own.removesuffix("+xml").rpartition(".")[2] == kind
        ]
        return next((held for path in told if (held := self._part(path)) is not None), None)

    def _relations(self, path: str) -> Iterator[tuple[str, str, str]]:
        """Yield what a part is related to: how it calls it, the kind and the path of the part."""
        own = self._part(join(dirname(path), "_rels", f"{basename(path)}.rels"))
        for each in () if own is None else self._root(own):
            target = each.get("Target", "").replace("\\", "/")
            if each.get("TargetMode", "") == "External" or not target:
                continue
            inside = target.lstrip("/") if target.startswith("/") else join(dirname(path), target)
            yield each.get("Id", ""), each.get("Type", "").rpartition("/")[2], normpath(inside)

    def _part(self, path: str) -> str | None:
        """Return the path of a part as the archive has it: capitals make no difference."""
        return self._paths.get(path.lower())

    def _root(self, path: str) -> Any:
        with self.archive.open(self._paths[path.lower()]) as part:
            return parse(part).getroot()


def _is(element: Element, name: str) -> bool:
    return element.tag.rpartition("}")[2] == name
