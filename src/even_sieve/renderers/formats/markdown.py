"""Documents as Markdown: tables, and what stands behind them as lists."""

import re
from collections.abc import Iterable, Mapping, Sequence

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
)
from even_sieve.documents.values import visible


class MarkdownRenderer:
    """Renders the parts of a document: those that are no tables go together into one list."""

    def answer(self, document: Document, beside: Mapping[str, Document]) -> str:
        """Return the document, and what stands beside it under it."""
        pieces = [_document(document)]
        for each in beside.values():
            shown = _document(each)
            pieces.append(shown if shown.startswith("\n") else f"\n{shown}")
        return "".join(pieces)

    def report(self, report: ReportDocument) -> str:
        """Return a heading a section, and what the report was made from."""
        pieces = [f"# {_escape(report.title)}\n"]
        for each in report.sections:
            where = f"\nRows: {_code(each.where)}\n" if each.where else ""
            heading = _escape(each.heading)
            pieces.append(f"\n## {heading}\n{where}\n{_document(each.document)}")
        made = "".join(f"- {_escape(f'{name}: {text}')}\n" for name, text in report.made_from)
        return "".join([*pieces, f"\n## Made from\n\n{made}"])


def _document(document: Document) -> str:
    pieces: list[str] = []
    items: list[str] = []
    for part in document.parts():
        if isinstance(part, Grid):
            title = f"{_escape(part.title)}\n\n" if part.title else ""
            pieces.append(("\n" if pieces else "") + title + _table(part))
        elif isinstance(part, Backing):
            lines = "".join(map(_nested, part.lines))
            pieces.append(f"\n**{_escape(part.heading)}**\n\n{lines}")
        else:
            items.extend(_items(part))
    return "".join([*pieces, _list(items)])


def _items(part: Part) -> Iterable[str]:
    """Return what a part says as items of a list."""
    match part:
        case Accounts(items):
            return [f"{names or 'account'}: {words}" for names, words in items]
        case Caption(text):
            return [text]
        case Facts(texts, label):
            return [f"{label}: {text}" if label else text for text in texts]
        case Findings(summary, texts):
            return [summary, *texts]
        case Notes(texts):
            return texts
    raise TypeError(f"{type(part).__name__} is no part of a list")


def _nested(line: str) -> str:
    """Return a line as an item of a list, as deep in it as the line is indented."""
    text = line.lstrip(" ")
    return f"{line[: len(line) - len(text)]}- {_escape(text)}\n"


def _table(grid: Grid) -> str:
    rule = ["---:" if numeric else "---" for numeric in grid.numeric]
    body = list(map(_cells, grid.rows))
    for position, row in enumerate(body):
        if grid.is_strong(position):
            body[position] = [f"**{cell}**" if cell else "" for cell in row]
    return "".join(f"| {' | '.join(row)} |\n" for row in [_cells(grid.header), rule, *body])


def _cells(row: Sequence[str]) -> list[str]:
    return [_escape(cell) for cell in row]


def _escape(text: str) -> str:
    r"""Return a text that shows as it is: no mark-up, no tag, no link, no picture, no control.

    >>> print(_escape("a < b &lt; *c*, R&D"))
    a &lt; b &amp;lt; \*c\*, R&D
    """
    shown = re.sub(r"&(?=#?\w+;)", "&amp;", visible(text.replace("\n", " ")))
    shown = shown.replace("<", "&lt;")  # which every reader of Markdown knows
    return re.sub(r"([\\|*_`#\[\]])", r"\\\1", shown)


def _code(text: str) -> str:
    """Return a text as code, between more backquotes than stand together in it."""
    longest = max(map(len, re.findall("`+", text)), default=0)
    fence, space = "`" * (longest + 1), " " if longest else ""
    return f"{fence}{space}{visible(text)}{space}{fence}"


def _list(items: Sequence[str]) -> str:
    return "\n" + "".join(f"- {_escape(item)}\n" for item in items) if items else ""


RENDERER = MarkdownRenderer()
