"""Figures and cells as people read them: rounded, as percent, in a currency, as a locale writes.

What is shown is rounded; the figure itself is not. How it is shown follows from what it is,
unless somebody says it (`looks.py`). Locales are those of CLDR, by Babel.
"""

import math
from collections.abc import Sequence
from dataclasses import replace
from datetime import date
from decimal import Decimal
from fractions import Fraction
from typing import Any, NoReturn

from even_sieve.core.cells import Cell, CellError
from even_sieve.core.errors import CallError
from even_sieve.core.measures import MeasureRequest
from even_sieve.core.tally import Tally
from even_sieve.documents.handout import Shape
from even_sieve.documents.localised import placed, show_date
from even_sieve.documents.looks import (
    PLAIN,
    Look,
    currency_place,
    current,
    date_pattern,
    is_plain,
)
from even_sieve.documents.values import plain_amount, show_value, with_decimals

_OF_ONE = frozenset(("share", "relative change"))
_AS_ITS_PART = frozenset(("difference", "change", "running total"))
_DIVIDED = frozenset(
    ("average", "weighted average", "median", "percentile", "quartile", "variance", "deviation",
     "ratio")
)  # fmt: skip
#: What is counted, or is no amount of its column: the look of the column is not its own.
_OF_OTHER_UNITS = _OF_ONE | {
    "numbers", "filled", "blanks", "errors", "distinct", "distinct or blank", "product", "variance",
}  # fmt: skip
#: A figure that was divided is shown with so many decimals more than its column, at the most.
_MORE_DECIMALS = 2
#: A small figure keeps so many of its first digits.
_LEAST_DIGITS = 3
_MOST_PLACES = 12
_PERCENT_DECIMALS = 1
_BEYOND = 1e15


def show_figure(tally: Tally) -> str:
    """Return the value of a tally for a person, as its kind or somebody says.

    Raises `CallError` where a look was said that does not fit the figure.
    """
    return show_figures(tally, (tally.value,))[0]


def show_figures(like: Tally, values: Sequence[Cell]) -> list[str]:
    """Return the values of a measure for a person; `like` is a figure of it.

    Raises `CallError` as `show_figure` does.
    """
    look, locale, divided = _look(like), current().locale, _is_divided(like.request)
    fitting = [look.kind is None or _fits(look.kind, value) for value in values]
    if not all(fitting) and current().is_said(like.name, like.request.column):
        _refuse_unfit(like, str(look.kind), values[fitting.index(False)])
    return [
        _show(value, look if fits else PLAIN, locale, like.decimals, divided=divided)
        for value, fits in zip(values, fitting, strict=True)
    ]


def _fits_all(tally: Tally, look: Look) -> bool:
    """Tell whether a look that was said of all figures fits one: no date or count is an amount."""
    is_number = isinstance(tally.value, int | float | Decimal) and not isinstance(tally.value, bool)
    if look.kind == "date":
        return isinstance(tally.value, date)
    amount = look.kind == "currency" or bool(look.unit)
    counted = tally.request.kind in _OF_OTHER_UNITS or not _columns(tally)
    return tally.value is None or (is_number and not (amount and counted))


def _columns(tally: Tally) -> list[str]:
    """Return the columns that a figure, or what it was worked out from, measures."""
    own = [tally.request.column] if tally.request.column else []
    return [*own, *(name for part in tally.parts for name in _columns(part))]


def _fits(kind: str, value: Cell) -> bool:
    if value is None or isinstance(value, CellError):
        return True
    if kind == "date":
        return isinstance(value, date)
    return isinstance(value, int | float | Decimal) and not isinstance(value, bool)


def _refuse_unfit(tally: Tally, kind: str, value: Cell) -> NoReturn:
    what = "a date" if isinstance(value, date) else f"'{value}'"
    fact = f"{tally.name} is {what}, which is not shown as {kind}"
    raise CallError(f"{fact}\nSay a look that fits it, or none")


