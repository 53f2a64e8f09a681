"""Where the command line begins and ends: one boundary, one kind of ending for each cause.

Exit status: what the command says (0, 1, 2); 3 for a fault of Even Sieve; 130 when it is
interrupted; 141 when what reads its output has gone.
"""

import gc
import os
import signal
import sys
import traceback
from collections.abc import Sequence

from even_sieve.cli.interrupts import heed_interrupts, interrupted

#: Answers are hundreds of thousands of records without a cycle among them: to look for one after
#: every 700 takes longer than to make them.
_COLLECTING = 200_000, 20, 100
#: What click puts in the place of an output that nobody reads any more.
_OF_CLOSED_PIPE = "PacifyFlushWrapper"
_FAULT, _INTERRUPTED, _NO_READER = 3, 130, 141


def run(words: Sequence[str] | None = None) -> None:
    """Run the command of the words, those of the process if left out, and exit."""
    gc.set_threshold(*_COLLECTING)
    given = list(sys.argv[1:] if words is None else words)
    debug = given[:1] == ["--debug"]
    try:
        sys.exit(_heeded(given[1:] if debug else given))
    except (KeyboardInterrupt, InterruptedError):
        signal.signal(signal.SIGINT, signal.SIG_IGN)  # a second one changes nothing
        print("even-sieve: interrupted", file=sys.stderr)
        sys.exit(_INTERRUPTED)
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), 1)  # nothing more to flush
        sys.exit(_NO_READER)
    except OSError as error:
        why = error.strerror or type(error).__name__
        print(f"even-sieve: the output cannot be written: {why}", file=sys.stderr)
        os.dup2(os.open(os.devnull, os.O_WRONLY), 1)
        sys.exit(1)
    except Exception as error:
        if debug:
            traceback.print_exc()
        words_of_it = " ".join(f"{type(error).__name__}: {error}".split())[:300]
        print(
            f"even-sieve: this is a fault of Even Sieve, please report it: {words_of_it}\n"
            "With --debug before the command it shows where",
            file=sys.stderr,
        )
        sys.exit(_FAULT)


def _heeded(words: list[str]) -> int:
    """Return the exit status of a command; an interrupt ends it as one, whatever caught it."""
    heed_interrupts()
    try:
        status = _run(words)
    except Exception:
        if interrupted():
            raise KeyboardInterrupt from None
        raise
    if interrupted():
        raise KeyboardInterrupt
    return status


def _run(words: list[str]) -> int:
    """Return the exit status of a command; what it printed has left the process."""
    import click

    from even_sieve.cli.completion import VARIABLE, complete_commands
    from even_sieve.cli.main import main

    if VARIABLE in os.environ:
        complete_commands(main)
    try:
        found = main.main(args=words, prog_name="even-sieve", standalone_mode=False)
        sys.stdout.flush()
    except click.exceptions.Exit as error:
        return error.exit_code
    except click.Abort:
        raise KeyboardInterrupt from None
    except click.ClickException as error:
        error.show()
        return error.exit_code
    except SystemExit as error:
        if type(sys.stdout).__name__.endswith(_OF_CLOSED_PIPE):  # click met one
            raise BrokenPipeError from None
        sys.stdout.flush()
        return error.code if isinstance(error.code, int) else 1
    return found if isinstance(found, int) else 0
