"""Something slow that is done beside the one who waits for it, and who can be interrupted."""

from collections.abc import Callable, Iterator
from contextlib import suppress
from queue import Empty, Full, Queue
from threading import Event, Thread
from typing import Any

_AT_ONCE, _MOMENT, _LAST_WAIT = 2, 0.1, 2.0


class Ahead:
    """What a generator gives, worked out on a thread of its own a little ahead.

    Code of other languages answers no Ctrl-C while it works: the one who waits does. The thread
    may go on then until it notices; it does not keep the process from ending.

    >>> with Ahead(lambda: iter("abc")) as letters:
    ...     list(letters)
    ['a', 'b', 'c']
    """

    def __init__(
        self, produce: Callable[[], Iterator[Any]], cancel: Callable[[], None] = lambda: None
    ) -> None:
        self._produce, self._cancel = produce, cancel
        self._made: Queue[tuple[str, Any]] = Queue(_AT_ONCE)
        self._left = Event()
        self._thread = Thread(target=self._run, daemon=True)

    def __enter__(self) -> Iterator[Any]:
        self._thread.start()
        return self._taken()

    def __exit__(self, *_: object) -> None:
        self._left.set()
        if self._thread.is_alive():
            with suppress(Exception):  # whatever it says: nobody waits for it any more
                self._cancel()
            self._thread.join(_LAST_WAIT)

    def _run(self) -> None:
        try:
            for each in self._produce():
                self._put("one", each)
                if self._left.is_set():
                    return
            self._put("end", None)
        except BaseException as error:  # raised where it is waited for
            self._put("error", error)

    def _put(self, kind: str, what: Any) -> None:
        while not self._left.is_set():
            try:
                self._made.put((kind, what), timeout=_MOMENT)
                return
            except Full:
                continue

    def _taken(self) -> Iterator[Any]:
        while True:
            try:
                kind, what = self._made.get(timeout=_MOMENT)
            except Empty:
                continue
            if kind == "error":
                raise what
            if kind == "end":
                return
            yield what