def show_like(tally: Tally, value: Cell | Fraction) -> str:
    """Return another value as a figure's own is shown: what it was, how far it moved."""
    divided = _is_divided(tally.request)
    return _show(value, _look(tally), current().locale, tally.decimals, divided=divided)


def _look(tally: Tally) -> Look:
    in_units = tally.request.kind not in _OF_OTHER_UNITS
    column = tally.request.column if in_units else None
    look = current().look(tally.name, column)
    if not current().is_said(tally.name, column) and not _fits_all(tally, look):
        look = PLAIN
    if look.kind is None and not look.unit and in_units:
        source = look_of_source(tally.shown_as)
        look = replace(look, kind=source.kind, code=source.code)
    of_one = look.kind is None and _is_of_one(tally.request)
    return replace(look, kind="percent") if of_one else look


def shape_of(like: Tally, values: Sequence[Cell | Fraction]) -> Shape:
    """Return how a cell of a workbook shows values of a measure: all with the same decimals."""
    look, divided = _look(like), _is_divided(like.request)
    return _shape(values, look, like.decimals, divided=divided)


def shape_of_cells(
    cells: Sequence[Cell], column: str, decimals: int, shown: str = ""
) -> Shape | None:
    """Return how a cell of a workbook shows the cells of a column; None as it is by itself."""
    look = current().look(column)
    look = look_of_source(shown) if look == PLAIN else look
    return None if look == PLAIN else _shape(cells, look, decimals, divided=False)


def _shape(values: Sequence[Cell | Fraction], look: Look, decimals: int, *, divided: bool) -> Shape:
    if look.kind == "date":
        return Shape("date", code=date_pattern(look.code, current().locale))
    numbers = [
        value * 100 if look.kind == "percent" else value
        for value in map(_plain, values)
        if isinstance(value, int | float | Decimal) and not isinstance(value, bool)
    ]
    places = [
        _places(number, look, decimals, divided=divided)[0] if math.isfinite(number) else 0
        for number in numbers
    ]
    most = max(places, default=0)
    if look.kind == "currency":
        return Shape(
            "currency", most, currency_place(look.code, current().locale), "", look.grouped
        )
    return Shape(look.kind or "number", most, "", look.unit, look.grouped)


def _plain(value: Cell | Fraction) -> Cell:
    return plain_amount(value) if isinstance(value, Fraction) else value


def is_percent(tally: Tally) -> bool:
    """Tell whether a figure is shown as percent."""
    return _look(tally).kind == "percent"


def move_words(tally: Tally, before: Cell, change: Cell | Fraction) -> str:
    """Return what a figure moved by and was: `▲ +9, was 96`; what it was where it is no number."""
    was = f"was {'no value' if before is None else show_like(tally, before)}"
    if change is None or not isinstance(change, int | float | Fraction):
        return was
    return f"{'▲ +' if change > 0 else '▼ '}{show_change(tally, change)}, {was}"


def show_change(like: Tally, change: Cell | Fraction) -> str:
    """Return how far a figure moved, as the figure is shown; percent moves by points."""
    look = _look(like)
    if look.kind != "percent" or isinstance(change, bool) or not isinstance(change, _NUMBERS):
        return show_like(like, change)
    decimals = _PERCENT_DECIMALS if look.decimals is None else look.decimals
    points = Look(kind="number", decimals=decimals, unit="points", grouped=look.grouped)
    return _show(change * 100, points, current().locale, decimals)


_NUMBERS = (int, float, Fraction, Decimal)


def rounded(tally: Tally, value: Cell) -> Fraction | None:
    """Return a figure as it is shown, as an exact number; None for what is no number."""
    if value is None or isinstance(value, bool) or not isinstance(value, int | float):
        return None
    look = _look(tally)
    number = value * 100 if look.kind == "percent" else value
    if not math.isfinite(number) or abs(number) >= _BEYOND:
        return None
    _, most = _places(number, look, tally.decimals, divided=_is_divided(tally.request))
    return Fraction(f"{number:.{most}f}")


