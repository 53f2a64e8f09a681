"""Dates with the name of a month, and others that people and programs write out."""

import re
from datetime import date

from even_sieve.core.cells.date_parts import NOWHERE, SPACES, DateParts

_ENGLISH = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
#: How names of months begin, in English and in some other languages.
_MONTHS = (
    *_ENGLISH, "abr", "ago", "aoû", "aou", "avr", "déc", "dez", "dic", "ene", "fev", "fév", "gen",
    "giu", "jui", "lug", "maa", "mag", "mai", "mär", "mei", "mrt", "okt", "ott", "out", "set",
)  # fmt: skip
_WEEKDAYS = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
#: How a date may begin that does not begin with a digit.
NAMES = frozenset((*_ENGLISH, *_WEEKDAYS))
_MONTH = rf"(?i:{'|'.join(_MONTHS)})[^\W\d]{{0,6}}\.?"
#: In English whole, for much else begins as they do.
_WORD = (
    r"(?i:jan(?:uary)?|feb(?:ruary)?|mar(?:ch)?|apr(?:il)?|may|june?|july?|aug(?:ust)?"
    r"|sept?(?:ember)?|oct(?:ober)?|nov(?:ember)?|dec(?:ember)?)\.?"
)
_DAY_OF = rf"(?:(?i:{'|'.join(_WEEKDAYS)})[a-z]{{0,6}}\.?,? )?"
#: What follows a day: a time, maybe of one half of the day, and where it holds.
CLOCK = (
    r"(?:[T ,]+(?:(?:kl\.?|à|um|at) )?\d{1,2}(?:h|[:.h]\d{2}(?:[:.]\d{2}(?:[.,]\d+)?)?)"
    rf"(?:[{SPACES}]?[AaPp]\.?[Mm]\.?)?"
    r"(?: ?(?:[A-Z]{3,4}|Uhr|Z|[+-]\d{2}:?\d{2}))?)?"
)
#: Days with the name of a month, and years and months alone that begin with one.
NAMED = (
    rf"{_DAY_OF}\d{{1,2}}(?:\.|st|nd|rd|th)?(?:[-/ ]|\. ?)?{_MONTH}(?:,? |[-/])?\d{{4}}"
    rf"|{_DAY_OF}{_WORD}(?:[-/ ]\d{{1,2}}(?:\.|st|nd|rd|th)?,?)?[-/ ]\d{{4}}"
    r"|\d{4}年\d{1,2}月\d{1,2}日"
)
_DAY_FIRST = re.compile(
    rf"{_DAY_OF}(?P<day>\d{{1,2}})(?:\.|st|nd|rd|th)?(?:[-/ ]|\. ?)?(?P<month>[^\W\d]{{3,9}})\.?"
    r"(?:,? |[-/])?(?P<year>\d{4})(?P<rest>.*)\Z"
)
_MONTH_FIRST = re.compile(
    rf"{_DAY_OF}(?P<month>[^\W\d]{{3,9}})\.?[-/ ](?P<day>\d{{1,2}})(?:\.|st|nd|rd|th)?,?[-/ ]"
    r"(?P<year>\d{4})(?P<rest>.*)\Z"
)
_MONTH_ALONE = re.compile(rf"(?P<month>{_WORD})[-/ ](?P<year>\d{{4}})\Z", re.ASCII)
_CHINESE = re.compile(r"(?P<year>\d{4})年(?P<month>\d{1,2})月(?P<day>\d{1,2})日(?P<rest>.*)\Z")
_FULL = (
    "january", "february", "march", "april", "may", "june", "july", "august", "september", "sept",
    "october", "november", "december",
)  # fmt: skip


def read_named_date(text: str) -> date | None:
    """Return the date that a text writes out with the name of a month in English, or None.

    A time may follow, of twelve hours too, and `UTC`.

    >>> [str(read_named_date(each)) for each in ("05-May-2031", "March 3, 2031", "2031年5月6日")]
    ['2031-05-05', '2031-03-03', '2031-05-06']
    >>> str(read_named_date("Mon, 5 May 2031 02:30 PM")), read_named_date("31-Jun-2031")
    ('2031-05-05 14:30:00', None)
    """
    parts = named_parts(text)
    return None if parts is None else parts.read(text)


def named_parts(text: str) -> DateParts | None:
    """Return where the parts of such a date stand in a text, to which all digits are alike."""
    found = _DAY_FIRST.match(text) or _MONTH_FIRST.match(text) or _CHINESE.match(text)
    if found is None:
        return None
    name, month, named = found["month"].lower(), NOWHERE, 0
    if name.isdecimal():
        month = found.span("month")
    elif name in _ENGLISH or name in _FULL:
        named = _ENGLISH.index(name[:3]) + 1
    else:
        return None
    parts = DateParts(found.span("year"), month, found.span("day"), named)
    return parts.with_clock(text, found.start("rest"), in_utc=True)


def read_named_month(text: str) -> str:
    """Return the month of a year that a text writes with its name in English; maybe none.

    >>> read_named_month("May 2031"), read_named_month("Sept-2031"), read_named_month("Marina 2031")
    ('2031-05', '2031-09', '')
    """
    found = _MONTH_ALONE.match(text)
    if found is None:
        return ""
    return f"{found['year']}-{_ENGLISH.index(found['month'][:3].lower()) + 1:02d}"
