"""Long arrays worked on by several threads: Arrow and NumPy need no interpreter meanwhile."""

from collections import deque
from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from os import cpu_count
from threading import local
from typing import Any, TypeVar

import pyarrow as pa

from even_sieve.core.table.arrays import spans

_Made = TypeVar("_Made")
#: Arrays of fewer rows are worked on sooner than they are shared out.
_LEAST = 1 << 16
_MOST = 4
#: So many things are made before they are asked for.
_AHEAD = 2
_here = local()


def side_by_side(work: Callable[[slice], _Made], rows: int) -> list[_Made]:
    """Return what is made of each stretch of so many rows, in their order, all made at one time.

    What is shared out already is not shared out again. The work asks for no `cached_property`:
    who waits for it may hold the lock of one, which is the same for all objects.

    >>> side_by_side(lambda rows: rows.stop - rows.start, 3)
    [3]
    """
    count = 1 if hasattr(_here, "shared") else min(cpu_count() or 1, _MOST, rows // _LEAST)
    size = -(-rows // count) if count > 1 else max(rows, 1)
    return all_at_once(work, list(spans(rows, size)) or [slice(0, 0)])


def all_at_once(work: Callable[[Any], _Made], things: Sequence[Any]) -> list[_Made]:
    """Return what is made of each of some things, in their order, a few made at one time."""
    if len(things) < 2:
        return list(map(work, things))
    with ThreadPoolExecutor(
        min(len(things), max(cpu_count() or 1, 2), _MOST),
        initializer=setattr,
        initargs=(_here, "shared", True),
    ) as pool:
        return list(pool.map(work, things))


def ahead_of(work: Callable[[Any], _Made], things: Iterable[Any]) -> Iterator[_Made]:
    """Yield what is made of each of some things, in their order; the next ones are made meanwhile.

    >>> list(ahead_of(len, ["a", "bb", "ccc"]))
    [1, 2, 3]
    """
    waiting: deque[Future[_Made]] = deque()
    with ThreadPoolExecutor(_AHEAD) as pool:
        for each in things:
            waiting.append(pool.submit(work, each))
            if len(waiting) > _AHEAD:
                yield waiting.popleft().result()
        while waiting:
            yield waiting.popleft().result()


def by_stretches(work: Callable[[Any], Any], strings: Any) -> Any:
    """Return the Arrow array of what is made of each string by itself.

    >>> import pyarrow.compute as pc
    >>> from even_sieve.sources.arrow_buffers import strings_of
    >>> by_stretches(pc.ascii_lower, strings_of(["Pier", "MOLE"])).to_pylist()
    ['pier', 'mole']
    """
    return joined(side_by_side(lambda rows: work(strings[rows]), len(strings)))


def joined(arrays: Sequence[Any]) -> Any:
    """Return Arrow arrays, one after the other, as one."""
    return arrays[0] if len(arrays) == 1 else pa.concat_arrays(arrays)
