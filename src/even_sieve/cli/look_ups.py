"""Columns from other files, as the command line says them: `tariff.csv on class bring rate`."""

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from typing import Any

from even_sieve.core.cells.quoting import match_unquoted, split_unquoted, unquoted
from even_sieve.core.errors import CallError
from even_sieve.core.query import LookUp
from even_sieve.core.table.table import key_of

_WORDS = re.compile(r"(.+?)\s+on\s+(.+?)(?:\s+bring\s+(.+))?\Z", re.IGNORECASE | re.DOTALL)
#: What says how texts are written says it of all files that a call reads.
_OF_TEXTS = ("decimal", "date_order", "blank_as")
_OF_ALL = ("at_most", "memory")
_OF_COLUMNS = ("as_number", "as_date")


def read_look_ups(every: Iterable[str], said: Mapping[str, Any]) -> list[LookUp]:
    """Return the look-ups of columns in other files; `said` is what is said of all files.

    Columns that are said to hold numbers or dates go by their names beside those of the first
    file. Raises `CallError` for other words.
    """
    return [_read(words, said) for words in every]


def named_file(words: str) -> str:
    """Return the file that the words of a look-up name; the words themselves if they name none."""
    found = _parted(words)
    return words if found is None else unquoted(found[0])


def _parted(words: str) -> Sequence[Any] | None:
    return match_unquoted(_WORDS, words.strip())


def said_of_first(
    said: Mapping[str, Any], paths: Sequence[str], every: Iterable[str], look_ups: Iterable[LookUp]
) -> Mapping[str, Any]:
    """Return what is said of the first files, which have these paths, of all that is said.

    That is without the columns that look-ups bring, and without what these files alone read by.
    """
    from even_sieve.sources.databases import is_database
    from even_sieve.sources.files import read_by

    brought = {key_of(new) for each in look_ups for new in _brought(each).values()}
    own = dict(said)
    for what in _OF_COLUMNS:
        own[what] = tuple(name for name in said[what] if key_of(name) not in brought)
    here = [frozenset() if is_database(path) else read_by(path) for path in paths]
    if any(own[what] for what in _OF_COLUMNS) or None in here:  # what is read by may be all
        return own
    there = set().union(*(_read_by(named_file(words)) for words in every))
    if any(own[what] != tuple(said[what]) for what in _OF_COLUMNS):
        there.update(_OF_TEXTS)
    for name in there.intersection(_OF_TEXTS).difference(*filter(None, here)):
        del own[name]
    return own


def _read(words: str, said: Mapping[str, Any]) -> LookUp:
    from even_sieve.public.reading import read_table
    from even_sieve.sources.as_said import as_said
    from even_sieve.sources.source_options import SourceOptions

    found = _parted(words)
    if found is None:
        raise CallError(f"'{words}' is no look-up\nWrite for example: tariff.csv on class")
    file, keys, bring = found
    on = dict(_pair(each, "=") for each in split_unquoted(keys, ","))
    names = dict(_pair(each, " as ") for each in split_unquoted(bring, ",")) if bring else {}
    path = unquoted(file)
    given = {name: said[name] for name in _OF_ALL if said[name]}
    of_texts = {name: said[name] for name in _OF_TEXTS if said[name]}
    spelt = {name: value for name, value in of_texts.items() if name in _read_by(path)}
    look_up = LookUp.of(read_table(path, **given, **spelt).core, on, names)
    of_columns: Any = {what: [*_named(look_up, said[what])] for what in _OF_COLUMNS}
    if not any(of_columns.values()):
        return look_up
    of_texts.pop("blank_as", None)
    options = SourceOptions.of(**of_texts, **of_columns)
    return replace(look_up, table=as_said(look_up.table, options))


def _named(look_up: LookUp, names: Iterable[str]) -> Iterator[str]:
    """Yield what the columns of these names are called in the other file."""
    wanted = set(map(key_of, names))
    return (old for old, new in _brought(look_up).items() if key_of(new) in wanted)


def _brought(look_up: LookUp) -> Mapping[str, str]:
    """Return the columns that are brought, and the names they get."""
    keys = set(map(key_of, look_up.on.values()))
    return look_up.bring or {name: name for name in look_up.table.names if key_of(name) not in keys}


def _read_by(named: str) -> frozenset[str]:
    """Return the options by which all files of a name, or a pattern, are read."""
    from even_sieve.sources.files import read_by
    from even_sieve.sources.places import places_of

    found = [read_by(each.path) or frozenset() for each in places_of([named]).every]
    return frozenset.intersection(*found)


def _pair(text: str, joint: str) -> tuple[str, str]:
    first, *rest = map(unquoted, split_unquoted(text, joint))
    return first, rest[0] if rest else first
