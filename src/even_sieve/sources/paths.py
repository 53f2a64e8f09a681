"""Paths as a person gives them."""

import os
from pathlib import Path
from typing import Any

from even_sieve.core.understood import refused


def path_of(what: str, value: Any) -> str | Path:
    """Return a path as it was written. Raises `TypeError` for what is none."""
    found = os.fspath(value) if isinstance(value, os.PathLike) else value
    if not isinstance(found, str):
        raise refused(what, "a path", value)
    return value if isinstance(value, Path) else found
