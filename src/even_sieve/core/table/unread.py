"""Rows of a source that were left unread, since criteria are certain to hold for none of them."""

from dataclasses import dataclass

from even_sieve.core.notices import Code, Notice, counted


@dataclass(frozen=True)
class Unread:
    """How many rows, in how many of the `of_groups` groups that a source has them in.

    `criteria` are those that hold for none of them, as a plan prepares them; `words` in text.
    """

    rows: int
    groups: int
    of_groups: int
    criteria: object
    words: str

    @property
    def notice(self) -> Notice:
        """What is to be known of figures over the other rows."""
        text = (
            f"{counted(self.rows, 'row')} in {self.groups:,} of {self.of_groups:,} groups of rows "
            "were not read: by the file's own statistics none of them can match; decimals, and "
            "what is told of columns and single conditions, are of the others"
        )
        return Notice(Code.ROWS_UNREAD, text, {"rows": self.rows})
