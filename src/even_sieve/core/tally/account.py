"""The account: every row of the table in exactly one bucket."""

from collections.abc import Mapping
from dataclasses import dataclass

from even_sieve.core.errors import AccountError
from even_sieve.core.notices import counted

#: The buckets in the order in which a row's is chosen, and what each means.
BUCKETS: Mapping[str, str] = {
    "subtotal": "marked as repeating other rows",
    "hidden": "hidden by a person",
    "filtered": "put away by a filter",
    "unmatched": "the criteria do not hold",
    "blank": "the measured cell is blank",
    "error": "the measured cell is an error",
    "not_a_number": "the measured cell is of another kind",
    "used": "in the figure",
}


@dataclass(frozen=True)
class Account:
    """How many rows of the table fall into each bucket. Raises `AccountError` if they differ.

    >>> Account(rows=5, unmatched=3, used=2).used
    2
    """

    rows: int
    subtotal: int = 0
    hidden: int = 0
    filtered: int = 0
    unmatched: int = 0
    blank: int = 0
    error: int = 0
    not_a_number: int = 0
    used: int = 0

    def __post_init__(self) -> None:
        out = (self.subtotal, self.hidden, self.filtered, self.unmatched)
        counts = (*out, self.blank, self.error, self.not_a_number, self.used)
        if sum(counts) != self.rows or min(counts) < 0:
            raise AccountError(
                f"the account does not add up: {self.rows} rows, but its buckets are "
                + ", ".join(f"{bucket} {getattr(self, bucket)}" for bucket in BUCKETS)
            )

    def strip(self) -> list[tuple[str, int]]:
        """Return the buckets that hold rows, what is used first: the parts of a strip."""
        names = ("used", *(name for name in reversed(tuple(BUCKETS)) if name != "used"))
        return [(name, getattr(self, name)) for name in names if getattr(self, name)]

    @property
    def matched(self) -> int:
        """The rows that are neither left out by a mark nor by the criteria."""
        return self.blank + self.error + self.not_a_number + self.used

    def as_dict(self) -> dict[str, int]:
        """Return the counts by name, `rows` first."""
        return dict(self.__dict__)  # fields alone; `asdict` copies each of them

    def words(self) -> str:
        """Return the account as a sum in words: `5 rows = 3 unmatched + 2 used`."""
        parts = [
            f"{getattr(self, bucket):,} {bucket.replace('_', ' ')}"
            for bucket in BUCKETS
            if getattr(self, bucket)
        ]
        return f"{counted(self.rows, 'row')} = {' + '.join(parts) or '0'}"
