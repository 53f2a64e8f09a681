"""How a source is to be read."""

from dataclasses import dataclass


@dataclass(frozen=True)
class SourceOptions:
    """What a person can say about a source. `blank_as` are tokens that stand for a blank."""

    blank_as: tuple[str, ...] = ()
