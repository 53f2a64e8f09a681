"""Sources that cannot be read as one table, and what does not go with their rows."""

from collections.abc import Sequence

from even_sieve.core.errors.base import SieveError


class SourceError(SieveError):
    """A source that cannot be read as a table. Carries `source` and, if known, `row`.

    >>> import even_sieve, pathlib, tempfile
    >>> ragged = pathlib.Path(tempfile.mkdtemp(), "calls.csv")
    >>> _ = ragged.write_text("zone,dues\\nA,120\\nB,80,5\\n")
    >>> try:
    ...     even_sieve.read_table(ragged)
    ... except even_sieve.SourceError as error:
    ...     print(error.row)
    3
    """

    def __init__(self, source: str, fact: str, hint: str = "", row: int | None = None) -> None:
        self.source, self.row = source, row
        where = source if row is None else f"{source}, row {row}"
        super().__init__(f"{where}: {fact}", hint)


class NoRows(SourceError):
    """A source that has names of columns alone. Carries the `names`, and the `fact`.

    >>> import even_sieve, pathlib, tempfile
    >>> header = pathlib.Path(tempfile.mkdtemp(), "calls.csv")
    >>> _ = header.write_text("zone,dues\\n")
    >>> try:
    ...     even_sieve.read_table(header)
    ... except even_sieve.NoRows as error:
    ...     print(error.names)
    ('zone', 'dues')
    """

    def __init__(self, source: str, names: Sequence[str], hint: str = "") -> None:
        self.names, self.fact = tuple(names), "there is a header but no row below it"
        super().__init__(source, self.fact, hint)


class UnlikeSources(SourceError):
    """Sources whose columns differ. Carries `source` and, if one is lacking, `column`.

    >>> import even_sieve
    >>> may = even_sieve.table_from({"zone": ["A"], "dues": [120]})
    >>> june = even_sieve.table_from({"zone": ["A"]})
    >>> try:
    ...     even_sieve.combine([may, june])
    ... except even_sieve.UnlikeSources as error:
    ...     print(error.source, "lacks", error.column)
    table 2 lacks dues
    """

    def __init__(self, source: str, fact: str, hint: str = "", column: str | None = None) -> None:
        self.column = column
        super().__init__(source, fact, hint)


class MemoryShort(SieveError):
    """Less memory than the work needs, or no room on disk for what does not go into it.

    >>> import even_sieve, pathlib, tempfile
    >>> calls = pathlib.Path(tempfile.mkdtemp(), "calls.csv")
    >>> _ = calls.write_text("zone,dues\\nA,120\\n")
    >>> try:
    ...     even_sieve.read_table(calls, memory="1MiB")
    ... except even_sieve.MemoryShort as error:
    ...     print(str(error).splitlines()[0])
    memory: 1MiB is too little to work in
    """


class MarkError(SieveError):
    """A mark for a row that is not there, or a word that is no mark.

    >>> import even_sieve
    >>> try:
    ...     even_sieve.table_from({"dues": [120, 80]}).mark(hidden=[5])
    ... except even_sieve.MarkError as error:
    ...     print(error)
    no row has the number 5
    The rows are numbered 1 to 2
    """


class LookUpError(SieveError):
    """A look-up that cannot be: a key that stands twice, a name that is taken.

    >>> import even_sieve
    >>> rates = even_sieve.table_from({"zone": ["A", "A"], "rate": [1, 2]})
    >>> try:
    ...     even_sieve.table_from({"zone": ["A"]}).tally(
    ...         "sum of rate", look_ups=even_sieve.LookUp.of(rates, "zone")
    ...     )
    ... except even_sieve.LookUpError as error:
    ...     print(str(error).splitlines()[0])
    look up: the other table: the key zone = A stands in rows 1, 2
    """

    def __init__(self, fact: str, hint: str = "") -> None:
        super().__init__(f"look up: {fact}", hint)
