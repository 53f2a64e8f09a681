"""Tables from records: mappings of column names to cells."""

from collections.abc import Mapping, Sequence

from even_sieve.core.table import Table, column_from
from even_sieve.core.table.lanes import Array


def table_of_records(
    records: Sequence[Mapping[str, object]], source: str, numbers: Array | int = 1
) -> Table:
    """Return the table of records; a name that a record does not have is a blank there."""
    names: dict[str, None] = {}
    for record in records:
        names.update(dict.fromkeys(map(str, record)))
    columns = tuple(
        column_from(name.strip(), [record.get(name) for record in records]) for name in names
    )
    return Table(columns, len(records), numbers, None, source)
