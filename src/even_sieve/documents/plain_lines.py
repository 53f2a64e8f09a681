"""The lines of a breakdown as plain objects: those that differ in numbers alone from columns."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, fields
from functools import cache
from typing import Any

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.progress import steps
from even_sieve.core.table.arrays import spans
from even_sieve.core.tally import Account, Line
from even_sieve.core.tally.keyed_lines import LazyLines
from even_sieve.documents.figures import plain_tally
from even_sieve.documents.values import plain_json, plain_row

_BUCKETS = [each.name for each in fields(Account)]
_STRETCH = 1 << 12


def plain_lines(lines: Sequence[Line], measures: int) -> Iterator[dict[str, object]]:
    """Yield each line of so many measures as a plain object."""
    if not isinstance(lines, LazyLines):
        yield from map(plain_line, lines)
        return
    stretches, alike = list(spans(len(lines), _STRETCH)), [_Alike() for _ in range(measures)]
    for rows in steps(stretches, "working out the lines"):
        line = cache(lines.anew)
        columns = [_plain_tallies(lines, i, rows, line, alike[i]) for i in range(measures)]
        keys = [map(plain_json, column) for column in lines.keys_at(rows)]
        for key, tallies in zip(zip(*keys, strict=True), zip(*columns, strict=True), strict=True):
            yield {"key": list(key), "measures": list(tallies)}


def plain_line(line: Line) -> dict[str, object]:
    """Return a line as a plain object."""
    key = [plain_json(value) for value in line.key]
    return {"key": key, "measures": list(map(plain_tally, line.tallies))}


@dataclass
class _Alike:
    """What the tallies of a measure have in common, once one of them was made."""

    tally: dict[str, Any] | None = None


def _plain_tallies(
    lines: LazyLines, position: int, rows: slice, line: Any, alike: _Alike
) -> list[dict[str, Any]]:
    """Return the tallies of one measure on a stretch of lines; `line` makes one of them."""

    def whole(place: int) -> dict[str, Any]:
        return plain_tally(line(place).tallies[position])

    places, told = range(rows.start, rows.stop), lines.told_at(position, rows)
    if told is None:
        return list(map(whole, places))
    found: list[dict[str, Any]] = []
    values, accounts = lines.values_at(position, rows), told.accounts.tolist()
    for place, value, counts, at in zip(places, values, accounts, told.found_at, strict=True):
        if at is None or _needs_words(value):
            found.append(whole(place))
            continue
        like = alike.tally = alike.tally or whole(place)
        account = dict(zip(_BUCKETS, counts, strict=True))
        own = {"value": plain_json(value), "account": account, "found_at": [*map(plain_row, at)]}
        found.append({**like, **own, "notices": list(like["notices"])})
    return found


def _needs_words(value: Cell) -> bool:
    """Tell whether a reason or a notice may stand beside a value: none, an error, or 0."""
    return value is None or isinstance(value, CellError) or value == 0
