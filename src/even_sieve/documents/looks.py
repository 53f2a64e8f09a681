"""Looks: what a person says of how figures are shown, in words, and what holds at the moment."""

import re
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field, replace
from datetime import datetime
from functools import lru_cache
from typing import Any

from even_sieve.core.cells import fold
from even_sieve.core.errors import CallError, closest, listed
from even_sieve.core.understood import refused, text_of


@dataclass(frozen=True)
class Look:
    """How one figure, or one column, is shown.

    `kind` is number, percent, currency or date; None for what it is by itself. `decimals` are
    exactly so many. `code` is the currency (ISO 4217) or the pattern of dates (CLDR), `unit`
    stands behind a number. `grouped` tells whether digits stand in groups of three, or as the
    locale has it.
    """

    kind: str | None = None
    decimals: int | None = None
    code: str = ""
    unit: str = ""
    grouped: bool = True


@dataclass(frozen=True)
class Presentation:
    """How everything is shown: looks by the names of figures and columns, and a locale."""

    looks: Mapping[str, Look] = field(default_factory=dict)
    locale: str | None = None
    _used: set[str] = field(default_factory=set, repr=False, compare=False)

    @classmethod
    def of(cls, said: Mapping[str, str], locale: str | None = None) -> "Presentation":
        """Return the presentation of words. Raises `CallError` for words that say nothing.

        >>> Presentation.of({"share of dues": "percent 2"}).looks["share of dues"].decimals
        2
        """
        if not isinstance(said, Mapping):
            raise refused("looks", "a mapping of names to words", said)
        if locale is not None:
            locale_of(text_of("locale", locale, "a name such as de_DE"))
        return cls({fold(name.strip()): look_of(words) for name, words in said.items()}, locale)

    def look(self, *names: str | None) -> Look:
        """Return the look of the first of the names that has one, else that of all figures."""
        for name in (*names, "all"):
            found = self.looks.get(fold(name)) if name is not None else None
            if found is not None and name is not None:
                self._used.add(fold(name))
                return found
        return PLAIN

    def is_said(self, *names: str | None) -> bool:
        """Tell whether a look was said for one of the names, and not for all figures alone."""
        return any(name is not None and fold(name) in self.looks for name in names)

    def unused(self) -> list[str]:
        """Return the names that a look was said for and that nothing had that was shown."""
        return [name for name in self.looks if name not in self._used and name != "all"]


PLAIN = Look()
_CURRENT: ContextVar[Presentation | None] = ContextVar("presentation", default=None)
#: More decimals than these a double does not have.
_MOST_DECIMALS = 15
_WORDS = re.compile(r"\"([^\"]*)\"|(\S+)")
NAMED_DATES = frozenset(("short", "medium", "long", "full"))


def is_plain() -> bool:
    """Tell whether nobody said how anything is shown."""
    return _CURRENT.get() is None


def current() -> Presentation:
    """Return the presentation that holds at the moment."""
    return _CURRENT.get() or Presentation()


@contextmanager
def shown_as(
    looks: Mapping[str, str] | Presentation | None = None, *, locale: str | None = None
) -> Iterator[None]:
    """Show figures in other ways meanwhile: on a terminal, in notebooks, pages and Markdown.

    `looks` are words by the names of figures or columns, or `all`: `percent`, `percent 2`,
    `EUR`, `EUR 0`, `2 decimals`, `0 decimals`, `ungrouped`, `unit "t"`, `date long`,
    `date "d MMM y"`. `locale` is a name such as `de_DE`. Figures themselves stay as they are,
    and so do JSON, CSV and what is read by programs.

    Raises `CallError` for a locale, a currency or words that do not exist.

    >>> from even_sieve import table_from
    >>> found = table_from({"dues": [1250.5, 20]}).tally("sum of dues")
    >>> with shown_as({"dues": "EUR"}, locale="de_DE"):
    ...     "1.270,50 €" in str(found).replace("\\xa0", " ")
    True
    """
    said = looks if isinstance(looks, Presentation) else Presentation.of(looks or {}, locale)
    before = _CURRENT.set(said)
    try:
        yield
    finally:
        _CURRENT.reset(before)


