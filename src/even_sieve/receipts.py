"""Receipts: an answer that says what was asked, of what, and can be worked out again.

A receipt stands in the JSON of an answer. It holds the call, the date it was asked as of, the
files with their digests, how many rows they had and which were marked, and a seal over all of
it: what was changed by hand afterwards is told.
"""

import hashlib
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from functools import partial
from pathlib import Path
from typing import Any

import simplejson

from even_sieve.core.errors import CallError, SourceError, SourceNotFound
from even_sieve.core.tally import Tally
from even_sieve.documents.json_text import compact
from even_sieve.documents.since import Moved, RowsSince, Since
from even_sieve.documents.values import show_value

KEY = "receipt"
#: What is like the end of a number with a power of ten, as a double is written, and all of one.
_LIKE_POWER, _LONGEST = re.compile(r"e(?<=[0-9]e)[-+]?[0-9]"), 30
_POWER = re.compile(r"[\[: ,]-?\d+(?:\.\d+)?e[-+]?\d")
#: The form of receipts as they are made. Those of form 1 are sealed over a text with spaces.
_FORM, _SPACED = 2, 1
_KNOWN = ("tally", "run")
#: What says where an entry of a list stands, the first of these that it has.
_NAMES = ("name", "key", "label", "title", "step", "condition")


def digest_of(path: Path) -> tuple[int, str]:
    """Return the size of a file and the SHA-256 digest of its bytes."""
    with path.open("rb") as file:
        found = hashlib.file_digest(file, "sha256").hexdigest()
    return path.stat().st_size, found


def read_files(names: Iterable[str]) -> dict[str, dict[str, object]]:
    """Return what was read, by name: digests of files; of what is no file that it is none."""
    return {
        name: dict(zip(("bytes", "sha256"), digest_of(Path(name)), strict=True))
        if Path(name).is_file()
        else {"no file": True}
        for name in names
    }


def with_receipt(plain: Mapping[str, Any], receipt: Mapping[str, Any]) -> dict[str, Any]:
    """Return the plain object of an answer with its receipt, sealed."""
    whole = {"form": _FORM, **receipt}
    return {**plain, KEY: {**whole, "seal": _seal(plain, whole)}}


def _seal(plain: Mapping[str, Any], receipt: Mapping[str, Any]) -> str:
    write = _spaced if receipt["form"] == _SPACED else partial(compact, in_order=True)
    text = write([plain, receipt])
    # Powers alone are spelt another way once they were read back; most texts have none.
    if _has_powers(text):
        text = write(simplejson.loads(text, use_decimal=True))
    return hashlib.sha256(text.encode(errors="surrogatepass")).hexdigest()


def _has_powers(text: str) -> bool:
    """Tell whether there may be numbers with powers of ten in a text of JSON."""
    return any(
        _POWER.search(text, max(found.start() - _LONGEST, 0), found.end())
        for found in _LIKE_POWER.finditer(text)
    )


def _spaced(plain: object) -> str:
    """Return a plain object as the text that receipts of form 1 are sealed over."""
    return str(simplejson.dumps(plain, sort_keys=True, ensure_ascii=True, allow_nan=False))


def read_receipt(path: str | Path) -> dict[str, Any]:
    """Return the answer of a file with its receipt.

    Raises `SourceNotFound`, `SourceError` for a file without a receipt, of another form, or
    that was changed after it was made.
    """
    name = str(path)
    try:
        found = simplejson.loads(Path(path).read_text(encoding="utf-8"), use_decimal=True)
    except FileNotFoundError:
        raise SourceNotFound(name, "there is no such file") from None
    except (OSError, ValueError) as error:
        raise SourceError(name, f"this is no receipt: {error}") from None
    receipt = found.get(KEY) if isinstance(found, dict) else None
    if not isinstance(receipt, dict):
        raise SourceError(name, "there is no receipt in it", "Made by: --format json")
    if receipt.get("form") not in (_SPACED, _FORM) or receipt.get("command") not in _KNOWN:
        fact = f"a receipt of another form, {receipt.get('form')!r}"
        raise SourceError(name, fact, f"It was made by {receipt.get('made by')}")
    seal = receipt.pop("seal", None)
    plain = {key: value for key, value in found.items() if key != KEY}
    if seal != _seal(plain, receipt):
        hint = "Work it out anew from its call"
        raise SourceError(name, "it was changed after it was made: the seal does not fit", hint)
    whole: dict[str, Any] = found
    return whole


