"""Clusters: reached, or begun on this machine, and looked at before they are given work."""

import asyncio
import atexit
import logging
import os
import platform
import signal
from collections.abc import Iterator
from concurrent import futures
from contextlib import contextmanager
from importlib import import_module, metadata
from multiprocessing import resource_tracker
from tempfile import TemporaryDirectory
from typing import Any
from warnings import catch_warnings, simplefilter

from even_sieve.core.errors import CallError, NotInstalled
from even_sieve.sources.ahead import Ahead

#: The word for workers on this machine.
HERE = "here"
_PATIENCE = "15s"
#: Workers give memory back to the system whenever an array goes, and get it again page by page,
#: which takes as long as the arithmetic: those begun here keep it between blocks.
_KEPT = str(1 << 29)
_MEMORY = {
    f"distributed.nanny.pre-spawn-environ.MALLOC_{name}_THRESHOLD_": _KEPT
    for name in ("TRIM", "MMAP")
}
#: What comes of a cluster that is not there any more.
GONE = (OSError, asyncio.CancelledError, futures.CancelledError)
#: The packages that must be the same wherever a table is read.
_ALIKE = ("even-sieve", "numpy", "pyarrow")


def gone() -> CallError:
    """Return the refusal of what was asked of a cluster that is not there any more."""
    return CallError("the cluster is gone\nNothing of what it read was kept: ask again")


@contextmanager
def client_of(cluster: Any) -> Iterator[Any]:
    """Give a client of a cluster; one that was begun here is ended here."""
    try:
        distributed: Any = import_module("distributed")
    except ImportError as error:
        raise NotInstalled("clusters", "cluster") from error
    if isinstance(cluster, distributed.Client):
        yield cluster
        return
    for logger in ("distributed", "asyncio"):
        logging.getLogger(logger).setLevel(logging.CRITICAL)  # errors are told by us
    if cluster == HERE:
        with (
            TemporaryDirectory() as folder,
            import_module("dask").config.set({"temporary-directory": folder, **_MEMORY}),
            _begun(distributed) as own,
            distributed.Client(own) as client,
        ):
            yield client
        return
    try:
        client = distributed.Client(str(cluster), timeout=_PATIENCE)
    except (OSError, ValueError, ImportError) as error:
        words = " ".join(str(error).split())[:160]
        fact = f"no cluster answers at {cluster}: {words}"
        hint = f"Is a scheduler there? --cluster {HERE} starts workers on this machine"
        raise CallError(f"{fact}\n{hint}") from None
    with client:
        yield client


def _begun(distributed: Any) -> Any:
    """Return a cluster of workers on this machine, reached from nowhere else."""

    def begin() -> Iterator[Any]:
        # A terminal interrupts all processes that were begun in it: workers, which are begun on
        # this thread or on one that it begins, are to leave that to the one who reads.
        if hasattr(signal, "pthread_sigmask"):
            resource_tracker.ensure_running()  # else the first worker begins it, and unblocks
            signal.pthread_sigmask(signal.SIG_BLOCK, {signal.SIGINT})
        yield distributed.LocalCluster(
            n_workers=len(os.sched_getaffinity(0)),
            threads_per_worker=1,
            host="127.0.0.1",
            dashboard_address=None,
            silence_logs=logging.CRITICAL,
        )

    try:
        with catch_warnings():
            simplefilter("ignore")  # of other workers on this machine
            with Ahead(begin) as made:
                return next(made)
    except KeyboardInterrupt:
        # What would end workers that never began waits for them in vain.
        atexit.unregister(import_module("distributed.deploy.spec").close_clusters)
        raise
    except (RuntimeError, OSError) as error:
        hint = "In a program call it below: if __name__ == '__main__':"
        raise CallError(f"no workers could be begun on this machine\n{hint}") from error


def _versions() -> dict[str, str]:
    """Return what must be the same on every machine."""
    own = {name: metadata.version(name) for name in _ALIKE}
    return {"Python": ".".join(platform.python_version_tuple()[:2]), **own}


def refuse_unlike(client: Any) -> None:
    """Raise `CallError` for a cluster without workers, or with one of another version."""
    try:
        client.wait_for_workers(1, timeout=_PATIENCE)
        every = client.run(_versions)
    except TimeoutError:
        raise CallError("the cluster has no worker\nStart one: dask worker ADDRESS") from None
    except GONE as error:
        raise gone() from error
    except Exception as error:  # whatever a worker without our package fails with
        words = " ".join(str(error).split())[:160]
        fact = f"a worker of the cluster cannot run Even Sieve: {words}"
        raise CallError(f'{fact}\nInstall there too: pip install "even-sieve[cluster]"') from None
    own = _versions()
    for worker, versions in every.items():
        other = [name for name in own if versions.get(name) != own[name]]
        if other:
            said = ", ".join(f"{name} {versions.get(name)} and not {own[name]}" for name in other)
            raise CallError(f"worker {worker} has {said}\nThe same versions give the same bits")
