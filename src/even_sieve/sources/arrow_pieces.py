"""Pieces of tables from record batches of Arrow, however few rows each of these has."""

from collections.abc import Iterable, Iterator, Mapping
from functools import partial
from typing import Any

import numpy as np
import pyarrow as pa

from even_sieve.core.table.lanes import Array
from even_sieve.sources.arrow_tables import column_of_arrow
from even_sieve.sources.long_typed import Piece
from even_sieve.sources.source_options import SourceOptions


def pieces_of(
    batches: Iterable[tuple[int, Any]],
    size: int,
    names: Mapping[str, str],
    source: str,
    options: SourceOptions,
) -> Iterator[Piece]:
    """Yield batches, each with the number of its first row, as pieces of at most `size` rows.

    Short ones go together, for a piece takes its time however short it is. `names` are those that
    columns have in the batches by those that they have with us.
    """
    waiting: list[tuple[int, Any]] = []
    rows = 0

    def piece() -> Piece:
        arrow = pa.Table.from_batches([batch for _, batch in waiting])
        column = partial(column_of_arrow, arrow, names, source, options)
        return Piece(rows, _numbers([(first, len(batch)) for first, batch in waiting]), column)

    for first, batch in batches:
        for start in range(0, len(batch), size):
            some = batch.slice(start, size)
            if waiting and rows + len(some) > size:
                yield piece()
                waiting, rows = [], 0
            waiting.append((first + start, some))
            rows += len(some)
    if waiting:
        yield piece()


def _numbers(stretches: list[tuple[int, int]]) -> Array | int:
    """Return the numbers of rows: the first one where each follows on the one before it."""
    first, following = stretches[0]
    following += first
    for begin, length in stretches[1:]:
        if begin != following:
            return np.concatenate([np.arange(each, each + own) for each, own in stretches])
        following += length
    return first
