"""What a screen has to do with files, given to it by whoever opens it."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from even_sieve.core.session import Session
from even_sieve.core.table import Table


@dataclass(frozen=True)
class Surroundings:
    """What a screen has to do with files, given to it by whoever opens it.

    `changed` tells whether a file is another one than was read, `read_again` reads it. `save`
    writes the criteria as a range, `add` the block to a report; both return what is told.
    """

    title: str
    changed: Callable[[], bool]
    read_again: Callable[[], Table]
    save: Callable[[Session, Path], str]
    add: Callable[[Session, Path], str]
