"""What a person may name in the place of one file: a folder, a pattern, sheets of a workbook."""

import fnmatch
import glob
import os
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from fnmatch import fnmatchcase
from pathlib import Path

from even_sieve.core.cells import fold
from even_sieve.core.errors import CallError, SourceNotFound
from even_sieve.core.notices import Code, Notice
from even_sieve.sources.readers import DATABASES, READERS, WORKBOOKS
from even_sieve.sources.unpacking import inner_ending

_WILD = re.compile(r"[*?\[]")
_SHEETS = re.compile(
    rf"(.+\.(?:{'|'.join(each[1:] for each in (*WORKBOOKS, *DATABASES))}))!(.+)\Z",
    re.IGNORECASE | re.DOTALL,
)
_ADDRESS = re.compile(r"postgres(?:ql)?://", re.IGNORECASE)
_SCHEME = re.compile(r"[a-z][a-z0-9+.-]+://", re.IGNORECASE)
_SECRET = re.compile(r"//[^/@]*:[^/@]*@|[?&](?:ssl)?password=", re.IGNORECASE)
_SHOWN = 5


@dataclass(frozen=True)
class Place:
    """A file to be read, and which of its sheets, as a pattern of their names."""

    path: str
    sheets: str | None = None

    @property
    def key(self) -> tuple[str, str | None]:
        """What two places have in common that are the same."""
        if is_address(self.path):
            return self.path, self.sheets
        # A name that no file can have is told where it is opened.
        path = self.path if "\0" in self.path else os.path.realpath(self.path)
        return os.path.normcase(path), self.sheets


@dataclass(frozen=True)
class Places:
    """All that a person named, in order, and what is to be told of it."""

    every: tuple[Place, ...]
    notices: tuple[Notice, ...] = ()

    @property
    def is_one(self) -> bool:
        """Whether it is one file, to be read by itself."""
        return len(self.every) == 1 and self.every[0].sheets is None


def places_of(named: Sequence[str]) -> Places:
    """Return the files that names, folders and patterns mean, those of one pattern by name.

    Numbers in names count as numbers: `calls-2` comes before `calls-10`. Raises
    `SourceNotFound` where there is none, `CallError` for a file that is named twice.
    """
    found: list[Place] = []
    notices: list[Notice] = []
    for name in named:
        own, told = _meant(name)
        found += own
        notices += told
    seen: dict[tuple[str, str | None], Place] = {}
    for place in found:
        if place.path != "-" and place.key in seen:
            other = seen[place.key].path
            fact = f"{place.path} is named twice"
            if os.path.normpath(other) != os.path.normpath(place.path):
                fact = f"{place.path} and {other} are the same file"
            raise CallError(f"{fact}: its rows would count twice\nName it once")
        seen[place.key] = place
    return Places(tuple(found), tuple(notices))


def _meant(name: str) -> tuple[list[Place], list[Notice]]:
    if is_address(name):
        refuse_secret(name)
        path, _, table = name.partition("!")
        return [Place(path, table or None)], []
    if _SCHEME.match(name):
        fact = f"{name.partition('://')[0]}:// is no kind of address that is read"
        raise CallError(f"{fact}\nRead are files, and databases at postgresql://USER@HOST/NAME")
    if name == "-" or "\0" in name or os.path.isfile(name):
        return [Place(name)], []
    if os.path.isdir(name):
        return _in_folder(Path(name))
    inside = _SHEETS.match(name)
    if inside is not None:
        files, notices = _meant(inside[1])
        return [replace(each, sheets=inside[2]) for each in files], notices
    if _WILD.search(name):
        return _matching(name)
    return [Place(name)], []  # told where it is opened


def is_address(name: str) -> bool:
    """Tell whether a name is the address of a database.

    >>> is_address("postgresql://harbour@quay/calls"), is_address("calls.csv")
    (True, False)
    """
    return _ADDRESS.match(name) is not None


def refuse_secret(address: str) -> None:
    """Raise `CallError` for an address with a password in it: others can see a command line."""
    if _SECRET.search(address):
        fact = "an address with a password in it is not taken: commands and reports can be seen"
        hint = "Leave it out: it is taken from PGPASSWORD in the environment, or from ~/.pgpass"
        raise CallError(f"{fact}\n{hint}")


def _in_folder(folder: Path) -> tuple[list[Place], list[Notice]]:
    """Return the files of a folder that are read; others are told, folders in it too."""
    try:
        inside = sorted(folder.iterdir(), key=lambda each: in_order(each.name))
    except OSError as error:
        why = error.strerror or type(error).__name__
        raise SourceNotFound(str(folder), f"the folder cannot be opened: {why}") from error
    open_ = [each for each in inside if not is_leaving(each.name)]
    read = [each for each in open_ if each.is_file() and is_read(each.name)]
    names = {each.name for each in read}
    others = [each.name for each in open_ if each.name not in names]
    if not read:
        shown = f"In it are: {', '.join(others[:_SHOWN])}" if others else "It is empty"
        if any(each.is_dir() for each in open_):
            shown += f'\nOf the files in its folders a pattern is given, in quotes: "{folder}/**"'
        raise SourceNotFound(str(folder), "there is no file in this folder that is read", shown)
    return [Place(str(each)) for each in read], _passed_over(str(folder), others)


