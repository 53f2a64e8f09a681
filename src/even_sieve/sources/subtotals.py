"""Formulas of sheets that work out a subtotal: by a function for it, or by adding up a column."""

import re

from even_sieve.sources.areas import column_number

#: The subtotalling functions that both open standards have (ISO/IEC 26300-4, 29500-1).
_SUBTOTALLING = ("SUBTOTAL(", "AGGREGATE(")
#: What a document puts before a formula, and what one standard puts around its cells.
_NOT_SAID = re.compile(r"\A[A-Z]+:=?|\A=|[\s\]]|\[\.|(?<=:)\.")
_ROUNDED = re.compile(r"ROUND\((.*)[,;]-?\d\)\Z")
#: What adds up some of a column, by criteria or weights.
_OF_SOME = re.compile(r"SUM(?:IFS?|PRODUCT)\([^()]*\)\Z")
_CELL = r"\$?[A-Z]{1,3}\$?\d{1,7}"
_SPAN = rf"{_CELL}(?::{_CELL})?"
_ADDED = rf"(?:SUM\({_SPAN}(?:[,;]{_SPAN})*\)|{_CELL})"
_SUMS = re.compile(rf"\+?{_ADDED}(?:\+{_ADDED})*\Z")
_PARTS = re.compile(r"\$?([A-Z]+)(\$?)(\d+)(?::\$?([A-Z]+)(\$?)(\d+))?")


def is_subtotalling(formula: str, row: int, column: int) -> bool:
    """Tell whether a formula at a place calls a subtotalling function, or adds up its own column.

    >>> is_subtotalling("SUM(C2:C19)", 20, 3), is_subtotalling("SUM(A20:B20)", 20, 3)
    (True, False)
    >>> is_subtotalling("of:=[.C7]+[.C19]", 20, 3), is_subtotalling("C19+B20", 20, 3)
    (True, False)
    """
    capitals = formula.upper()
    if any(name in capitals for name in _SUBTOTALLING):
        return True
    if "SUM" not in capitals and "+" not in capitals:
        return False
    text = _NOT_SAID.sub("", capitals)
    if rounded := _ROUNDED.match(text):
        text = rounded[1]
    parts = _PARTS.findall(text)
    if _OF_SOME.match(text):
        return any(part[-1] and _is_of([part], row, column) for part in parts)
    return _SUMS.match(text) is not None and _is_of(parts, row, column)


def _is_of(spans: list[tuple[str, ...]], row: int, column: int) -> bool:
    """Tell whether spans are two cells or more of a column, and none of them the row's own."""
    cells = 0
    for left, _, first, right, _, last in spans:
        rows = sorted((int(first), int(last or first)))
        if {column_number(left), column_number(right or left)} != {column}:
            return False
        if rows[0] <= row <= rows[1]:
            return False
        cells += rows[1] - rows[0] + 1
    # One cell that is fixed and one that is not: a step from the row above, all the way down.
    fixed = {sign for _, sign, _, _, _, last in spans if not last}
    return cells > 1 and len(fixed) < 2
