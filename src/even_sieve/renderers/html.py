"""Documents as HTML: a fragment for a notebook, and a report as one page.

Everything is escaped, and whole in itself: no script, no other file. The page reads on a phone,
on paper and aloud; every figure opens to its account.
"""

from functools import cache

from jinja2 import Environment, PackageLoader, Template
from markupsafe import Markup

from even_sieve.documents.document import (
    Accounts,
    Backing,
    Caption,
    Document,
    Facts,
    Findings,
    Grid,
    Notes,
    Part,
    ReportDocument,
    Section,
)
from even_sieve.documents.values import visible


@cache
def _template(name: str) -> Template:
    loader = PackageLoader("even_sieve", "renderers")
    environment = Environment(loader=loader, autoescape=True, trim_blocks=True, finalize=_as_it_is)
    return environment.get_template(name)


def _as_it_is(value: object) -> object:
    """Return a text with controls and marks of direction spelt out; the page's own is left."""
    return visible(value) if isinstance(value, str) and not isinstance(value, Markup) else value


def fragment(document: Document) -> str:
    """Return a document as a fragment of HTML: its tables, and lines under them."""
    parts = [
        {"grid": part} if isinstance(part, Grid) else {"lines": _lines(part)}
        for part in document.parts()
    ]
    return _template("answer.html.jinja").render(parts=parts)


def page(report: ReportDocument) -> str:
    """Return a report as one page."""
    blocks = [_block(number, section) for number, section in enumerate(report.sections, 1)]
    return _template("page.html.jinja").render(report=report, blocks=blocks)


def _block(number: int, section: Section) -> dict[str, object]:
    """Return what the page shows of a section."""
    parts = section.document.parts()
    lines = [line for part in parts if not isinstance(part, Grid) for line in _lines(part, "")]
    return {
        "id": f"block-{number}",
        "section": section,
        "grid": next(part for part in parts if isinstance(part, Grid)),
        "chart": Markup(section.chart),
        "lines": lines,
    }


def _lines(part: Part, whose: str | None = None) -> list[tuple[str, str]]:
    """Return a part as lines: a label, and a text."""
    match part:
        case Accounts(items, of):
            title = f"account {of if whose is None else whose}".strip()
            return [(f"{title}, {names}" if names else title, words) for names, words in items]
        case Caption(text):
            return [("", text)]
        case Notes(texts):
            return [("note", text) for text in texts]
        case Facts(texts, label):
            return [(label, text) for text in texts]
        case Findings(summary, texts):
            return [("", summary), *(("look at first", text) for text in texts)]
        case Backing(heading, lines):
            return [("", heading), *(("", line) for line in lines)]
    raise TypeError(f"{type(part).__name__} has no lines")
