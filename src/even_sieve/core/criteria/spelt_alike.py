"""Which texts of a column are spelt much like one that it does not hold."""

from bisect import bisect_left
from collections.abc import Iterator, Sequence

from even_sieve.core.cells import fold
from even_sieve.core.cells.unseen import with_signs
from even_sieve.core.errors import closest
from even_sieve.core.table.lanes import TextLane
from even_sieve.core.table.ordered_texts import places_equal_to_each

#: Of so many different texts each is compared; of more those that stand around the one sought.
_MOST_COMPARED, _AROUND = 5_000, 100
#: So many slips of the hand, times four, are tried.
_MOST_TRIED = 400


def spelt_alike(text: str, lane: TextLane) -> str:
    """Return the words on the text of a lane that is closest to this one; none if none is close.

    Among very many texts those are compared that stand around it in their order, and those that
    it is with a letter more, less or other, or two letters the other way round.
    """
    waiting = lane.of_rows
    if waiting is None or waiting.differ <= _MOST_COMPARED:
        every = lane.spellings
        if len(every) <= _MOST_COMPARED:
            near = closest(text, list(every))
            return f"; the closest is '{with_signs(near[0])}'" if near else ""
    near = closest(text, _near_in_order(fold(text), lane))
    return f"; one that is spelt much like it is '{with_signs(near[0])}'" if near else ""


def _near_in_order(folded: str, lane: TextLane) -> list[str]:
    """Return the texts that stand around one in order, and those that are a slip away from it."""
    waiting = lane.of_rows
    stretch = None if waiting is None else waiting.around(folded, _AROUND)
    texts = lane if stretch is None else stretch
    at = bisect_left(texts.folded, folded)
    some = list(texts.spellings[max(at - _AROUND, 0) : at + _AROUND])
    letters = sorted(set(folded).union(*map(fold, some))) if some else []
    letters = letters[: _MOST_TRIED // len(folded)] if folded else []
    meant = [*dict.fromkeys(_slips(folded, letters))]
    spelt = None if waiting is None or stretch is None else waiting.spelt_as(meant)
    if spelt is not None:
        return some + [spelt[each] for each in meant if each in spelt]
    places = places_equal_to_each(lane.folded, meant)
    return some + [lane.spellings[first] for first, last in places if first < last]


def _slips(text: str, letters: Sequence[str]) -> Iterator[str]:
    """Yield the texts that one slip of the hand turns into this one, by these letters.

    >>> [*dict.fromkeys(_slips("as", "e"))]
    ['as', 's', 'sa', 'eas', 'es', 'a', 'aes', 'ae', 'ase']
    """
    yield text
    for place in range(len(text) + 1):
        before, letter, after = text[:place], text[place : place + 1], text[place + 1 :]
        yield before + after
        if after:
            yield before + after[0] + letter + after[1:]
        for other in letters:
            yield before + other + letter + after
            yield before + other + after
