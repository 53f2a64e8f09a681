"""Workers of a cluster killed, as machines lose them: those that are begun again afterwards."""

import os
import signal
import time


def kill_workers(client, count):
    """Kill so many workers; one that is about to begin would not be begun again by its keeper."""
    keepers, deadline = list(client.cluster.workers.values()), time.monotonic() + 120
    while not all(each.status.name == "running" and each.is_alive() for each in keepers):
        assert time.monotonic() < deadline, "a worker does not begin"
        time.sleep(0.05)
    for each in keepers[:count]:
        os.kill(each.pid, signal.SIGKILL)
