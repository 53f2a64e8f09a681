"""How long something takes, for the benchmarks."""

import time
from collections.abc import Callable


def typical(work: Callable[[], object], rounds: int) -> float:
    """Return the median of so many runs, in seconds."""
    times = []
    for _ in range(rounds):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return sorted(times)[len(times) // 2]
