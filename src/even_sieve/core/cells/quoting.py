"""Quotes and brackets, as all small grammars have them: what stands inside is taken to the letter.

`""` inside of quotes is one quote; quotes that do not close are letters like any others.
"""

import re
from collections.abc import Callable, Sequence

_QUOTED = re.compile(r'"(?:[^"]|"")*"')
#: How deep brackets, `not` and signs may be nested in any small grammar.
DEEPEST = 50
_HIDDEN = "\ue000"
_OTHER_QUOTES = {"'": "'", "‘": "’", "“": "”", "„": "“", "«": "»"}


def hide_quoted(text: str) -> str:
    """Return the text with what is quoted hidden, at the same length: keywords are sought in it.

    >>> len(hide_quoted('sum of "x where y"')), "where" in hide_quoted('sum of "x where y"')
    (18, False)
    """
    return _QUOTED.sub(lambda found: _HIDDEN * len(found[0]), text)


def unquoted(text: str) -> str:
    """Return what stands in the quotes around the whole text, or the text without outer space.

    >>> unquoted(' "x=y" '), unquoted('a "big" one'), unquoted('"5"" pipe"')
    ('x=y', 'a "big" one', '5" pipe')
    """
    text = text.strip()
    return text[1:-1].replace('""', '"') if is_quoted(text) else text


def is_quoted(text: str) -> bool:
    """Tell whether quotes stand around the whole text."""
    return _QUOTED.fullmatch(text.strip()) is not None


def in_double_quotes(text: str) -> str:
    """Return a text that stands in quotes of another kind as a whole in the usual ones.

    >>> in_double_quotes("'late'"), in_double_quotes("“{class}”"), in_double_quotes("'a' or 'b'")
    ('"late"', '"{class}"', "'a' or 'b'")
    """
    bare = text.strip()
    last = _OTHER_QUOTES.get(bare[:1])
    whole = last is not None and len(bare) > 1 and bare.endswith(last)
    if not whole or {bare[0], last} & {*bare[1:-1]}:
        return text
    return quoted(bare[1:-1])


def quoted(text: str) -> str:
    """Return the text in quotes, those inside doubled."""
    return '"' + text.replace('"', '""') + '"'


_PLAIN = re.compile(r"[^\W\d]\w*(?: [^\W\d]\w*)*")
_WORDS = re.compile(r"\b(?:and|or|not|in|is|of|by|as|to|where|keep|regardless|between)\b", re.I)


def for_example(columns: Sequence[str], *otherwise: str) -> list[str]:
    """Return names of columns for an example, in quotes where they need them; else others.

    >>> for_example(["paid in", "fee"], "dues"), for_example([], "dues")
    (['"paid in"'], ['dues'])
    """
    names = [
        name if _PLAIN.fullmatch(name) and not _WORDS.search(name) else quoted(name)
        for name in columns[: len(otherwise)]
    ]
    return [*names, *otherwise[len(names) :]] if names else list(otherwise)


def split_unquoted(text: str, separator: str) -> list[str]:
    """Return the pieces between separators that stand outside of quotes.

    >>> split_unquoted('zone, "x, y", dues', ",")
    ['zone', ' "x, y"', ' dues']
    """
    pieces, start = [], 0
    for found in re.finditer(re.escape(separator), hide_quoted(text)):
        pieces.append(text[start : found.start()])
        start = found.end()
    return [*pieces, text[start:]]


def match_unquoted(
    pattern: re.Pattern[str], text: str, how: Callable[..., re.Match[str] | None] | None = None
) -> list[str] | None:
    """Return the groups of a pattern whose words stand outside of quotes; None for no match.

    The pattern is matched at the start, or as `how` (such as `pattern.search`) does.
    """
    found = (how or pattern.match)(hide_quoted(text))
    if found is None:
        return None
    spans = [found.span(number) for number in range(1, (pattern.groups or 0) + 1)]
    return [text[start:end] if start >= 0 else "" for start, end in spans]


def split_direction(text: str, names: Sequence[str] = ()) -> tuple[str, str]:
    """Return a name to sort by, and `asc` or `desc` if it stands after it, else nothing.

    A text that is one of the `names` as it stands is that name.

    >>> split_direction("dues desc"), split_direction('"dues desc" asc'), split_direction("dues")
    (('dues', 'desc'), ('dues desc', 'asc'), ('dues', ''))
    """
    if text in names:
        return text, ""
    name, _, last = text.strip().rpartition(" ")
    if name and last.lower() in ("asc", "desc"):
        return unquoted(name), last.lower()
    return unquoted(text), ""
