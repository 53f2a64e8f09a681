"""Tokens of text sources, read as cells."""

from collections.abc import Iterable
from datetime import date
from decimal import Decimal

from even_sieve.core.cells import (
    Cell,
    Moment,
    error_from_token,
    fold,
    read_date,
    read_number,
)
from even_sieve.core.cells.dates import DAY, date_from_days, datetime_from_micros
from even_sieve.core.cells.written import read_written_number
from even_sieve.core.notices import Notice
from even_sieve.core.table.build import BEYOND, INFINITE, is_beyond
from even_sieve.core.table.offsets import cut_notices, offset_notices

_YES_NO = {"true": True, "false": False}


class TokenReader:
    """Reads the tokens of one column; remembers the offsets of the times that it met."""

    def __init__(self, blank_as: Iterable[str] = (), decimal: str = ".") -> None:
        self.decimal = decimal
        self.blank_as = frozenset(fold(token.strip()) for token in blank_as)
        self.offsets: set[int | None] = set()
        self.cut = ""

    def merge(self, other: "TokenReader") -> None:
        """Take in what another one met, in rows that come after."""
        self.offsets |= other.offsets
        self.cut = self.cut or other.cut

    def read(self, token: str) -> Cell:
        """Return the cell that a token stands for.

        >>> [TokenReader(["NA"]).read(each) for each in ("12.5", " Outer ", "NA", "true")]
        [Decimal('12.5'), 'Outer', None, True]
        """
        token = token.strip()
        if not token or (self.blank_as and fold(token) in self.blank_as):
            return None
        if token[0] == "#":
            return error_from_token(token) or token
        number = self._number(token)
        if number is not None:
            return BEYOND if is_beyond(number) else number
        if token.lstrip("+-").lower() in ("inf", "infinity"):
            return INFINITE
        moment = read_date(token) if token[0].isdigit() else None
        if moment is not None:
            if moment.cut and not self.cut:
                self.cut = token
            return self._date(moment)
        return _YES_NO.get(token.lower(), token)

    def _number(self, token: str) -> Decimal | None:
        if self.decimal == ".":
            return read_number(token)
        return None if "%" in token else read_written_number(token, self.decimal)

    def _date(self, moment: Moment) -> date:
        if moment.has_time:
            self.offsets.add(moment.offset)
            return datetime_from_micros(moment.micros)
        return date_from_days(moment.micros // DAY)

    def notices(self, name: str) -> tuple[Notice, ...]:
        """Return what is to be known of the column's times."""
        cut = cut_notices(name, self.cut) if self.cut else ()
        return (*offset_notices(name, self.offsets), *cut)
