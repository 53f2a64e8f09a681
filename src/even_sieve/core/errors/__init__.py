"""Everything that Even Sieve raises, as one tree.

    SieveError                      exit status 1: the data could not give the answer
    ├── CallError                   exit status 2: the words of the call are off
    │   ├── CriteriaError           criteria that cannot be read
    │   ├── MeasureError            a measure that cannot be read
    │   ├── ParameterError          a parameter without a value, or a value of no use
    │   ├── SourceNotFound          no such file, or a folder in its place
    │   └── NotInstalled            a package that is not installed
    ├── UnknownColumn               a column that the table does not have
    ├── DuplicateColumn             two columns of one name
    ├── LengthMismatch              columns of different lengths
    ├── UnsuitableColumn            a measure that makes no sense on what a column holds
    ├── SourceError                 a file that cannot be read as a table
    │   ├── NoRows                  names of columns without a row below them
    │   └── UnlikeSources           files of different shapes, where one table was asked for
    ├── MemoryShort                 less memory, or disk, than the work needs
    ├── MarkError                   a mark for a row that is not there
    ├── LookUpError                 a key that stands twice, a name that is taken
    ├── NoSuchFigure            no line, no tally of that name; a KeyError too
    ├── NotOneValue                 none or several, where one value was asked for
    ├── DoubtError              a notice of doubt, where all is to be beyond doubt
    ├── RecheckError                a figure that its recheck does not confirm
    └── AccountError                figures that do not add up: a bug in Even Sieve

Each class carries what a program needs as attributes; the text says where, what is
wrong, what was found, and what to do.
"""

from even_sieve.core.errors.base import CallError, NoSuchFigure, SieveError
from even_sieve.core.errors.calls import (
    CriteriaError,
    MeasureError,
    NotInstalled,
    ParameterError,
    SourceNotFound,
)
from even_sieve.core.errors.columns import (
    DuplicateColumn,
    LengthMismatch,
    UnknownColumn,
    UnsuitableColumn,
)
from even_sieve.core.errors.figures import AccountError, DoubtError, NotOneValue, RecheckError
from even_sieve.core.errors.sources import (
    LookUpError,
    MarkError,
    MemoryShort,
    NoRows,
    SourceError,
    UnlikeSources,
)
from even_sieve.core.errors.wording import closest, listed

__all__ = [
    "AccountError",
    "CallError",
    "CriteriaError",
    "DoubtError",
    "DuplicateColumn",
    "LengthMismatch",
    "LookUpError",
    "MarkError",
    "MeasureError",
    "MemoryShort",
    "NoRows",
    "NoSuchFigure",
    "NotInstalled",
    "NotOneValue",
    "ParameterError",
    "RecheckError",
    "SieveError",
    "SourceError",
    "SourceNotFound",
    "UnknownColumn",
    "UnlikeSources",
    "UnsuitableColumn",
    "closest",
    "listed",
]
