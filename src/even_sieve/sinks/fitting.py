"""What a workbook cannot hold is refused before it is written: nothing is cut or replaced."""

import re
from collections.abc import Sequence

from even_sieve.core.errors import SourceError
from even_sieve.core.table.lanes import TextLane
from even_sieve.sinks.sheet import Sheet

_ROWS, _COLUMNS, _LETTERS = 1_048_576, 16_384, 32_767
_NO_LETTER = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ud800-\udfff\ufffe\uffff]")
_HINT = "Write .csv, .jsonl or .parquet"


def refuse_unfit(sheets: Sequence[Sheet]) -> None:
    """Raise `SourceError` for rows, columns or texts that no sheet of a workbook holds.

    A sheet has 1,048,576 rows, its header one of them, and 16,384 columns; a cell has 32,767
    letters, and none of the control characters and halves of pairs that XML does not have.
    """
    for sheet in sheets:
        name, table = sheet.name, sheet.table
        if sheet.last > _ROWS:
            fact = f"{len(table):,} rows and a header are more than the {_ROWS:,} rows of a sheet"
            raise SourceError(f"sheet '{name}'", fact, _HINT)
        if len(table.names) > _COLUMNS:
            fact = f"{len(table.names):,} columns are more than the {_COLUMNS:,} of a sheet"
            raise SourceError(f"sheet '{name}'", fact, _HINT)
        for column in table.columns:
            _refuse_text(column.name, [column.name])
            for lane in column.lanes.values():
                if isinstance(lane, TextLane):
                    _refuse_text(column.name, lane.spellings)


def _refuse_text(column: str, texts: Sequence[str]) -> None:
    for text in texts:
        if len(text) > _LETTERS:
            fact = f"a text of {len(text):,} letters is longer than the {_LETTERS:,} of a cell"
        elif found := _NO_LETTER.search(text):
            fact = f"a text holds the sign U+{ord(found[0]):04X}, which no workbook holds"
        else:
            continue
        raise SourceError(f"column {column[:40]!r}", fact, _HINT)
