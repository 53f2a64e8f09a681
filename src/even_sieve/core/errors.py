"""Everything that Even Sieve raises, as one tree.

    SieveError                      exit status 1: the data could not give the answer
    ├── CallError                   exit status 2: the words of the call are off
    │   ├── CriteriaError           criteria that cannot be read
    │   ├── MeasureError            a measure that cannot be read
    │   ├── ParameterError          a parameter without a value, or a value of no use
    │   └── SourceNotFound          no such file, or a folder in its place
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
    ├── NotOneValue                 none or several, where one value was asked for
    ├── DoubtError              a notice of doubt, where all is to be beyond doubt
    ├── RecheckError                a figure that its recheck does not confirm
    └── AccountError                figures that do not add up: a bug in Even Sieve

Each class carries what a program needs as attributes; the text says where, what is
wrong, what was found, and what to do.
"""

from collections.abc import Iterable, Sequence
from difflib import get_close_matches

MOST_SUGGESTIONS = 3
#: How much of a long text an error shows, to either side of its fault.
_AROUND = 150
_LONGEST_LINE = 1_500


def closest(word: str, candidates: Iterable[str]) -> tuple[str, ...]:
    """Return at most three candidates that are spelt nearly like `word`, nearest first.

    >>> closest("amont", ["amount", "zone", "mount"])
    ('amount', 'mount')
    """
    spelt = {candidate.casefold(): candidate for candidate in reversed(list(candidates))}
    found = get_close_matches(word.casefold(), spelt, n=MOST_SUGGESTIONS, cutoff=0.6)
    return tuple(spelt[each] for each in found)


def listed(names: Sequence[str], joint: str = "or") -> str:
    """Return the names quoted and joined: `'a', 'b' or 'c'`."""
    quoted = [f"'{name}'" for name in names]
    return quoted[0] if len(quoted) == 1 else f"{', '.join(quoted[:-1])} {joint} {quoted[-1]}"


class SieveError(Exception):
    """The base of every error raised on purpose. `exit_status` is the command line's.

    Its lines are never longer than a person reads: of a name of a million letters, the ends.
    """

    exit_status = 1

    def __init__(self, text: str = "") -> None:
        super().__init__("\n".join(map(_clipped, text.split("\n"))))


class CallError(SieveError):
    """The words of a call are off: nothing was worked out."""

    exit_status = 2


class NoSuchFigure(SieveError, KeyError):
    """There is no line, no tally of that name. It is a `KeyError` too."""

    def __str__(self) -> str:
        return str(self.args[0])


class CriteriaError(CallError):
    """Criteria that cannot be read. Carries `text`, `position` (1 for the first) and `hint`."""

    def __init__(
        self, text: str, position: int, fact: str, hint: str = "", *, place: str = "criteria"
    ) -> None:
        self.text, self.position, self.fact, self.hint = text, position, fact, hint
        where = f"{place} '{_around(text, position)}', position {position}: {fact}"
        super().__init__(f"{where}\n{hint}" if hint else where)


def _clipped(line: str) -> str:
    return line if len(line) <= _LONGEST_LINE else f"{line[:_LONGEST_LINE]} … {line[-_AROUND:]}"


def _around(text: str, position: int) -> str:
    """Return a text, of a long one what stands around a position."""
    if len(text) <= 2 * _AROUND:
        return text
    first, last = max(position - _AROUND, 0), position + _AROUND
    return f"{'…' if first else ''}{text[first:last]}{'…' if last < len(text) else ''}"


class MeasureError(CallError):
    """A measure that cannot be read. Carries `text` and `suggestions`."""

    def __init__(self, text: str, fact: str, hint: str = "", suggestions: Sequence[str] = ()):
        self.text, self.suggestions = text, tuple(suggestions)
        if suggestions:
            hint = f"Did you mean {listed(self.suggestions)}?"
        super().__init__(f"measure '{text}': {fact}" + (f"\n{hint}" if hint else ""))


class ParameterError(CallError):
    """A parameter without a value, or with one that cannot be used. Carries `name`."""

    def __init__(self, name: str, fact: str, hint: str = "") -> None:
        self.name = name
        super().__init__(f"parameter '{name}': {fact}" + (f"\n{hint}" if hint else ""))


class SourceNotFound(CallError):
    """The named source is not there, or is a folder. Carries `source`."""

    def __init__(self, source: str, fact: str, hint: str = "") -> None:
        self.source = source
        super().__init__(f"{source}: {fact}" + (f"\n{hint}" if hint else ""))


class NotInstalled(CallError):
    """What needs a package that is not installed. Carries `extra`, which brings it."""

    def __init__(self, what: str, extra: str) -> None:
        self.extra = extra
        super().__init__(
            f"{what} need a package that is not installed\n"
            f'Install it with: pip install "even-sieve[{extra}]"'
        )


