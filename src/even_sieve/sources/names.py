"""Names of columns, as a header gives them."""

from collections.abc import Sequence

from even_sieve.core.cells import Cell
from even_sieve.core.notices import Code, Notice
from even_sieve.core.table.table import refuse_twice


def column_names(header: Sequence[Cell], source: str) -> tuple[list[str], tuple[Notice, ...]]:
    """Return the names, trimmed; a column without one is called by its number, with a notice.

    Raises `DuplicateColumn` for two columns of one name.
    """
    names, notices = [], []
    for position, cell in enumerate(header, 1):
        name = "" if cell is None else str(cell).strip()
        if not name:
            name = f"#{position}"
            text = f"column {position} has no name: it is called {name}"
            notices.append(Notice(Code.UNNAMED_COLUMN, text))
        names.append(name)
    refuse_twice(names, source)
    return names, tuple(notices)