def words_of(receipt: Mapping[str, Any]) -> list[str]:
    """Return the words of the call. Raises `CallError` for one that cannot be made again."""
    words = [str(each) for each in receipt["words"]]
    if "-" in receipt["read"]:
        raise CallError("the table came from standard input, and is gone")
    return words


@dataclass(frozen=True)
class Verified:
    """A receipt that was worked out again.

    `figures` is how many figures it has, `differ` what is said of each that is another one,
    `changed` what is different of what they were made from.
    """

    figures: int
    differ: tuple[str, ...]
    changed: tuple[str, ...]

    @property
    def holds(self) -> bool:
        """Whether all figures, accounts and rows are the same."""
        return not self.differ


def compare(before: Mapping[str, Any], now: Mapping[str, Any]) -> Verified:
    """Return how an answer differs from an earlier one, and what it was made from."""
    old, new = (dict(_leaves(_answer(each))) for each in (before, now))
    places = [
        place
        for place in dict.fromkeys((*old, *new))
        if old.get(place, _NOTHING) != new.get(place, _NOTHING)
        and (_is_figure(place) or (place in old and place in new))  # else its figure is told
    ]
    places.sort(key=_is_figure, reverse=True)
    differ = [
        f"{place.removesuffix(_VALUE)}: was {_shown(old, place)}, is {_shown(new, place)}"
        for place in places
    ]
    if not differ and old != new:
        differ = ["what stands beside the figures: other entries than before"]
    figures = sum(map(_is_figure, old))
    return Verified(figures, tuple(differ), tuple(_changed(before[KEY], now[KEY])))


def since(
    before: Mapping[str, Any], now: Mapping[str, Any], name: str, figures: Iterable[Tally] = ()
) -> Since:
    """Return what moved since the answer of a file of this name; `figures` are those of now."""
    known = {each.name: each for each in figures}
    old, new = (dict(_leaves(_answer(each))) for each in (before, now))
    first, second = ([p for p in each if _is_figure(p) and _PARTS not in p] for each in (old, new))
    both = [place for place in second if place in old]
    moved = tuple(
        Moved(place.removesuffix(_VALUE), _cell(old[place]), _cell(new[place]), _like(place, known))
        for place in both
        if old[place] != new[place]
    )
    added = tuple(place.removesuffix(_VALUE) for place in second if place not in old)
    gone = tuple(place.removesuffix(_VALUE) for place in first if place not in new)
    rows = rows_since(before[KEY].get("followed"), now[KEY].get("followed"))
    changed = (*_changed(before[KEY], now[KEY]), *(() if rows is None else rows.told))
    return Since(name, moved, len(both) - len(moved), changed, added, gone, rows)


def rows_since(old: Mapping[str, Any] | None, new: Mapping[str, Any] | None) -> RowsSince | None:
    """Return which rows are new and gone by their keys, and whose values are others.

    None where neither answer follows rows.
    """
    if new is None or old is None:
        told = "rows are followed now, and were not" if new else "rows were followed, and are not"
        return None if new is old else RowsSince((), (), (), (told,))
    if old["key"] != new["key"]:
        keys = [", ".join(each["key"]) for each in (old, new)]
        return RowsSince((), (), (), (f"rows were followed by {keys[0]}, and are by {keys[1]}",))
    beyond = next((each["beyond"] for each in (old, new) if each["rows"] is None), None)
    if beyond is not None:
        return RowsSince((), (), (), (f"{beyond:,} rows are too many to be followed one by one",))
    first, second = old["rows"], new["rows"]
    columns = [name for name in new["columns"] if name in old["columns"]]
    places = [(old["columns"].index(name), new["columns"].index(name)) for name in columns]
    values = tuple(
        Moved(f"{name} of {key}", _cell(first[key][was]), _cell(second[key][now]))
        for key in second if key in first
        for name, (was, now) in zip(columns, places, strict=True)
        if first[key][was] != second[key][now]
    )  # fmt: skip
    return RowsSince(
        tuple(key for key in second if key not in first),
        tuple(key for key in first if key not in second),
        values,
        without=new["without key"],
    )


