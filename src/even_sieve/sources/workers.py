"""The workers of a cluster, given work on files."""

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from importlib import import_module
from threading import Thread, current_thread, main_thread
from typing import Any
from weakref import finalize

from even_sieve.core.errors import CallError, SieveError, SourceError
from even_sieve.sources.schedulers import GONE, client_of, gone, refuse_unlike

#: What is sent with a task is what it needs: nobody is to be warned of it.
_LARGE = {"distributed.admin.large-graph-warning-threshold": "1TB"}
#: So many tasks a worker has at the most.
_TASKS = 16


@contextmanager
def workers(cluster: Any, tell: Callable[[float], None] | None) -> Iterator["Workers"]:
    """Give the workers of a cluster: of the address of a scheduler, of `here`, of a client.

    Raises `CallError` where it cannot be reached, has no worker or another version.
    """
    with client_of(cluster) as client:
        refuse_unlike(client)
        yield Workers(client, tell)


@dataclass(frozen=True)
class _Failed:
    """What a worker could not do."""

    text: str
    worker: str
    number: int


def _attempt(do: Callable[[Any], Any], things: Sequence[Any]) -> "list[Any] | _Failed":
    """Do something to some things on a worker; what cannot be done comes back to be told."""
    from distributed import get_worker

    found: list[Any] = []
    for thing in things:
        try:
            found.append(do(thing))
        except SieveError as error:
            return _Failed(str(error), get_worker().address, len(found))
    return found


