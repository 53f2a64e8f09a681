"""Apostrophes before what would run as a formula, as careful writers put them into CSV."""

import re
from typing import Any

import pyarrow as pa
import pyarrow.compute as pc

from even_sieve.sources.arrow_buffers import Bytes

_FEW = 256
_GUARDED = r"(?s)^'([=+\-@\t\r＝＋－＠].*)$"
#: What would come back as a number without its apostrophe stays as it is written.
_NUMBER = r"^'[+-][\d.,]+(?:[eE][+-]?\d+)?$"


def name_without_apostrophe(name: str) -> str:
    """Return a column's name with such an apostrophe taken off."""
    return re.sub(_GUARDED, r"\1", name)


def without_apostrophes(strings: Any) -> Any:
    """Return an Arrow array of strings with these apostrophes taken off.

    >>> import pyarrow as pa
    >>> without_apostrophes(pa.array(["'=1+2", "'t Veer", "'-5"])).to_pylist()
    ['=1+2', "'t Veer", "'-5"]
    """
    if not _some_start_with_one(strings):
        return strings
    bare = pc.replace_substring_regex(strings, _GUARDED, r"\1")
    return pc.if_else(pc.match_substring_regex(strings, _NUMBER), strings, bare)


def _some_start_with_one(strings: Any) -> bool:
    if len(strings) <= _FEW:  # many such columns: a call of Arrow takes longer than the texts do
        return any(text is not None and text.startswith("'") for text in strings.to_pylist())
    pieces = strings.chunks if isinstance(strings, pa.ChunkedArray) else [strings]
    if not any(Bytes.of(piece).uses(b"'") for piece in pieces):
        return False
    return pc.any(pc.starts_with(strings, "'")).as_py() is True
