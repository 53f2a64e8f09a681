"""Clusters of two workers, and their workers killed as machines lose them."""

import os
import signal
import time
from contextlib import contextmanager, suppress


@contextmanager
def two_workers(distributed):
    """Give a client of a scheduler and two workers, on the loopback address alone."""
    with (
        distributed.LocalCluster(
            n_workers=2,
            threads_per_worker=1,
            host="127.0.0.1",
            dashboard_address=None,
            silence_logs=50,
        ) as own,
        distributed.Client(own) as found,
    ):
        yield found


def kill_workers(client, count):
    """Kill so many workers, as many as there are if less; return the numbers of the processes."""
    pids = [each.pid for each in _ready(client)[:count]]
    for pid in pids:
        os.kill(pid, signal.SIGKILL)
    return pids


def settle(client):
    """Wait until the scheduler knows of those that were killed, and of those begun again."""
    deadline = time.monotonic() + 120
    while time.monotonic() < deadline:
        with suppress(OSError):
            if {*client.run(os.getpid).values()} == {each.pid for each in _ready(client)}:
                return
        time.sleep(0.1)
    raise TimeoutError("the workers do not come to rest")


def _ready(client):
    """Return the keepers of workers, when none of these is about to begin.

    One that is would not be begun again by its keeper; and a keeper may fail to, where the
    scheduler has not noticed yet that the name of the worker is free.
    """
    keepers, deadline = list(client.cluster.workers.values()), time.monotonic() + 120
    while time.monotonic() < deadline:
        ready = [each for each in keepers if each.status.name == "running" and each.is_alive()]
        if ready and all(each in ready or each.status.name == "failed" for each in keepers):
            return ready
        time.sleep(0.05)
    raise TimeoutError("no worker begins")
