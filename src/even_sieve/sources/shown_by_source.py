"""How a source shows the numbers of a column: all of them as percent, or with one currency sign."""

import re
import unicodedata
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

import pyarrow.compute as pc

from even_sieve.core.cells import Kind
from even_sieve.core.table import Table
from even_sieve.sources.currencies import currency_signs

PERCENT = "percent"
_PERCENT = r"%\s*\)?\s*$"


def shown_in_text(tokens: Any) -> str:
    """Return how numbers in texts (an Arrow array) are all shown; nothing where they differ.

    >>> import pyarrow as pa
    >>> shown_in_text(pa.array(["5%", "7.5 %"])), shown_in_text(pa.array(["€ 5", "7 €"]))
    ('percent', '€')
    >>> shown_in_text(pa.array(["5%", "7"])), shown_in_text(pa.array(["$5", "7 €"]))
    ('', '')
    """
    if not len(tokens):
        return ""
    first = tokens[0].as_py()
    if "%" in first:
        return PERCENT if pc.all(pc.match_substring_regex(tokens, _PERCENT)).as_py() else ""
    if first.isascii() and "$" not in first:
        return ""
    signs = currency_signs(tokens)
    same = len(signs) == 1 and signs[0] and pc.all(pc.match_substring(tokens, signs[0])).as_py()
    return signs[0] if same else ""


def shown_in_texts(tokens: Sequence[str]) -> str:
    """Return the same of different texts, one by one.

    >>> shown_in_texts(["5%", "7.5 %"]), shown_in_texts(["€ 5", "7 €"]), shown_in_texts(["5%", "7"])
    ('percent', '€', '')
    """
    first = tokens[0] if tokens else ""
    if "%" in first:
        return PERCENT if all(map(re.compile(_PERCENT).search, tokens)) else ""
    sign = next((each for each in first if unicodedata.category(each) == "Sc"), "")
    if not sign:
        return ""
    signs = {each for token in tokens for each in token if unicodedata.category(each) == "Sc"}
    return sign if signs == {sign} and all(sign in token for token in tokens) else ""


def with_percents(table: Table, percents: Mapping[int, int], first: int) -> Table:
    """Return the table with the columns told whose numbers a sheet all shows as percent.

    `percents` counts these by the columns of the sheet, of which `first` is the table's first.
    """
    if not percents:
        return table
    columns = [
        replace(column, shown=PERCENT)
        if percents.get(number, 0) == column.counts.get(Kind.NUMBER, -1)
        else column
        for number, column in enumerate(table.columns, first)
    ]
    return replace(table, columns=tuple(columns))