def look_of(words: str) -> Look:
    """Return the look that words say. Raises `CallError` for others.

    >>> look_of("EUR 0"), look_of('unit "t" ungrouped').unit
    (Look(kind='currency', decimals=0, code='EUR', unit='', grouped=True), 't')
    """
    text_of("a look", words, "words such as 'EUR' or 'percent 1'")
    look, left = Look(), [quoted or bare for quoted, bare in _WORDS.findall(words)]
    if not left:
        raise CallError("no way to show a figure is written\n" + _HINT)
    while left:
        word = left.pop(0)
        lower = word.lower()
        if lower == "percent":
            look = replace(look, kind="percent")
        elif lower == "ungrouped":
            look = replace(look, grouped=False)
        elif lower in ("decimals", "decimal") and look.decimals is not None:
            continue
        elif word.isdecimal() and word.isascii() and len(word) <= 2 and int(word) <= _MOST_DECIMALS:
            look = replace(look, decimals=int(word))
        elif lower == "unit" and left:
            look = replace(look, kind=look.kind or "number", unit=left.pop(0))
        elif lower == "date" and left:
            look = replace(look, kind="date", code=left.pop(0))
            _pattern(look.code)
        elif len(word) == 3 and word.isalpha():
            look = replace(look, kind="currency", code=_currency(word.upper()))
        else:
            whole = "" if word == words.strip() else f"'{words}': "
            raise CallError(f"{whole}'{word}' says no way to show a figure\n{_HINT}")
    return look


_HINT = 'Write for example: percent 1, EUR 2, 2 decimals, unit "t", ungrouped, date long'


def _currency(code: str) -> str:
    from babel import Locale

    known = Locale("en").currencies
    if code not in known:
        near = closest(code, known)
        hint = f"Did you mean {listed(near)}?" if near else _HINT
        raise CallError(f"there is no currency '{code}'\n{hint}")
    return code


@lru_cache(maxsize=64)
def locale_of(name: str) -> Any:
    """Return the locale of a name. Raises `CallError` if there is none."""
    from babel import Locale, UnknownLocaleError

    try:
        return Locale.parse(name.replace("-", "_"))
    except (UnknownLocaleError, ValueError, TypeError):
        raise CallError(f"there is no locale '{name}'\nWrite for example: de_DE") from None


def _pattern(words: str) -> None:
    from babel.dates import parse_pattern

    if words in NAMED_DATES:
        return
    moments = datetime(2031, 1, 1), datetime(2032, 2, 3, 4, 5, 6)
    try:
        made = {str(parse_pattern(words).apply(each, locale_of("en"))) for each in moments}
    except Exception:
        made = set()
    if len(made) < len(moments):
        raise CallError(f"'{words}' is no pattern of dates\nWrite for example: d MMM y")


def currency_place(code: str, locale: str | None) -> str:
    """Return where a locale puts the sign of a currency: `{} €`.

    >>> currency_place("EUR", "de_DE").replace("\xa0", " "), currency_place("EUR", None)
    ('{} €', '€{}')
    """
    from babel.numbers import get_currency_symbol

    known = locale_of(locale or "en")
    pattern = str(known.currency_formats["standard"].pattern).split(";")[0]
    placed = re.sub(r"[#0][#0,.]*", "{}", pattern)
    return _DIRECTION.sub("", placed.replace("¤", get_currency_symbol(code, known)))


_DIRECTION = re.compile("[\u200e\u200f\u061c]")


def date_pattern(code: str, locale: str | None) -> str:
    """Return the pattern of dates (CLDR) that a name such as `long` stands for in a locale.

    >>> date_pattern("medium", "en"), date_pattern("d MMM y", None)
    ('MMM d, y', 'd MMM y')
    """
    if code not in NAMED_DATES:
        return code
    return str(locale_of(locale or "en").date_formats[code].pattern)


def fields_of(pattern: str) -> list[tuple[str, int, str]]:
    """Return a pattern of dates (CLDR) as letters with how often each stands, and literals.

    >>> fields_of("d 'of' MMM")
    [('d', 1, ''), ('', 0, ' '), ('', 0, 'of'), ('', 0, ' '), ('M', 3, '')]
    """
    found = []
    for each in _FIELD.finditer(pattern):
        if each[2] is not None:
            found.append((each[2], len(each[0]), ""))
        else:
            found.append(("", 0, each[0] if each[1] is None else each[1]))
    return found


_FIELD = re.compile(r"'([^']*)'|([A-Za-z])\2*|.", re.DOTALL)
