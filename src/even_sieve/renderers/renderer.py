"""What every format of text can do, and the formats that there are.

A format is a module in `formats` with a `RENDERER`; its name is the module's, and it is offered
as soon as the module is there.
"""

from collections.abc import Mapping
from functools import cache
from importlib import import_module
from pkgutil import iter_modules
from typing import Protocol

from even_sieve.documents.document import Document, ReportDocument
from even_sieve.renderers import formats

#: Shown first: the formats for people and for programs in the order of their use.
_FIRST = ("table", "json")


class Renderer(Protocol):
    """Renders documents as text."""

    def answer(self, document: Document, beside: Mapping[str, Document]) -> str:
        """Return a document as text, with others under it, by what they are called."""

    def report(self, report: ReportDocument) -> str:
        """Return a report as text. Raises `CallError` for a format without reports."""


@cache
def format_names() -> tuple[str, ...]:
    """Return the names of all formats.

    >>> format_names()
    ('table', 'json', 'csv', 'markdown')
    """
    found = sorted(each.name for each in iter_modules(formats.__path__))
    return (*_FIRST, *(name for name in found if name not in _FIRST))


def renderer(name: str) -> Renderer:
    """Return the renderer of a format. Raises `KeyError` for a name that is none."""
    if name not in format_names():
        raise KeyError(f"no format '{name}'; there are: {', '.join(format_names())}")
    found: Renderer = import_module(f"{formats.__name__}.{name}").RENDERER
    return found
