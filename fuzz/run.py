"""Try the product at random, as long as one likes: `python fuzz/run.py [SECONDS] [SEED]`.

Kinds of tries: questions whose figures an oracle knows (`figures`), damaged files (`damage`),
sound but odd ones of every format (`made`), words for the small grammars, loose (`words`) and in
sentences (`asked`), whole command lines (`calls`). Each runs in processes of bounded memory; what
goes wrong is named by its seed, which makes it again, and kept in tests/found.
"""

import faulthandler
import importlib
import json
import multiprocessing
import resource
import signal
import sys
import time
import traceback
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from itertools import chain, count
from pathlib import Path

#: The kinds, and how many of each are tried in a round.
KINDS = {"figures": 40, "damage": 320, "words": 6400, "made": 64, "asked": 128, "calls": 32}
_FOUND = Path(__file__).parent.parent / "tests" / "found"
_MEMORY = 2 << 30
_LONGEST = 5.0
_GIVEN_UP = 20
_BATCHES, _TOLD = 4, 5


def attempt(kind, seed):
    """Return what went wrong with a try in a line, and how long it took; an empty line if nothing."""
    begun = time.perf_counter()
    fault = ""
    signal.signal(signal.SIGALRM, _give_up)
    signal.alarm(_GIVEN_UP)
    faulthandler.dump_traceback_later(2 * _GIVEN_UP, exit=True)
    try:
        importlib.import_module(kind).check(seed)
    except (Exception, _Endless) as error:
        fault = f"{type(error).__name__}: {error} ({_place(error)})"
    finally:
        signal.alarm(0)
        faulthandler.cancel_dump_traceback_later()
    return fault, time.perf_counter() - begun


def tries_in(kind):
    """Return how many inputs one seed of a kind stands for."""
    return getattr(importlib.import_module(kind).check, "tries", 1)


class _Endless(BaseException):
    """A try does not end: no `except Exception` on its way may swallow this."""


def _give_up(_signal, _frame):
    raise _Endless(f"no end after {_GIVEN_UP} s")


def _place(error):
    last = traceback.extract_tb(error.__traceback__)[-1]
    return f"{Path(last.filename).name}:{last.lineno}"


def _batch(task):
    kind, seeds = task
    resource.setrlimit(resource.RLIMIT_AS, (_MEMORY, _MEMORY))
    return [(kind, seed, *attempt(kind, seed)) for seed in seeds]


def main(seconds=60.0, seed=None):
    """Try until the time is over, with new processes each round; return how many went wrong."""
    seed = seed or str(time.time_ns())
    tries, faults, slowest = dict.fromkeys(KINDS, 0), {}, 0.0
    begun = time.monotonic()
    for number in count():
        if time.monotonic() - begun >= seconds:
            break
        for kind, own, fault, took in _round(f"{seed}-{number}"):
            tries[kind] += tries_in(kind)
            took /= tries_in(kind)
            slowest = max(slowest, took)
            wrong = fault or (f"took {took:.1f} s" if took > _LONGEST else "")
            key = kind, wrong.split(":")[0] + wrong[-30:]
            if wrong and key not in faults:
                faults[key] = own
                _keep(kind, own, wrong)
        if number % _TOLD == 0:
            print(_told(seed, tries, faults, slowest), flush=True)
    print(_told(seed, tries, faults, slowest))
    return len(faults)


def _keep(kind, own, wrong):
    """Tell of a fault at once, and keep what makes it again."""
    print(f"{kind} {own}: {wrong[:300]}", flush=True)
    _FOUND.mkdir(exist_ok=True)
    (_FOUND / f"{kind}-{own}.json").write_text(json.dumps({"kind": kind, "seed": own}) + "\n")


def _round(seed):
    """Return what came of one round: the kind, the seed, the fault and the seconds of each try."""
    context = multiprocessing.get_context("spawn")
    tasks = []
    for kind, most in KINDS.items():
        names = [f"{seed}-{i}" for i in range(most)]
        tasks += [(kind, names[at::_BATCHES]) for at in range(_BATCHES)]
    with ProcessPoolExecutor(2, context) as pool:
        try:
            return list(chain.from_iterable(pool.map(_batch, tasks)))
        except BrokenProcessPool:
            return [("words", seed, "a process of this round died", 0.0)]


def _told(seed, tries, faults, slowest):
    shown = ", ".join(f"{count:,} {kind}" for kind, count in tries.items())
    every = f"{sum(tries.values()):,} tries ({shown})"
    return f"seed {seed}: {every}; {len(faults)} kinds of faults; the slowest took {slowest:.1f} s"


if __name__ == "__main__":
    given = sys.argv[1:]
    sys.exit(bool(main(float(given[0]) if given else 60.0, given[1] if given[1:] else None)))
