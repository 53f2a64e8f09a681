"""Plain objects as JSON without spaces, by a fast writer where it writes the same."""

from decimal import Decimal

import orjson
import simplejson


def compact(plain: object, *, in_order: bool = False) -> str:
    """Return a plain object as JSON (RFC 8259) with no spaces; `in_order`, its keys sorted.

    Decimals keep all their digits. Raises `TypeError` for what JSON has no form of.

    >>> compact({"dues": Decimal("1.10"), "berth": "Ä1"}, in_order=True)
    '{"berth":"Ä1","dues":1.10}'
    """
    option = orjson.OPT_SORT_KEYS if in_order else None
    try:
        return orjson.dumps(plain, default=_exactly, option=option).decode()
    except TypeError:  # whole numbers beyond 64 bits, halves of letters
        text: str = simplejson.dumps(
            plain, sort_keys=in_order, separators=(",", ":"), ensure_ascii=False, allow_nan=False
        )
        return text


def _exactly(value: object) -> object:
    """Return what stands for a value in JSON that orjson does not know."""
    if isinstance(value, Decimal):
        return orjson.Fragment(str(value))
    if isinstance(value, float):  # a subclass, as NumPy's
        return float(value)
    raise TypeError(f"JSON has no form of a {type(value).__name__}")