def _like(place: str, known: Mapping[str, Tally]) -> Tally | None:
    """Return the figure that a place ends with the name of; the longest name where several do."""
    place = place.removesuffix(_VALUE)
    parts = place.split(", ")
    ends = (", ".join(parts[start:]) for start in range(len(parts)))
    return next((known[end] for end in ends if end in known), None)


def _cell(value: Any) -> Any:
    """Return a value of JSON as a cell: doubles as they were."""
    return float(value) if isinstance(value, Decimal) else value


_NOTHING = object()
_VALUE = ", value"
#: Figures that others were worked out from.
_PARTS = ", parts, "
#: Keys that say nothing that the names below them do not.
_SILENT = frozenset(("lines", "measures", "blocks", "steps"))


def _is_figure(place: str) -> bool:
    return place.endswith(_VALUE)


def _answer(whole: Mapping[str, Any]) -> dict[str, Any]:
    return {key: value for key, value in whole.items() if key not in (KEY, "since")}


def _leaves(value: Any, place: str = "") -> Iterator[tuple[str, Any]]:
    """Yield what stands in an answer, by a place that a person can read."""
    if isinstance(value, dict):
        for key, inner in value.items():
            if key not in _NAMES or not isinstance(inner, str):
                said = place if key in _SILENT else f"{place}, {key}" if place else key
                yield from _leaves(inner, said)
        return
    if not isinstance(value, list):
        yield place, value
        return
    seen: dict[str, int] = {}
    for number, inner in enumerate(value, 1):
        name = _named(inner) or str(number)
        seen[name] = seen.get(name, 0) + 1
        own = name if seen[name] == 1 else f"{name} ({seen[name]})"
        yield from _leaves(inner, f"{place}, {own}" if place else own)


def _named(value: Any) -> str:
    if not isinstance(value, dict):
        return ""
    for key in _NAMES:
        found = value.get(key)
        if isinstance(found, str) and found:
            return found
        if isinstance(found, list) and found:
            return " / ".join("(blank)" if each is None else str(each) for each in found)
    return ""


def _shown(leaves: Mapping[str, Any], place: str) -> str:
    found = leaves.get(place, _NOTHING)
    if found is _NOTHING:
        return "not there"
    return "no value" if found is None else show_value(found)


def _changed(before: Mapping[str, Any], now: Mapping[str, Any]) -> Iterator[str]:
    old, new = before["read"], now["read"]
    for name in dict.fromkeys((*old, *new)):
        if name not in new or name not in old:
            yield f"{name} is {'not ' if name not in new else ''}read now"
        elif old[name].get("sha256") != new[name].get("sha256"):
            sizes = [each[name].get("bytes") for each in (old, new)]
            yield f"{name} is another file: it had {sizes[0]:,} bytes, and has {sizes[1]:,}"
        elif "no file" in old[name]:
            yield f"{name} is no file: what it held cannot be compared"
    for key in ("rows", "marks", "criteria", "parameters", "made by"):
        if before.get(key) != now.get(key):
            yield f"{key}: was {_plain(before.get(key))}, is {_plain(now.get(key))}"


def _plain(value: Any) -> str:
    if isinstance(value, dict):
        return ", ".join(f"{key} {inner}" for key, inner in value.items()) or "none"
    return "none" if value in (None, "") else str(value)


def settings_words(settings: Mapping[str, Any]) -> Sequence[str]:
    """Return parameters as the words that set them."""
    words: list[str] = []
    for name, value in settings.items():
        for each in value if isinstance(value, list | tuple) else [value]:
            words += ["--set", f"{name}={each}"]
    return words
