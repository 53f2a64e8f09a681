"""Labels that speak of a total: hints for the search, in many languages, and never needed."""

import re
from collections.abc import Sequence

import numpy as np

from even_sieve.core.cells import Kind, fold, texts_found
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
_ANY = "|".join(map(re.escape, _WORDS))
_TOTAL = re.compile(rf"(?<![^\W\d_])(?:{_ANY})(?![^\W\d_])")
#: The same with an eye for ASCII letters alone, for engines that do not look behind.
_MAY_BE_TOTAL = rf"(?:^|[^a-z])(?:{_ANY})(?:$|[^a-z])".replace(r"\ ", " ")


def speaks_of_total(text: str) -> bool:
    """Tell whether a text speaks of a total.

    >>> speaks_of_total("Grand Total"), speaks_of_total("Totally Calm")
    (True, False)
    """
    return _TOTAL.search(fold(text)) is not None


def labels_of_totals(table: Table) -> dict[int, str]:
    """Return, for rows with a text that speaks of a total, that text."""
    found: dict[int, str] = {}
    for column in table.columns:
        lane = column.lanes.get(Kind.TEXT)
        if not isinstance(lane, TextLane):
            continue
        waiting = None if lane.of_rows is None else lane.of_rows.folded()
        if waiting is not None and not len(_speaking_of_total(waiting)):
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
    """Return which of the folded texts speak of a total, ascending."""
    search = getattr(texts, "search", None)  # texts that know how to look at all at once
    may = range(len(texts)) if search is None else search(_MAY_BE_TOTAL).tolist()
    asked = texts if search is None else [texts[at] for at in may]
    return np.asarray(may, dtype=np.intp)[texts_found(_TOTAL, asked)]
