"""Even Sieve: conditional figures over tables of records, each with an account of every row.

>>> from even_sieve import table_from
>>> calls = table_from({"zone": ["Outer", "Inner", "Outer"], "dues": [120.5, 80, "waived"]})
>>> print(calls.tally("sum of dues", where="zone = Outer")[0])
sum of dues = 120.5 [3 rows = 1 unmatched + 1 not a number + 1 used]
"""

from typing import TYPE_CHECKING, Any

from even_sieve.core.answer import Answer, Presenter

if TYPE_CHECKING:
    from even_sieve.core.cells import (
        CellError,
    )
    from even_sieve.core.criteria import (
        describe,
        field,
        parameter,
        parse_criteria,
        write_criteria,
        write_range,
    )
    from even_sieve.core.errors import (
        AccountError,
        CallError,
        CriteriaError,
        DoubtError,
        DuplicateColumn,
        LengthMismatch,
        LookUpError,
        MarkError,
        MeasureError,
        MemoryShort,
        NoRows,
        NoSuchFigure,
        NotInstalled,
        NotOneValue,
        ParameterError,
        RecheckError,
        SieveError,
        SourceError,
        SourceNotFound,
        UnknownColumn,
        UnlikeSources,
        UnsuitableColumn,
    )
    from even_sieve.core.notices import (
        Code,
        Notice,
    )
    from even_sieve.core.query import (
        Asked,
        LookUp,
        Query,
    )
    from even_sieve.core.session import (
        Outcome,
        Session,
    )
    from even_sieve.core.table import (
        Profile,
    )
    from even_sieve.core.tally import (
        ALL_VALUES,
        Account,
        Added,
        Breakdown,
        Bridge,
        BridgeStep,
        Choice,
        Counted,
        Explanation,
        Explanations,
        Funnel,
        FunnelStep,
        Heading,
        Line,
        LineRows,
        LineSet,
        Listing,
        Recheck,
        Rechecks,
        Tallies,
        Tally,
        Together,
        explain,
        recheck,
    )
    from even_sieve.documents.looks import (
        shown_as,
    )
    from even_sieve.public.criteria import (
        read_criteria,
        read_parameters,
    )
    from even_sieve.public.reading import (
        combine,
        read_table,
        table_from,
    )
    from even_sieve.public.table import (
        Table,
    )
    from even_sieve.reports import (
        Report,
        Results,
    )

__version__ = "0.1.0"

# Names load when they are first used, so that `import even_sieve` costs nothing.
_HOMES = {
    "even_sieve.core.cells": ("CellError",),
    "even_sieve.core.criteria": (
        "describe", "field", "parameter", "parse_criteria", "write_criteria", "write_range",
    ),
    "even_sieve.core.errors": (
        "AccountError", "CallError", "CriteriaError", "DoubtError", "DuplicateColumn",
        "LengthMismatch", "LookUpError", "MarkError", "MeasureError", "MemoryShort", "NoRows",
        "NoSuchFigure",
        "NotInstalled", "NotOneValue", "ParameterError", "RecheckError", "SieveError",
        "SourceError", "SourceNotFound", "UnknownColumn", "UnlikeSources", "UnsuitableColumn",
    ),
    "even_sieve.core.notices": ("Code", "Notice",),
    "even_sieve.core.query": ("Asked", "LookUp", "Query",),
    "even_sieve.core.session": ("Outcome", "Session",),
    "even_sieve.core.tally": (
        "ALL_VALUES", "Account", "Added", "Breakdown", "Bridge", "BridgeStep", "Choice",
        "Counted", "Explanation", "Explanations", "Funnel", "FunnelStep", "Heading", "Line",
        "LineRows", "LineSet", "Listing", "Recheck", "Rechecks", "Tallies", "Tally", "Together",
        "explain", "recheck",
    ),
    "even_sieve.documents.looks": ("shown_as",),
    "even_sieve.core.table": ("Profile",),
    "even_sieve.public.criteria": ("read_criteria", "read_parameters",),
    "even_sieve.public.reading": ("combine", "read_table", "table_from",),
    "even_sieve.public.table": ("Table",),
    "even_sieve.reports": ("Report", "Results",),
}  # fmt: skip

__all__ = [
    "ALL_VALUES",
    "Account",
    "AccountError",
    "Added",
    "Asked",
    "Breakdown",
    "Bridge",
    "BridgeStep",
    "CallError",
    "CellError",
    "Choice",
    "Code",
    "Counted",
    "CriteriaError",
    "DoubtError",
    "DuplicateColumn",
    "Explanation",
    "Explanations",
    "Funnel",
    "FunnelStep",
    "Heading",
    "LengthMismatch",
    "Line",
    "LineRows",
    "LineSet",
    "Listing",
    "LookUp",
    "LookUpError",
    "MarkError",
    "MeasureError",
    "MemoryShort",
    "NoRows",
    "NoSuchFigure",
    "NotInstalled",
    "NotOneValue",
    "Notice",
    "Outcome",
    "ParameterError",
    "Profile",
    "Query",
    "Recheck",
    "RecheckError",
    "Rechecks",
    "Report",
    "Results",
    "Session",
    "SieveError",
    "SourceError",
    "SourceNotFound",
    "Table",
    "Tallies",
    "Tally",
    "Together",
    "UnknownColumn",
    "UnlikeSources",
    "UnsuitableColumn",
    "combine",
    "describe",
    "explain",
    "field",
    "parameter",
    "parse_criteria",
    "read_criteria",
    "read_parameters",
    "read_table",
    "recheck",
    "shown_as",
    "table_from",
    "write_criteria",
    "write_range",
]


def __getattr__(name: str) -> Any:
    from importlib import import_module

    for home, names in _HOMES.items():
        if name in names:
            return getattr(import_module(home), name)
    raise AttributeError(f"module 'even_sieve' has no attribute '{name}'")


def __dir__() -> list[str]:
    return [*__all__, "__version__"]


def _presenter() -> Presenter:
    """Return what shows answers, loaded when the first one is shown."""
    from even_sieve.renderers.presenter import DocumentPresenter

    return DocumentPresenter()


Answer.presenter = _presenter
