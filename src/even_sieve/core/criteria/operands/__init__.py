"""The values of conditions, one kind a module."""

from even_sieve.core.criteria.operands.bare import read_plain, suited
from even_sieve.core.criteria.operands.number import Number
from even_sieve.core.criteria.operands.operand import (
    Interval,
    Operand,
    Piece,
    Point,
    Putting,
    Writing,
)
from even_sieve.core.criteria.operands.other_column import OtherColumn
from even_sieve.core.criteria.operands.parameter import Parameter
from even_sieve.core.criteria.operands.pattern import Pattern, add_letters, read_letters
from even_sieve.core.criteria.operands.period import NamedPeriod, Period
from even_sieve.core.criteria.operands.period_names import (
    Calendar,
    periods_meant,
    read_period,
    resolve_period,
)
from even_sieve.core.criteria.operands.text import Text, is_likely_end
from even_sieve.core.criteria.operands.wildcards import Wild
from even_sieve.core.criteria.operands.window import Window, WindowEnd
from even_sieve.core.criteria.operands.yes_no import YesNo

__all__ = [
    "Calendar",
    "Interval",
    "NamedPeriod",
    "Number",
    "Operand",
    "OtherColumn",
    "Parameter",
    "Pattern",
    "Period",
    "Piece",
    "Point",
    "Putting",
    "Text",
    "Wild",
    "Window",
    "WindowEnd",
    "Writing",
    "YesNo",
    "add_letters",
    "is_likely_end",
    "periods_meant",
    "read_letters",
    "read_period",
    "read_plain",
    "resolve_period",
    "suited",
]
