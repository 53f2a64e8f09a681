"""How Arrow is to part the fields of a CSV file."""

from collections.abc import Sequence
from typing import Any

import pyarrow as pa
from pyarrow import csv as arrow_csv

from even_sieve.sources.dialect import Dialect

#: So many bytes are parted at once; so many are looked at for a header.
BLOCK = LONGEST_HEADER = 1 << 20


def parsing(
    count: int,
    block: int,
    dialect: Dialect,
    quoted: bool,
    wanted: Sequence[int] | None = None,
    threads: bool = True,
) -> dict[str, Any]:
    """Return how Arrow is to part the fields: all columns as strings, the header as a row."""
    names = [f"f{i}" for i in range(count)]
    return {
        "read_options": arrow_csv.ReadOptions(
            column_names=names, block_size=block, use_threads=threads
        ),
        "parse_options": arrow_csv.ParseOptions(
            delimiter=dialect.delimiter,
            quote_char=dialect.quote,
            newlines_in_values=quoted,
            ignore_empty_lines=count > 1,  # in one column a blank line is a blank cell
        ),
        "convert_options": arrow_csv.ConvertOptions(
            column_types=dict.fromkeys(names, pa.string()),
            include_columns=None if wanted is None else [names[i] for i in wanted],
            strings_can_be_null=False,
            check_utf8=False,
        ),
    }
