"""Which texts of a column are spelt much like one that it does not hold."""

from bisect import bisect_left
from collections.abc import Iterator

from even_sieve.core.cells import fold
from even_sieve.core.errors import closest
from even_sieve.core.table.lanes import TextLane

#: Of so many different texts each is compared; of more those that stand around the one sought.
_MOST_COMPARED, _AROUND = 5_000, 100
#: Of a longer text slips of the hand are not made again.
_LONGEST = 200


def spelt_alike(text: str, lane: TextLane) -> str:
    """Return the words on the text of a lane that is closest to this one; none if none is close.

    Among very many texts those are compared that stand around it in their order, and those that
    it is with a letter left out or written twice, or two letters the other way round.
    """
    every = lane.spellings
    if len(every) <= _MOST_COMPARED:
        near = closest(text, list(every))
        return f"; the closest is '{near[0]}'" if near else ""
    folded = fold(text)
    at = bisect_left(lane.folded, folded)
    some = list(every[max(at - _AROUND, 0) : at + _AROUND])
    for meant in dict.fromkeys(_slips(folded)):
        place = bisect_left(lane.folded, meant)
        if place < len(every) and lane.folded[place] == meant:
            some.append(every[place])
    near = closest(text, some)
    return f"; one that is spelt much like it is '{near[0]}'" if near else ""


def _slips(text: str) -> Iterator[str]:
    """Yield the texts that one slip of the hand turns into this one.

    >>> list(_slips("pir"))
    ['ir', 'ppir', 'ipr', 'pr', 'piir', 'pri', 'pi', 'pirr']
    """
    for place in range(min(len(text), _LONGEST)):
        before, letter, after = text[:place], text[place], text[place + 1 :]
        yield before + after
        yield before + letter + letter + after
        if after:
            yield before + after[0] + letter + after[1:]