def _matching(pattern: str) -> tuple[list[Place], list[Notice]]:
    found = sorted(glob.glob(_taken_by_letter(pattern), recursive=True), key=in_order)
    files = [each for each in found if os.path.isfile(each)]
    kept = [each for each in files if not is_leaving(os.path.basename(each))]
    read = [each for each in kept if is_read(each)]
    others = [os.path.basename(each) for each in kept if not is_read(each)]
    if not read:
        folder = Path(pattern).parent
        near = sorted(each.name for each in folder.iterdir()) if folder.is_dir() else []
        near = [each for each in near if is_read(each)]
        hint = f"Beside it are: {', '.join(near[:_SHOWN])}" if near else "Check the folder"
        raise SourceNotFound(pattern, "no file that is read matches this pattern", hint)
    unlike = _unlike_in_case(pattern, found)
    told = [*_passed_over(pattern, others), *_passed_over(pattern, unlike, "unlike it in case")]
    return [Place(each) for each in read], told


def _unlike_in_case(pattern: str, found: Sequence[str]) -> list[str]:
    """Return the names in a pattern's folder that are read, and that case alone keeps from it."""
    folder, name = os.path.split(pattern)
    if not os.path.isdir(folder or "."):
        return []
    fits = re.compile(fnmatch.translate(name), re.IGNORECASE).match
    here = {os.path.basename(each) for each in found}
    others = [each for each in os.listdir(folder or ".") if fits(each) and each not in here]
    return sorted(each for each in others if is_read(each) and not is_leaving(each))


def _taken_by_letter(pattern: str) -> str:
    """Return a pattern in which a folder that is there stands for itself, brackets and all."""
    folder = os.path.dirname(pattern)
    while folder and not os.path.isdir(folder):
        above = os.path.dirname(folder)
        folder = "" if above == folder else above
    return glob.escape(folder) + pattern[len(folder) :]


def _passed_over(
    what: str, others: Sequence[str], why: str = "not read as a table"
) -> list[Notice]:
    if not others:
        return []
    shown = ", ".join(others[:_SHOWN]) + (", …" if len(others) > _SHOWN else "")
    entries = "1 entry" if len(others) == 1 else f"{len(others):,} entries"
    text = f"{what}: {entries} passed over, {why}: {shown}"
    return [Notice(Code.PASSED_OVER, text, {"entries": len(others)})]


def is_read(name: str) -> bool:
    """Tell whether a file of this name is read.

    >>> is_read("calls.CSV"), is_read("calls.csv.gz"), is_read("calls.pdf")
    (True, True, False)
    """
    return inner_ending(name) in (*READERS, *DATABASES[:-1])


def is_leaving(name: str) -> bool:
    """Tell whether a name is that of what programs leave while a file is open."""
    return name.startswith((".", "~")) or name.endswith(("~", ".tmp", ".part"))


def in_order(name: str) -> list[tuple[int, int, str]]:
    """Return what names are sorted by, with numbers in them as numbers.

    >>> sorted(["calls-10.csv", "calls-2.csv"], key=in_order)
    ['calls-2.csv', 'calls-10.csv']
    """
    parts = re.split(r"(\d+)", name.casefold())
    return [(0, int(part), part) if part.isdecimal() else (1, 0, part) for part in parts]


def chosen_sheets(pattern: str, names: Sequence[str]) -> list[str]:
    """Return the sheets whose names match a pattern, case aside; one of that very name alone."""
    exact = [name for name in names if fold(name) == fold(pattern.strip())]
    if exact:
        return exact
    return [name for name in names if fnmatchcase(fold(name), fold(pattern.strip()))]


def told_apart(paths: Iterable[str]) -> list[str]:
    """Return what to call files: their names, with folders where names alone are the same.

    >>> told_apart(["a/calls.csv", "b/calls.csv"]), told_apart(["a/jan.csv", "a/feb.csv"])
    (['a/calls.csv', 'b/calls.csv'], ['jan.csv', 'feb.csv'])
    """
    every = [_whole_path(path) for path in paths]
    names = [os.path.basename(path) for path in every]
    if len({name.casefold() for name in names}) == len(set(every)):
        return names
    common = os.path.commonpath([path for path in {*every} if os.path.isabs(path)])
    return [os.path.relpath(path, common) if os.path.isabs(path) else path for path in every]


def _whole_path(path: str) -> str:
    if is_address(path):
        return path.partition("?")[0]
    return os.path.abspath(path) if path != "-" else "standard input"


def beside(folder: Path, name: str) -> str:
    """Return what a name in a file of this folder means: the address of a database stays one."""
    return name if is_address(name) else str(folder / name)


def is_workbook(path: str) -> bool:
    """Tell whether a file may have several sheets."""
    return inner_ending(path) in WORKBOOKS