class UnknownColumn(SieveError):
    """No column of that name. Carries `column`, `candidates` (the close ones) and `place`."""

    def __init__(self, column: str, columns: Sequence[str], place: str = "") -> None:
        self.column, self.columns, self.place = column, tuple(columns), place
        self.candidates = closest(column, columns)
        if self.candidates:
            hint = f"Did you mean {listed(self.candidates)}?"
        else:
            shown = ", ".join(self.columns[:12]) + (", …" if len(self.columns) > 12 else "")
            hint = f"The columns are: {shown}"
        super().__init__(f"{place}{': ' if place else ''}no column '{column}'\n{hint}")

    def at(self, place: str) -> "UnknownColumn":
        """Return the same error with the place that asked for the column."""
        return UnknownColumn(self.column, self.columns, place)


class DuplicateColumn(SieveError):
    """Two columns whose names differ in case or outer white space at most."""

    def __init__(self, column: str, positions: Sequence[int], source: str = "") -> None:
        self.column, self.positions = column, tuple(positions)
        where = f"{source}: " if source else ""
        numbers = " and ".join(str(position) for position in positions)
        super().__init__(
            f"{where}two columns are called '{column}' (columns {numbers})\n"
            "Rename one of them: a name must mean one column."
        )


class LengthMismatch(SieveError):
    """Columns of different lengths. Carries `lengths`, a mapping of two names to lengths."""

    def __init__(self, first: str, first_length: int, second: str, second_length: int) -> None:
        self.lengths = {first: first_length, second: second_length}
        super().__init__(
            f"column '{first}' has {first_length} rows and column '{second}' has {second_length}\n"
            "All columns of a table have the same number of rows."
        )


class UnsuitableColumn(SieveError):
    """A measure that makes no sense on what the column holds."""

    def __init__(self, measure: str, fact: str, hint: str = "") -> None:
        self.measure = measure
        super().__init__(f"measure '{measure}': {fact}" + (f"\n{hint}" if hint else ""))


class SourceError(SieveError):
    """A source that cannot be read as a table. Carries `source` and, if known, `row`."""

    def __init__(self, source: str, fact: str, hint: str = "", row: int | None = None) -> None:
        self.source, self.row = source, row
        where = source if row is None else f"{source}, row {row}"
        super().__init__(f"{where}: {fact}" + (f"\n{hint}" if hint else ""))


class NoRows(SourceError):
    """A source that has names of columns alone. Carries the `names`, and the `fact`."""

    def __init__(self, source: str, names: Sequence[str], hint: str = "") -> None:
        self.names, self.fact = tuple(names), "there is a header but no row below it"
        super().__init__(source, self.fact, hint)


class UnlikeSources(SourceError):
    """Sources whose columns differ. Carries `source` and, if one is lacking, `column`."""

    def __init__(self, source: str, fact: str, hint: str = "", column: str | None = None) -> None:
        self.column = column
        super().__init__(source, fact, hint)


class MemoryShort(SieveError):
    """Less memory than the work needs, or no room on disk for what does not go into it."""

    def __init__(self, fact: str, hint: str = "") -> None:
        super().__init__(fact + (f"\n{hint}" if hint else ""))


class MarkError(SieveError):
    """A mark for a row that is not there, or a word that is no mark."""

    def __init__(self, fact: str, hint: str = "") -> None:
        super().__init__(fact + (f"\n{hint}" if hint else ""))


class LookUpError(SieveError):
    """A look-up that cannot be: a key that stands twice, a name that is taken."""

    def __init__(self, fact: str, hint: str = "") -> None:
        super().__init__(f"look up: {fact}" + (f"\n{hint}" if hint else ""))


class NotOneValue(SieveError):
    """No value or several, where `only` asked for one. Carries `measure` and `rows`."""

    def __init__(self, measure: str, fact: str, rows: Sequence[int] = ()) -> None:
        self.measure, self.rows = measure, tuple(rows)
        shown = ", ".join(map(str, self.rows[:12])) + (", …" if len(self.rows) > 12 else "")
        hint = f"Rows: {shown}\nNarrow the criteria, or ask for first, last or mode" if rows else ""
        super().__init__(f"measure '{measure}': {fact}" + (f"\n{hint}" if hint else ""))


class RecheckError(SieveError):
    """A figure that its recheck does not confirm. Carries `measure` and, if one parts, `row`."""

    def __init__(self, measure: str, fact: str, row: int | None = None) -> None:
        self.measure, self.row = measure, row
        where = f"measure '{measure}'" + ("" if row is None else f", row {row}")
        super().__init__(f"{where}: {fact}\nThis is a bug in Even Sieve: please report it.")


class AccountError(SieveError):
    """Figures that do not add up. Never the user's mistake: a bug in Even Sieve."""

    def __init__(self, fact: str) -> None:
        super().__init__(f"{fact}\nThis is a bug in Even Sieve: please report it with the call.")


class DoubtError(SieveError):
    """A notice of doubt where none is accepted. Carries the `notices` as texts."""

    def __init__(self, notices: Sequence[str]) -> None:
        self.notices = tuple(notices)
        count = "1 notice" if len(self.notices) == 1 else f"{len(self.notices)} notices"
        super().__init__("\n".join([f"strict: {count} of doubt, and no figure is given", *notices]))
