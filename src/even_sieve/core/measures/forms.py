"""The kinds of measure, and how each is written: the words before and after `of`."""

from dataclasses import dataclass
from decimal import Decimal, InvalidOperation


@dataclass(frozen=True)
class Form:
    """How a kind is written.

    `column`: it is taken of a column. `number`: the letter of the number after its name,
    where it takes one: K counts from 1, P is a percentage, Q a quarter from 0 to 4. `ways`:
    the definitions that it can follow, the first unless told. `weight`: a second column.
    """

    column: bool = True
    number: str = ""
    ways: tuple[str, ...] = ()
    weight: bool = False

    def example(self, kind: str) -> str:
        """Return how a measure of this kind is written, about the harbour's dues."""
        words = [kind, *({"K": "2", "P": "90", "Q": "1"}.get(self.number, "").split())]
        words += ["of", "dues"] if self.column else []
        return " ".join([*words, *(["by", "tonnage"] if self.weight else [])])


_SPREAD = ("sample", "population")
_QUANTILE = ("inclusive", "exclusive")

KINDS: dict[str, Form] = {
    "rows": Form(column=False),
    "numbers": Form(),
    "filled": Form(),
    "blanks": Form(),
    "errors": Form(),
    "distinct": Form(),
    "distinct or blank": Form(),
    "sum": Form(),
    "product": Form(),
    "average": Form(),
    "weighted average": Form(weight=True),
    "min": Form(),
    "max": Form(),
    "largest": Form(number="K"),
    "smallest": Form(number="K"),
    "range": Form(),
    "median": Form(),
    "mode": Form(),
    "percentile": Form(number="P", ways=_QUANTILE),
    "quartile": Form(number="Q", ways=_QUANTILE),
    "variance": Form(ways=_SPREAD),
    "deviation": Form(ways=_SPREAD),
    "only": Form(),
    "first": Form(),
    "last": Form(),
    "share": Form(),
}

#: What `all of` stands for, by what leads the column.
ALL = "all"
ALL_OF_NUMBERS = (
    "numbers", "blanks", "errors", "distinct", "sum", "average", "deviation",
    "min", "quartile 1", "median", "quartile 3", "max",
)  # fmt: skip
ALL_OF_OTHERS = ("filled", "blanks", "errors", "distinct", "mode", "first", "last")
ALL_OF_ORDERED = (*ALL_OF_OTHERS, "min", "median", "max")

_ACCEPTED = {
    "K": "a whole number from 1 on",
    "P": "a percentage from 0 to 100",
    "Q": "0, 1, 2, 3 or 4",
}


def kind_of_words(words: list[str]) -> str | None:
    """Return the longest kind that the words begin with, or None."""
    for length in range(min(len(words), 3), 0, -1):
        kind = " ".join(words[:length])
        if kind in KINDS:
            return kind
    return None


def read_number(letter: str, word: str) -> Decimal | None:
    """Return the number after a kind's name, or None if it is none that the kind takes."""
    try:
        number = Decimal(word.removesuffix("%") if letter == "P" else word)
    except InvalidOperation:
        return None
    most = {"P": 100, "Q": 4}.get(letter)
    whole = number == number.to_integral_value()
    if not number.is_finite() or number < (letter == "K") or (most is not None and number > most):
        return None
    return number.normalize() if whole or letter == "P" else None


def accepted(letter: str) -> str:
    """Return in words which numbers a kind takes."""
    return _ACCEPTED[letter]
