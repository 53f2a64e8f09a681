"""Texts of a column that look like others of it, and are values of their own."""

from collections.abc import Callable, Iterator, Sequence

import numpy as np

from even_sieve.core.cells import fold
from even_sieve.core.cells.unseen import all_with_unseen, as_seen, with_signs
from even_sieve.core.notices import Code, Notice, counted
from even_sieve.core.table.lanes import Array, TextLane

#: So many texts with signs that nobody sees are compared, and so many pairs shown.
_MOST_COMPARED, _MOST_SHOWN = 2_000, 3


def look_alikes_in(lane: TextLane, used: Callable[[], Array]) -> Iterator[tuple[str, str]]:
    """Yield texts that hold signs that nobody sees, each with another that looks the same.

    `used` gives the codes of the texts that cells hold, once there is something to be told.
    """
    waiting = lane.of_rows
    if waiting is not None and not all_with_unseen(waiting.spellings):
        return
    texts, held = lane.spellings, None
    met: dict[str, int] = {}
    for place in all_with_unseen(texts)[:_MOST_COMPARED]:
        if held is None:
            held = np.zeros(len(texts), dtype=bool)
            held[used()] = True
        if not held[place]:
            continue
        seen = fold(as_seen(texts[place]))
        twins = (*range(*lane.range_of(seen)), *([met[seen]] if seen in met else ()))
        other = next((each for each in twins if held[each]), None)
        if other is None:
            met[seen] = place
        elif fold(texts[other]) != fold(texts[place]):
            yield texts[place], texts[other]


def told_look_alikes(name: str, pairs: Sequence[tuple[str, str]]) -> tuple[Notice, ...]:
    """Return the notice on such texts of a column, if there are any.

    >>> told_look_alikes("berth", [("East\u200b", "East")])[0].text
    "column 'berth': 1 value looks like another and is not equal to it: 'East[U+200B]' and 'East'"
    """
    if not pairs:
        return ()
    shown = [f"'{with_signs(odd)}' and '{with_signs(other)}'" for odd, other in pairs]
    more = ", …" if len(pairs) > _MOST_SHOWN else ""
    one = len(pairs) == 1
    looks = "looks like another and is" if one else "look like others and are"
    text = (
        f"column '{name}': {counted(len(pairs), 'value')} {looks} not equal to "
        f"{'it' if one else 'them'}: {', '.join(shown[:_MOST_SHOWN])}{more}"
    )
    return (Notice(Code.LOOK_ALIKES, text, {"values": len(pairs)}),)
