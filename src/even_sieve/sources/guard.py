"""One boundary around every reader: what a file can do to a library comes out as ours.

The libraries that unpack and parse fail on damaged files in their own ways, and in many. A file
that they cannot take is a `SourceError` with the file's name; memory that runs out too.
"""

import gc
import os
import warnings
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from even_sieve.core.errors import SieveError, SourceError

#: How the libraries of the readers fail on damaged files, and files made to harm.
_FOREIGN = (
    ArithmeticError, AttributeError, EOFError, LookupError, MemoryError, NotImplementedError,
    OSError, RecursionError, RuntimeError, StopIteration, SyntaxError, TypeError, ValueError,
)  # fmt: skip


@contextmanager
def guarded(source: str) -> Iterator[None]:
    """Turn whatever a reader fails with into a `SourceError` that names the source."""
    try:
        with _without_collector(), warnings.catch_warnings():
            warnings.simplefilter("ignore")  # of other libraries: with paths of theirs in them
            yield
    except SieveError:
        raise
    except _FOREIGN as error:
        raise _damaged(source, error) from error
    except Exception as error:
        if type(error).__module__.split(".")[0] in ("builtins", "even_sieve"):
            raise
        raise _damaged(source, error) from error


def state_of(path: str | Path, source: str) -> tuple[int, int]:
    """Return what changes when a file does. Raises `SourceError` if it is gone."""
    try:
        stat = os.stat(path)
    except OSError as error:
        raise SourceError(
            source, f"the file is gone: {error.strerror}", "Put it back, and ask again"
        ) from None
    return stat.st_size, stat.st_mtime_ns


@contextmanager
def _without_collector() -> Iterator[None]:
    """Let cells be made by the million without looking for cycles among them; then as before."""
    collecting = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if collecting:
            gc.enable()


def _damaged(source: str, error: Exception) -> SourceError:
    if isinstance(error, MemoryError):
        return SourceError(source, "the file takes more memory than there is", "Read less of it")
    if isinstance(error, RecursionError):
        return SourceError(source, "what it holds is nested too deep", "Save it again")
    words = " ".join(str(error).split())[:160]
    fact = f"the file is damaged, or not what its ending says ({type(error).__name__}"
    return SourceError(source, f"{fact}{': ' if words else ''}{words})", "Save it again")