class Workers:
    """The workers of a cluster, which do the work on files; `tell` is told which share is done."""

    def __init__(self, client: Any, tell: Callable[[float], None] | None) -> None:
        self._client, self._tell = client, tell
        self._distributed: Any = import_module("distributed")
        self._set: Callable[..., Any] = import_module("dask").config.set

    def _submit(self, *given: Any) -> Any:
        try:
            with self._set(_LARGE):
                return self._client.submit(*given, pure=False)
        except Exception as error:
            if type(error).__module__.split(".")[0] != "distributed":
                raise
            raise gone() from error  # a client that was closed

    def telling(self, start: float, stop: float) -> "Workers":
        """Return the same workers, whose work is a part of a longer one."""
        tell = self._tell
        if tell is None:
            return self
        return Workers(self._client, lambda done: tell(start + (stop - start) * done))

    def stay(self, ending: Callable[[], None]) -> None:
        """Have the cluster kept until nobody holds this any more; then it is ended."""
        finalize(self, _end, ending)

    def share(self, do: Callable[[Any], Any], things: Sequence[Any]) -> list[Any]:
        """Return what comes of each thing, in order. Raises `SourceError` for one that fails."""
        return self._in_order(self._begun(do, things))

    def _begun(
        self, do: Callable[[Any], Any], things: Sequence[Any]
    ) -> list[tuple[Any, Sequence[Any]]]:
        """Have something done to things; return the tasks, and which things each has."""
        # A task takes some milliseconds: of many things each has several.
        size = len(things) // (_TASKS * len(self._client.ncores())) + 1
        some = [things[start : start + size] for start in range(0, len(things), size)]
        return [(self._submit(_attempt, do, each), each) for each in some]

    def _in_order(self, work: Sequence[tuple[Any, Sequence[Any]]]) -> list[Any]:
        """Return what comes of each thing of tasks, in order, telling which share is done."""
        places = {task.key: number for number, (task, _) in enumerate(work)}
        found: list[list[Any]] = [[] for _ in work]
        tasks = [task for task, _ in work]
        try:
            for done, task in enumerate(self._distributed.as_completed(tasks), 1):
                number = places[task.key]
                found[number] = self._result(task, work[number][1])
                task.release()
                if self._tell is not None:
                    self._tell(done / len(work))
        except BaseException:
            _give_up(tasks)
            raise
        return [each for own in found for each in own]

    def keep(self, do: Callable[[Any], Any], things: Sequence[Any]) -> "list[tuple[Any, int]]":
        """Have something done to each thing; return the task of each, and which of its things."""
        return [
            (task, number) for task, some in self._begun(do, things) for number in range(len(some))
        ]

    def looks_at(
        self, look: Callable[[Any], Any], kept: "Sequence[tuple[Any, int]]", things: Sequence[Any]
    ) -> list[Any]:
        """Return what a look at each result that is kept gives, in order.

        Raises `SourceError` for a thing that failed.
        """
        tasks = {task.key: task for task, _ in kept}
        own: dict[str, list[Any]] = {key: [] for key in tasks}
        for (task, _), thing in zip(kept, things, strict=True):
            own[task.key].append(thing)
        try:
            return self._in_order(
                [(self._submit(_looked_at, look, task), own[key]) for key, task in tasks.items()]
            )
        except BaseException:
            _give_up([*tasks.values()])
            raise

    def begin(self, do: Callable[..., Any], *given: Any) -> Any:
        """Have something done by any worker; what is given may hold tasks that come first."""
        return self._submit(do, *given)

    def hold(self, thing: Any) -> Any:
        """Have workers hold a thing for tasks: made again if the worker that has it is lost."""
        return self._submit(_same, thing)

    def results(
        self,
        tasks: Sequence[Any],
        watched: Sequence[Any] = (),
        tell: Callable[[int], None] = lambda _: None,
    ) -> list[Any]:
        """Return the results of tasks, in order; `tell` is told the number of each watched one.

        Raises `CallError` where the cluster is gone, or workers are lost again and again.
        """
        places = {task.key: number for number, task in enumerate(watched)}
        try:
            for task in self._distributed.as_completed(watched) if watched else ():
                if task.status != "finished":
                    break  # those that wait for it tell why
                tell(places[task.key])
            found: list[Any] = self._client.gather([*tasks])
            return found
        except self._distributed.KilledWorker as error:
            fact = f"{error.allowed_failures + 1} workers were lost over the same rows"
            raise CallError(f"{fact}\nHave they too little memory?") from None
        except GONE as error:
            raise gone() from error
        except BaseException:
            _give_up([*tasks, *watched])
            raise

    def _result(self, future: Any, things: Sequence[Any]) -> list[Any]:
        try:
            result = future.result()
        except self._distributed.KilledWorker as error:
            fact = f"{error.allowed_failures + 1} workers were lost while they read it"
            hint = "Is it too large for the memory of a worker?"
            raise SourceError(_path_of(things[0]), fact, hint) from None
        except GONE as error:
            raise gone() from error
        if isinstance(result, _Failed):
            fact = f"worker {result.worker} cannot read it"
            raise SourceError(_path_of(things[result.number]), fact, result.text)
        kept: list[Any] = result
        return kept


def _same(thing: Any) -> Any:
    return thing


def _give_up(tasks: Sequence[Any]) -> None:
    """Take tasks back: what nobody wants any more is not begun, and forgotten."""
    for task in tasks:
        task.release()


def read_again(found: "list[Any] | _Failed", path: str) -> list[Any]:
    """Return what was read once more, where the worker that had it was lost.

    Raises `SourceError` if it cannot be read any more.
    """
    if isinstance(found, _Failed):
        raise SourceError(path, f"worker {found.worker} cannot read it again", found.text)
    return found


def _looked_at(look: Callable[[Any], Any], found: "list[Any] | _Failed") -> "list[Any] | _Failed":
    return found if isinstance(found, _Failed) else [look(each) for each in found]


def _end(ending: Callable[[], None]) -> None:
    """End a cluster; not on a thread of its own, which would wait for itself."""
    if current_thread() is main_thread():
        ending()
    else:
        Thread(target=ending).start()


def _path_of(thing: Any) -> str:
    """Return the file that a worker was given."""
    first = thing[0] if isinstance(thing, tuple) else thing
    return str(getattr(first, "path", first))
