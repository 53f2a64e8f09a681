"""What a person passes by mistake: understood, or refused in one line with what is accepted."""

from collections.abc import Iterable, Mapping

import numpy as np

from even_sieve.core.errors import CallError


def called(value: object) -> str:
    """Return what a value is called: `a list`, `an int`, `None`."""
    if value is None:
        return "None"
    name = type(value).__name__
    return f"{'an' if name[:1].lower() in 'aeiou' else 'a'} {name}"


def refused(what: str, accepted: str, value: object) -> TypeError:
    """Return the error for a value of a type that is not accepted: `top must be …, not a list`."""
    return TypeError(f"{what} must be {accepted}, not {called(value)}")


def text_of(what: str, value: object, accepted: str = "a text") -> str:
    """Return a text. Raises `TypeError` for anything else."""
    if not isinstance(value, str):
        raise refused(what, accepted, value)
    return value


def texts_of(what: str, value: object, accepted: str = "a text or several") -> tuple[str, ...]:
    """Return texts that were given as one, or as several; none for None."""
    if value is None:
        return ()
    if isinstance(value, str):
        return (value,)
    if not isinstance(value, Iterable) or isinstance(value, Mapping | bytes):
        raise refused(what, accepted, value)
    return tuple(text_of(what, each, accepted) for each in value)


def whole_of(what: str, value: object, least: int) -> int:
    """Return a whole number from `least` on. Raises `TypeError`, `CallError` for a smaller one."""
    if isinstance(value, bool) or not isinstance(value, int | np.integer):
        raise refused(what, f"a whole number from {least} on", value)
    if value < least:
        raise CallError(f"{what} must be a whole number from {least} on, not {value}")
    return int(value)


def yes_no_of(what: str, value: object) -> bool:
    """Return yes or no. Raises `TypeError` for what only looks like it, such as a text."""
    if not isinstance(value, bool | np.bool_):
        raise refused(what, "True or False", value)
    return bool(value)
