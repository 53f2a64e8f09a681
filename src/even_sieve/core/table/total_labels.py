"""Labels that speak of a total: hints for the search, in many languages, and never needed."""

import re
from collections.abc import Sequence

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.table.lanes import Array, TextLane
from even_sieve.core.table.table import Table

#: A word that a total's label has, by itself among other words, in the languages of offices.
_WORDS = (
    "total", "totals", "subtotal", "sub-total", "sum", "all", "summe", "zwischensumme",
    "endsumme", "gesamtsumme", "gesamt", "insgesamt", "totaal", "subtotaal", "somme",
    "sous-total", "totales", "totale", "totali", "subtotale", "somma", "soma", "suma", "razem",
    "celkem", "mezisoučet", "spolu", "summa", "totalt", "delsumma", "i alt", "yhteensä",
    "välisumma", "összesen", "toplam", "ukupno", "skupaj", "kokku", "kopā", "iš viso", "итого",
    "всего", "усього", "разом", "общо", "σύνολο", "合計", "小計", "总计", "小计", "합계",
)  # fmt: skip
_TOTAL = re.compile(rf"(?<![^\W\d_])(?:{'|'.join(map(re.escape, _WORDS))})(?![^\W\d_])")


def labels_of_totals(table: Table) -> dict[int, str]:
    """Return, for rows with a text that speaks of a total, that text."""
    found: dict[int, str] = {}
    for column in table.columns:
        lane = column.lanes.get(Kind.TEXT)
        if not isinstance(lane, TextLane):
            continue
        hints = _speaking_of_total(lane.folded)
        if not len(hints):
            continue
        rows = np.isin(lane.values, hints)
        if column.states is not None:
            rows &= column.states == Kind.TEXT
        for row in np.flatnonzero(rows).tolist():
            found.setdefault(row, str(column.cell(row)))
    return found


def _speaking_of_total(texts: Sequence[str]) -> Array:
    """Return which of the folded texts speak of a total, ascending; found in one search."""
    whole = "\n".join(texts)
    places = [found.start() for found in _TOTAL.finditer(whole)]
    if not places:
        return np.empty(0, dtype=np.intp)
    ends = np.cumsum([len(text) + 1 for text in texts])
    return np.unique(np.searchsorted(ends, places, side="right"))
