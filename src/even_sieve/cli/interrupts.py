"""Ctrl-C, remembered: libraries below may swallow what it raises, or make another error of it."""

import signal
from types import FrameType

_seen = False


def heed_interrupts() -> None:
    """Remember an interrupt besides raising it, where Python would raise it."""
    global _seen
    _seen = False
    if signal.getsignal(signal.SIGINT) is signal.default_int_handler:
        signal.signal(signal.SIGINT, _interrupt)


def interrupted() -> bool:
    """Whether an interrupt came, whatever has become of it."""
    return _seen


def _interrupt(number: int, frame: FrameType | None) -> None:
    global _seen
    _seen = True
    raise KeyboardInterrupt
