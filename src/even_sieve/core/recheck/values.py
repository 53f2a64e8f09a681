"""A value without quotes, read once more: number, day, moment, period, yes/no, or text.

Dates are read by the standard library, periods by counting months; nothing is shared with the
way in which criteria are read at first.
"""

from calendar import monthrange
from datetime import date, datetime, timedelta
from decimal import Decimal, InvalidOperation

from even_sieve.core.criteria.operands import Number, Period, Text, YesNo

_DAY = 86_400_000_000
_EPOCH = date(1970, 1, 1).toordinal()
_MONTHS = {"month": 1, "quarter": 3, "year": 12}
_YES_NO = {"yes": True, "no": False, "true": True, "false": False}
_DIGITS = frozenset("0123456789")
Value = Number | Period | YesNo | Text


def value_as_written(text: str, today: date, fiscal_start: int) -> Value:
    """Return what a value without quotes is, by itself.

    >>> value_as_written("2031-Q1", date(2031, 5, 1), 1).end // 86_400_000_000
    22370
    """
    number = _number(text)
    if number is not None:
        return Number(number, text)
    span = _moment(text) or _period(text, today, fiscal_start)
    if span is not None:
        return Period(*span, text)
    if text.lower() in _YES_NO:
        return YesNo(_YES_NO[text.lower()], text)
    return Text(text, bare=True)


def _number(text: str) -> Decimal | None:
    mantissa, mark, exponent = text.lower().partition("e")
    digits = mantissa.lstrip("+-")
    whole, _, after = digits.partition(".")
    if (
        len(mantissa) - len(digits) > 1
        or not whole + after
        or not _DIGITS.issuperset(whole + after)
    ):
        return None
    if (len(whole) > 1 and whole[0] == "0") or (text == whole and len(whole) > 18):
        return None
    power = exponent[1:] if exponent[:1] in ("+", "-") else exponent
    if mark and not (1 <= len(power) <= 4 and _DIGITS.issuperset(power)):
        return None
    try:
        return Decimal(text)
    except InvalidOperation:
        return None


def _moment(text: str) -> tuple[int, int] | None:
    """Return the first microsecond of an ISO date or time, and the one after its last."""
    parts = _parts(text)
    if parts is None or len(text) > 40:
        return None
    day, clock = parts
    try:
        start = _micros(datetime.fromisoformat(day))
        if not clock:
            return start, start + _DAY
        at = start + _clock(clock)
        datetime(1970, 1, 1) + timedelta(microseconds=at)
    except (ValueError, OverflowError):
        return None
    return at, at + 1


def _parts(text: str) -> tuple[str, str] | None:
    """Return the day as `2031-01-05` and the time of an ISO date; None if it looks like none."""
    if len(text) > 8 and text[8] in "Tt" and _DIGITS.issuperset(text[:8]):
        return f"{text[:4]}-{text[4:6]}-{text[6:8]}", text[9:]
    day, mark, clock = text[:10], text[10:11], text[11:]
    if len(day) < 10 or (day[4], day[7]) != ("-", "-") or bool(mark) != bool(clock):
        return None
    spaced = mark == " " and clock[2:3] == ":"
    return (day, clock) if not mark or mark in "Tt" or spaced else None


def _clock(text: str) -> int:
    """Return the microseconds from midnight, and from the offset. Raises `ValueError`."""
    extra = 0
    if text[:2] == "24":
        text, extra = f"00{text[2:]}", _DAY
    plain = text.upper().replace(",", ".")
    cut = max(plain.find(sign) for sign in "Z+-")
    offset = "" if cut < 0 else plain[cut:]
    plain = plain[:cut].strip() if cut >= 0 else plain
    head, point, fraction = plain.partition(".")
    if point and not (fraction and _DIGITS.issuperset(fraction)):
        raise ValueError(text)
    found = datetime.fromisoformat(f"1970-01-01T{head}")
    if extra and (found.hour or found.minute or found.second or fraction[:6].strip("0")):
        raise ValueError(text)
    if offset and offset != "Z":
        shifted = datetime.fromisoformat(f"1970-01-01T00:00{offset}").utcoffset()
        extra -= (shifted or timedelta()) // timedelta(microseconds=1)
    return _micros(found) + extra + int(f"{fraction[:6]:0<6}")


def _micros(at: datetime) -> int:
    return (at - datetime(1970, 1, 1)) // timedelta(microseconds=1)


def _period(text: str, today: date, fiscal_start: int) -> tuple[int, int] | None:
    try:
        days = _calendar(text) or _named(text.lower().split(), today, fiscal_start)
    except ValueError:
        return None
    return None if days is None else (days[0] * _DAY, days[1] * _DAY)


