"""Pieces of long work shared out to a second process, and put together in their order.

What takes Python code for every cell keeps one processor busy, however many threads there are.
A piece that the second process cannot do, or none where there is none, is done here.
"""

import gc
import pickle
import signal
import sys
from collections import deque
from collections.abc import Callable, Iterator
from concurrent.futures import Future
from contextlib import suppress
from os import cpu_count
from pathlib import Path
from queue import SimpleQueue
from subprocess import DEVNULL, PIPE, Popen
from threading import Thread
from typing import IO, Any, Generic, TypeVar

Piece = TypeVar("Piece")
Made = TypeVar("Made")

#: Work of fewer bytes is done before a second process would have begun.
_LONG = 1 << 24
#: So many pieces the other process has at a time, and so many are held until their turn comes.
_AT_ONCE, _HELD = 2, 6
#: After so many pieces of which nothing was made, the others are left to their turn.
_TRIED = 3
_LENGTH = 8
_BEGIN = (
    "import sys, pickle; sys.path[:] = pickle.load(sys.stdin.buffer); "
    "from even_sieve.sources.second import serve; serve()"
)


class Shared(Generic[Piece, Made]):
    """Does pieces of work, on two processes where they are long; gives out what comes of them.

    `begin` (a function of a module) is given `given`, and returns what makes a piece; of what
    cannot be made it makes None. `size` is how many bytes of work there are.

    >>> from functools import partial
    >>> with Shared(partial, (abs,), 0) as work:
    ...     for number in (-1, 2):
    ...         work.give(number)
    ...     list(work.ready(every=True))
    [(-1, 1), (2, 2)]
    """

    def __init__(
        self,
        begin: Callable[..., Callable[[Piece], Made | None]],
        given: tuple[Any, ...],
        size: int,
    ) -> None:
        self._do = begin(*given)
        self._other: _Other | None = None
        self._begin = (begin, given) if size >= _LONG and (cpu_count() or 1) > 1 else None
        self._failed = 0
        self._waiting: deque[tuple[Piece, Future[Made | None]]] = deque()

    def __enter__(self) -> "Shared[Piece, Made]":
        if self._begin is not None and Path(sys.executable or "").stem.startswith("python"):
            with suppress(OSError):
                self._other = _Other(self._begin)
        return self

    def __exit__(self, *_: object) -> None:
        if self._other is not None:
            self._other.end()
            self._other = None

    def give(self, piece: Piece) -> None:
        """Take in the next piece."""
        if self._other is not None and self._other.open < _AT_ONCE and self._failed < _TRIED:
            self._waiting.append((piece, self._other.submit(piece)))
            return
        done: Future[Made | None] = Future()
        done.set_result(_tried(self._do, piece) if self._failed < _TRIED else None)
        self._waiting.append((piece, done))

    def ready(self, *, every: bool = False) -> Iterator[tuple[Piece, Made | None]]:
        """Yield the first pieces that are done, or every piece, in order, and what came of each."""
        waiting = self._waiting
        while waiting and (every or len(waiting) > _HELD or waiting[0][1].done()):
            piece, future = waiting.popleft()
            try:
                made = future.result()
            except (EOFError, OSError, pickle.PickleError):  # the other process is gone
                self.__exit__()
                made = _tried(self._do, piece)
            self._failed += made is None
            yield piece, made


def _tried(do: Callable[[Any], Any], piece: Any) -> Any:
    """Return what comes of a piece; None for one that fails: it is told when its turn comes."""
    with suppress(Exception):
        return do(piece)
    return None


class _Other:
    """The other process: pieces go into it, and come out in their order."""

    def __init__(self, begin: tuple[Callable[..., Any], tuple[Any, ...]]) -> None:
        words = [sys.executable, "-c", _BEGIN]
        self._process = Popen(words, stdin=PIPE, stdout=PIPE, stderr=DEVNULL)
        self._out: SimpleQueue[bytes | None] = SimpleQueue()
        self._back: SimpleQueue[Future[Any] | None] = SimpleQueue()
        self._given = self._taken = 0  # each is counted by one thread
        self._out.put(pickle.dumps(sys.path))
        self._out.put(pickle.dumps(begin))
        for run in (self._write, self._read):
            Thread(target=run, daemon=True).start()

    def submit(self, piece: Any) -> "Future[Any]":
        """Return what is to come of a piece."""
        future: Future[Any] = Future()
        self._given += 1
        self._back.put(future)
        self._out.put(_message(piece))
        return future

    @property
    def open(self) -> int:
        """How many pieces are on their way."""
        return self._given - self._taken

    def _write(self) -> None:
        into: IO[bytes] = self._process.stdin  # type: ignore[assignment]
        with suppress(OSError), into:
            while (message := self._out.get()) is not None:
                into.write(message)
                into.flush()

    def _read(self) -> None:
        out: IO[bytes] = self._process.stdout  # type: ignore[assignment]
        with out:
            while (future := self._back.get()) is not None:
                try:
                    future.set_result(_received(out))
                except BaseException as error:  # raised where it is waited for
                    future.set_exception(error if isinstance(error, Exception) else EOFError())
                self._taken += 1

    def end(self) -> None:
        """End the process, whatever it is doing."""
        self._out.put(None)
        self._back.put(None)
        self._process.kill()
        self._process.wait()


def _message(what: Any) -> bytes:
    content = pickle.dumps(what, protocol=pickle.HIGHEST_PROTOCOL)
    return len(content).to_bytes(_LENGTH, "big") + content


def _received(stream: IO[bytes]) -> Any:
    """Return what comes next. Raises `EOFError` at the end."""
    head = stream.read(_LENGTH)
    size = int.from_bytes(head, "big")
    content = stream.read(size)
    if len(head) < _LENGTH or len(content) < size:
        raise EOFError("the other process has ended")
    return pickle.loads(content)


def serve() -> None:
    """Make pieces until none comes: what the second process does."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the first one is interrupted, and ends this
    gc.disable()
    begin, given = pickle.load(sys.stdin.buffer)
    do = begin(*given)
    with suppress(EOFError, OSError):
        while True:
            sys.stdout.buffer.write(_message(_tried(do, _received(sys.stdin.buffer))))
            sys.stdout.buffer.flush()
