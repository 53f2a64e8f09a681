"""Texts and dates as the cells of ISO/IEC 29500 store them."""

import re
from datetime import date, datetime, time, timedelta

from even_sieve.sinks.packing import escaped

EPOCH, NO_DAY = datetime(1899, 12, 30), 61
#: What would be read as a letter (22.9.2.19).
_SPELT = re.compile("_(?=x[0-9A-Fa-f]{4}_)")


def days(value: date) -> float:
    """Return a date as a number of days, as the standard stores it (ISO/IEC 29500-1, 18.17.4).

    They count a 29 February 1900, which was none: the days before it stand one later.
    """
    moment = value if isinstance(value, datetime) else datetime.combine(value, time())
    found = (moment - EPOCH) / timedelta(days=1)
    return found - 1 if 1 <= found < NO_DAY else found


def stored(text: str) -> str:
    """Return a text as XML; one that looks as if it spelt a letter by its code spells its `_`."""
    return escaped(_SPELT.sub("_x005F_", text) if "_x" in text else text)