def show_cell(value: Cell, column: str, decimals: int = 0, shown: str = "") -> str:
    """Return a cell of a column for a person; `shown` is how its source shows numbers."""
    if is_plain() and not shown:  # as most are, by the million
        return show_value(value, decimals)
    presentation = current()
    look = presentation.look(column)
    look = look_of_source(shown) if look == PLAIN else look
    return _show(value, look, presentation.locale, decimals)


def look_of_source(shown: str) -> Look:
    """Return the look of numbers that their source shows as percent, or with a sign of currency."""
    if shown == "percent":
        return _PERCENT
    return Look(kind="currency", code=shown) if shown else PLAIN


def _is_of_one(request: MeasureRequest) -> bool:
    """Tell whether a figure is a part of one, and so percent."""
    if request.kind in _AS_ITS_PART and request.parts:
        return all(map(_is_of_one, request.parts))
    return request.kind in _OF_ONE


def _is_divided(request: MeasureRequest) -> bool:
    if request.kind in _AS_ITS_PART and request.parts:
        return any(map(_is_divided, request.parts))
    return request.kind in _DIVIDED


def _show(
    value: Cell | Fraction,
    look: Look,
    locale: str | None,
    decimals: int,
    *,
    divided: bool = False,
) -> str:
    if isinstance(value, Fraction):
        value = plain_amount(value)
        value = float(value) if decimals and abs(value) < _BEYOND else value
    if isinstance(value, date):
        return show_date(value, look, locale)
    if isinstance(value, Decimal) and look == PLAIN and locale is None:
        return show_value(value)
    if isinstance(value, bool) or not isinstance(value, int | float | Decimal):
        return show_value(value)
    number = value * 100 if look.kind == "percent" else value
    if not math.isfinite(number):
        return show_value(value)
    least, most = _places(number, look, decimals, divided=divided)
    if locale is None and look in (PLAIN, _PERCENT):
        text = _plainly(number, least, most)
        return f"{text} %" if look.kind == "percent" else text
    return placed(number, look, locale or "en", least, most)


_PERCENT = Look(kind="percent")


def _places(
    number: float | Decimal, look: Look, decimals: int, *, divided: bool
) -> tuple[int, int]:
    """Return how many decimals are shown at the least and at the most."""
    if look.decimals is not None:
        return look.decimals, look.decimals
    if look.kind == "percent":
        least = most = max(_PERCENT_DECIMALS, decimals - 2)  # twelve percent are 0.12
        most += _MORE_DECIMALS if divided and decimals else 0
    elif look.kind == "currency":
        least = most = _minor_units(look.code)
        if len(look.code) < len("EUR") and not decimals and not divided:
            least = most = 0  # a sign that the source writes, of whole amounts
    elif divided:
        least, most = decimals, decimals + _MORE_DECIMALS
    else:
        least, most = decimals, max(decimals, 6)
    size: Any = abs(number)
    if 0 < size < 1 and look.kind != "currency":
        most = max(most, min(_MOST_PLACES, _LEAST_DIGITS - 1 - math.floor(math.log10(size))))
    rounded = (
        isinstance(number, float | Decimal) and size < _BEYOND and round(number, most) != number
    )
    return (most if rounded else least), most


def _minor_units(code: str) -> int:
    from babel.numbers import get_currency_precision

    return get_currency_precision(code)


def _plainly(number: Any, least: int, most: int) -> str:
    """Return a number with digits in groups, and no more decimals than it needs."""
    if isinstance(number, int):
        return f"{number:,}"
    if number and not 1e-12 <= abs(number) < _BEYOND:
        return str(number)
    whole, _, after = with_decimals(number, most).partition(".")
    after = after.rstrip("0")
    text = f"{whole}.{after:0<{least}}".rstrip(".")
    return text.removeprefix("-") if not text.strip("-0.,") else text
