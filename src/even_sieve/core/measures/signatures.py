"""The kinds of measure, and how each is written: the words before and after `of`."""

from dataclasses import dataclass
from decimal import Decimal, InvalidOperation


@dataclass(frozen=True)
class Form:
    """What a kind is, and how it is written.

    `column`: it is taken of a column. `number`: the letter of the number after its name,
    where it takes one: K counts from 1, P is a percentage, Q a quarter from 0 to 4. `ways`:
    the definitions that it can follow, the first unless told. `weight`: a second column.
    """

    definition: str
    column: bool = True
    number: str = ""
    ways: tuple[str, ...] = ()
    weight: bool = False

    def example(self, kind: str, column: str = "dues", weight: str = "tonnage") -> str:
        """Return how a measure of this kind is written, about these columns."""
        words = [kind, *({"K": "2", "P": "90", "Q": "1"}.get(self.number, "").split())]
        words += ["of", column] if self.column else []
        return " ".join([*words, *(["by", weight] if self.weight else [])])


_SPREAD = ("sample", "population")
_QUANTILE = ("inclusive", "exclusive")

KINDS: dict[str, Form] = {
    "rows": Form("the number of matching rows", column=False),
    "numbers": Form("the number of cells that hold a number"),
    "filled": Form("the number of cells that hold anything but an error"),
    "blanks": Form("the number of blank cells"),
    "errors": Form("the number of error cells"),
    "distinct": Form("the number of different values, equal as in matching"),
    "distinct or blank": Form("the number of different values, a blank as one more"),
    "sum": Form("the exact sum of the numbers, rounded once"),
    "product": Form("the product of the numbers, rounded once"),
    "average": Form("the exact sum of the numbers over their count, rounded once"),
    "weighted average": Form(
        "the exact sum of the numbers times their weights over that of the weights, rounded once",
        weight=True,
    ),
    "min": Form("the smallest value"),
    "max": Form("the largest value"),
    "largest": Form(
        "the value that stands K-th from the largest, equal ones each in a place", number="K"
    ),
    "smallest": Form(
        "the value that stands K-th from the smallest, equal ones each in a place", number="K"
    ),
    "range": Form("the largest number less the smallest"),
    "median": Form(
        "the middle value: of two middle numbers their mean, of dates and texts the lower one"
    ),
    "mode": Form("the most frequent value, the smallest where several tie"),
    "percentile": Form(
        "the value below which P of a hundred lie, between two neighbours in proportion",
        number="P",
        ways=_QUANTILE,
    ),
    "quartile": Form("the percentile of 25 times Q", number="Q", ways=_QUANTILE),
    "variance": Form("the mean squared distance of the numbers from their average", ways=_SPREAD),
    "deviation": Form("the square root of the variance", ways=_SPREAD),
    "only": Form("the value of the one row that has one"),
    "first": Form("the first value in the order of the rows"),
    "last": Form("the last value in the order of the rows"),
    "share": Form("the sum of the numbers over the sum of the whole, rounded once"),
}

#: What `all of` stands for, by what leads the column.
ALL = "all"
ALL_OF_NUMBERS = (
    "numbers", "blanks", "errors", "distinct", "sum", "average", "deviation",
    "min", "quartile 1", "median", "quartile 3", "max",
)  # fmt: skip
ALL_OF_OTHERS = ("filled", "blanks", "errors", "distinct", "mode", "first", "last")
ALL_OF_ORDERED = (*ALL_OF_OTHERS, "min", "median", "max")

#: Other words of the trade for a kind, and the word that is used here.
SYNONYMS = {
    "total": "sum", "mean": "average", "avg": "average", "arithmetic mean": "average",
    "weighted mean": "weighted average", "maximum": "max", "highest": "max", "minimum": "min",
    "lowest": "min", "unique": "distinct", "distinct count": "distinct", "count": "rows",
    "standard deviation": "deviation", "stdev": "deviation", "most frequent": "mode",
    "spread": "range",
}  # fmt: skip
_PLACES = ("second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth")


def usual_words(words: list[str]) -> list[str]:
    """Return the words of a measure with a synonym in its usual form.

    >>> usual_words(["second", "largest"]), usual_words(["mean"])
    (['largest', '2'], ['average'])
    """
    if len(words) == 2 and words[0] in _PLACES and words[1] in ("largest", "smallest"):
        return [words[1], str(_PLACES.index(words[0]) + 2)]
    for length in range(min(len(words), 3), 0, -1):
        usual = SYNONYMS.get(" ".join(words[:length]))
        if usual is not None:
            return [*usual.split(), *words[length:]]
    return words


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
