"""The formats by name."""

from collections.abc import Callable
from importlib import import_module

#: The module of each format that the command line offers.
FORMATS = {
    "table": "even_sieve.views.terminal",
    "json": "even_sieve.views.json",
    "csv": "even_sieve.views.csv",
    "markdown": "even_sieve.views.markdown",
}


def view(name: str, operation: str) -> Callable[..., str]:
    """Return a format's function for `show_tallies`, `show_breakdown` or `show_rows`."""
    shown: Callable[..., str] = getattr(import_module(FORMATS[name]), operation)
    return shown
