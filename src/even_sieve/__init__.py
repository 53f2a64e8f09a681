"""Even Sieve: conditional figures over tables of records, each with an account of every row.

>>> from even_sieve import table_from
>>> calls = table_from({"zone": ["Outer", "Inner", "Outer"], "dues": [120.5, 80, "waived"]})
>>> print(calls.tally("sum of dues", where="zone = Outer")[0])
sum of dues = 120.5 [3 rows = 1 unmatched + 1 not a number + 1 used]
"""

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from even_sieve.core.cells import CellError
    from even_sieve.core.criteria import parse_criteria
    from even_sieve.core.errors import SieveError
    from even_sieve.public.criteria import read_criteria
    from even_sieve.public.results import Breakdown, Tallies
    from even_sieve.public.table import Table, read_table, table_from

__version__ = "0.1.0"

# Names load when they are first used, so that `import even_sieve` costs nothing.
_HOMES = {
    "Breakdown": "even_sieve.public.results",
    "CellError": "even_sieve.core.cells",
    "SieveError": "even_sieve.core.errors",
    "Table": "even_sieve.public.table",
    "Tallies": "even_sieve.public.results",
    "parse_criteria": "even_sieve.core.criteria",
    "read_criteria": "even_sieve.public.criteria",
    "read_table": "even_sieve.public.table",
    "table_from": "even_sieve.public.table",
}

__all__ = [
    "Breakdown",
    "CellError",
    "SieveError",
    "Table",
    "Tallies",
    "parse_criteria",
    "read_criteria",
    "read_table",
    "table_from",
]


def __getattr__(name: str) -> Any:
    if name not in _HOMES:
        raise AttributeError(f"module 'even_sieve' has no attribute '{name}'")
    from importlib import import_module

    return getattr(import_module(_HOMES[name]), name)
