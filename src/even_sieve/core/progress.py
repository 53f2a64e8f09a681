"""How far long work is, told to whoever listens; nobody does unless `heard_by` is entered.

Work says `for row in steps(rows, "rechecking")`, or makes one `Steps` and lets several threads
tell it. Telling takes no part in the work: a listener that nobody set costs a test an item.
"""

from collections.abc import Callable, Iterable, Iterator, Sized
from contextlib import contextmanager
from contextvars import ContextVar
from itertools import islice
from threading import Lock
from typing import TypeVar

_Item = TypeVar("_Item")
#: Told what is being done, and the share of it that is, 0 to 1; None for what is known to take
#: long, and not how far it is.
Listener = Callable[[str, float | None], None]

_LISTENER: ContextVar[Listener | None] = ContextVar("listener", default=None)
#: So often a run of steps is told, at most.
_TOLD = 200


@contextmanager
def heard_by(listener: Listener | None) -> Iterator[None]:
    """Let a listener hear how far the work is that is done meanwhile."""
    before = _LISTENER.set(listener)
    try:
        yield
    finally:
        _LISTENER.reset(before)


class Steps:
    """So many steps of one piece of work; may be told from several threads."""

    def __init__(self, what: str, count: int) -> None:
        self._what, self._count, self._done = what, max(count, 1), 0
        self._listener, self._lock = _LISTENER.get(), Lock()

    def took(self, count: int = 1) -> None:
        """Take note that so many more steps are done."""
        if self._listener is not None:
            with self._lock:
                self._done += count
                self._listener(self._what, min(1.0, self._done / self._count))


def tell(what: str, share: float | None = None) -> None:
    """Tell that a piece of work is under way, and the share that is done if it is known."""
    listener = _LISTENER.get()
    if listener is not None:
        listener(what, share)


def steps(items: Iterable[_Item], what: str, count: int | None = None) -> Iterable[_Item]:
    """Return the items, telling as they are taken how many of all `count` were."""
    if _LISTENER.get() is None:
        return items
    known = len(items) if count is None and isinstance(items, Sized) else count
    return _told(items, what, known) if known else items


def _told(items: Iterable[_Item], what: str, count: int) -> Iterator[_Item]:
    told, left = Steps(what, count), iter(items)
    told.took(0)
    while taken := list(islice(left, count // _TOLD + 1)):
        yield from taken
        told.took(len(taken))
