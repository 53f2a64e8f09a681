"""What a source may hold at the most."""

import re
from collections.abc import Iterable
from dataclasses import dataclass, fields, replace

from even_sieve.core.errors import CallError

_LIMIT = re.compile(r"\s*(\w+)\s*=\s*(\d{1,15})\s*(KiB|MiB|GiB)?\s*", re.ASCII)
_UNITS = {"": 0, "KiB": 10, "MiB": 20, "GiB": 30}


@dataclass(frozen=True)
class Limits:
    """What a source may hold at the most; beyond it is refused instead of filling memory.

    `unpacked` bytes of a file (of a packed one: once it is unpacked), `ratio` of these to the
    packed ones, `cells` of a sheet, `columns` of a table, `cell` characters of one cell.
    """

    unpacked: int = 2 << 30
    ratio: int = 200
    cells: int = 50_000_000
    columns: int = 16_384
    cell: int = 1 << 20

    def with_words(self, words: Iterable[str]) -> "Limits":
        """Return the limits with those that are said otherwise. Raises `CallError`.

        >>> Limits().with_words(["unpacked=4GiB", "ratio = 2000"]).ratio
        2000
        """
        said: dict[str, int] = {}
        for each in words:
            found = _LIMIT.fullmatch(each)
            names = [limit.name for limit in fields(self)]
            if found is None or found[1] not in names:
                usual = ", ".join(f"{limit.name}={limit.default}" for limit in fields(self))
                raise CallError(f"'{each}' is no limit\nAs they are: {usual}")
            said[found[1]] = int(found[2]) << _UNITS[found[3] or ""]
        return replace(self, **said)
