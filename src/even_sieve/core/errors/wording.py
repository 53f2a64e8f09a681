"""How errors say names, long texts and what is spelt nearly alike."""

from collections.abc import Iterable, Sequence
from difflib import get_close_matches

MOST_SUGGESTIONS = 3
#: How much of a long text an error shows, to either side of its fault.
_AROUND = 150
_LONGEST_LINE = 1_500


def closest(word: str, candidates: Iterable[str]) -> tuple[str, ...]:
    """Return at most three candidates that are spelt nearly like `word`, nearest first.

    >>> closest("amont", ["amount", "zone", "mount"])
    ('amount', 'mount')
    """
    spelt = {candidate.casefold(): candidate for candidate in reversed(list(candidates))}
    found = get_close_matches(word.casefold(), spelt, n=MOST_SUGGESTIONS, cutoff=0.6)
    return tuple(spelt[each] for each in found)


def listed(names: Sequence[str], joint: str = "or") -> str:
    """Return the names quoted and joined: `'a', 'b' or 'c'`."""
    quoted = [f"'{name}'" for name in names]
    return quoted[0] if len(quoted) == 1 else f"{', '.join(quoted[:-1])} {joint} {quoted[-1]}"


def clipped(line: str) -> str:
    """Return a line, of an endless one both ends."""
    return line if len(line) <= _LONGEST_LINE else f"{line[:_LONGEST_LINE]} … {line[-_AROUND:]}"


def around(text: str, position: int) -> str:
    """Return a text, of a long one what stands around a position."""
    if len(text) <= 2 * _AROUND:
        return text
    first, last = max(position - _AROUND, 0), position + _AROUND
    return f"{'…' if first else ''}{text[first:last]}{'…' if last < len(text) else ''}"
