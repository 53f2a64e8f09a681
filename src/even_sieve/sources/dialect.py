"""How the fields of a text file are parted: found or given."""

import csv
import re
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from io import StringIO

DELIMITERS = (",", ";", "\t", "|")
_LOOKED_AT = 64 * 1024
_MOST_LINES = 0.5


@dataclass(frozen=True)
class Dialect:
    """What stands between fields, and what quotes one."""

    delimiter: str = ","
    quote: str = '"'


#: A first line by which some programs say what parts the fields.
SAYS_DELIMITER = re.compile(rb'"?sep=([,;|\t])"?[ ,;]*(?:\r\n?|\n)\s*(?=\S)', re.IGNORECASE)


def widths_of(records: Iterable[Sequence[str]]) -> Counter[int]:
    """Return how many records have how many fields; blank ones are passed over.

    >>> widths_of([["1", "Mole"], [], ["2", "Pier"]])
    Counter({2: 2})
    """
    counts = Counter(map(len, records))
    del counts[0]
    return counts


def find_delimiter(content: bytes, quote: str = '"') -> str:
    """Return the delimiter that parts the first lines into most fields, alike in each line.

    A comma where none does: the file has one column. A first line that says it (`sep=;`) decides.
    """
    said = SAYS_DELIMITER.match(content)
    if said is not None:
        return said[1].decode()
    sample = content[:_LOOKED_AT].decode("utf-8", errors="ignore")
    cut = sample if len(content) <= _LOOKED_AT else sample[: sample.rfind("\n") + 1]
    best, most = ",", 1
    usual = dict.fromkeys(DELIMITERS, 0.0)
    for delimiter in DELIMITERS:
        if delimiter not in cut:
            continue
        lines = csv.reader(StringIO(cut, newline=""), delimiter=delimiter, quotechar=quote)
        counts = widths_of(lines)
        if len(counts) == 1 and (fields := next(iter(counts))) > most:
            best, most = delimiter, fields
        several = {fields: lines for fields, lines in counts.items() if fields > 1}
        usual[delimiter] = max(several.values(), default=0) / max(counts.total(), 1)
    if most > 1:
        return best
    likely = max(usual, key=lambda each: usual[each])
    if usual[likely] > _MOST_LINES:  # titles stand above
        return likely
    header = next((line for line in cut.splitlines() if line.strip()), "")
    return max(DELIMITERS, key=header.count) if any(d in header for d in DELIMITERS) else ","