def _calendar(text: str) -> tuple[int, int] | None:
    """Return the days of a month, quarter or ISO week, from the first to after the last."""
    year, rest = text[:4], text[4:].lower()
    number = rest[-2:]
    if len(year) < 4 or not _DIGITS.issuperset(year):
        return None
    if len(rest) == 3 and rest[0] == "-" and _DIGITS.issuperset(number):
        if not 1 <= int(number) <= 12:
            return None
        return _months(int(year) * 12 + int(number) - 1, 1)
    rest = rest.removeprefix("-")
    if len(rest) == 2 and rest[0] == "q" and rest[1] in "1234":
        return _months(int(year) * 12 + 3 * int(rest[1]) - 3, 3)
    if len(rest) == 3 and rest[0] == "w" and _DIGITS.issuperset(number):
        monday = date.fromisocalendar(int(year), int(number), 1).toordinal() - _EPOCH
        return _within(monday), _within(monday + 7)
    return None


def _named(words: list[str], today: date, fiscal_start: int) -> tuple[int, int] | None:
    """Return the days of a period that hangs on the as-of date or the fiscal year."""
    here = today.toordinal() - _EPOCH
    match words:
        case ["yesterday" | "today" | "tomorrow" as word]:
            first = here + ("yesterday", "today", "tomorrow").index(word) - 1
            return _within(first), _within(first + 1)
        case ["last" | "next" as way, count, unit] if _DIGITS.issuperset(count):
            return _rolling(way, int(count), unit.removesuffix("s"), today)
        case ["this" | "previous" | "next" as which, *unit]:
            return _unit(" ".join(unit), ("previous", "this", "next").index(which) - 1, today,
                         fiscal_start)  # fmt: skip
        case [*unit, "to", "date"]:
            whole = _unit(" ".join(unit), 0, today, fiscal_start)
            return None if whole is None else (whole[0], here + 1)
    name = " ".join(words)
    return (
        _fiscal(name.removeprefix("fy").removeprefix(" "), fiscal_start)
        if name[:2] == "fy"
        else None
    )


def _fiscal(name: str, fiscal_start: int) -> tuple[int, int] | None:
    year, quarter = name[:4], name[4:].removeprefix("-")
    if len(year) < 4 or not _DIGITS.issuperset(year):
        return None
    first = int(year) * 12 + fiscal_start - 1 - (12 if fiscal_start > 1 else 0)
    if not quarter:
        return _months(first, 12)
    if len(quarter) == 2 and quarter[0] == "q" and quarter[1] in "1234":
        return _months(first + 3 * int(quarter[1]) - 3, 3)
    return None


def _unit(unit: str, step: int, today: date, fiscal_start: int) -> tuple[int, int] | None:
    """Return the days of a whole calendar unit, so many units from the one of a day."""
    if unit == "week":
        monday = today.toordinal() - _EPOCH - today.weekday() + 7 * step
        return _within(monday), _within(monday + 7)
    length = _MONTHS.get(unit.removeprefix("fiscal "))
    if length is None or unit == "fiscal month":
        return None
    shift = fiscal_start - 1 if unit.startswith("fiscal") else 0
    first = (today.year * 12 + today.month - 1 - shift) // length * length + shift
    return _months(first + step * length, length)


def _rolling(way: str, count: int, unit: str, today: date) -> tuple[int, int] | None:
    here, back = today.toordinal() - _EPOCH, way == "last"
    if unit in ("day", "week"):
        days = count * (7 if unit == "week" else 1)
        other = here - days if back else here + days
    elif unit in _MONTHS:
        months = _MONTHS[unit] * count * (-1 if back else 1)
        other = _same_day(today, today.year * 12 + today.month - 1 + months)
    else:
        return None
    low, high = (other, here) if back else (here, other)
    return _within(low + 1), _within(high + 1)


def _same_day(today: date, month: int) -> int:
    """Return the same day of another month (counted from year 0), or the last that it has."""
    year, place = divmod(month, 12)
    if not 1 <= year <= 9999:
        return _first_day(month) - (year < 1)
    return _first_day(month) + min(today.day, monthrange(year, place + 1)[1]) - 1


def _months(first: int, count: int) -> tuple[int, int]:
    return _first_day(first), _first_day(first + count)


def _first_day(month: int) -> int:
    """Return the first day of a month counted from year 0, as far as the calendar goes."""
    year, place = divmod(month, 12)
    if year < 1:
        return date.min.toordinal() - _EPOCH
    if year > 9999:
        return date.max.toordinal() - _EPOCH + 1
    return date(year, place + 1, 1).toordinal() - _EPOCH


def _within(day: int) -> int:
    return min(max(day, date.min.toordinal() - _EPOCH), date.max.toordinal() - _EPOCH + 1)
