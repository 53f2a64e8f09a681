"""Documents as JSON (RFC 8259): one object."""

from collections.abc import Mapping, Sequence

import simplejson

from even_sieve.documents.document import Document, ReportDocument
from even_sieve.documents.json_text import compact
from even_sieve.receipts import with_receipt

#: Of lists with so many entries each is a line.
_LONG = 1_000


class JsonRenderer:
    """Renders the plain object of a document; what stands beside it is under its own key."""

    def answer(self, document: Document, beside: Mapping[str, Document]) -> str:
        """Return one JSON object."""
        plain = document.plain()
        under = {name: each.plain() for name, each in beside.items()}
        return dump(plain | under if under else plain)

    def report(self, report: ReportDocument) -> str:
        """Return one JSON object: a record a section, as its own command would print it."""
        sections = [
            {"kind": each.kind, "title": each.title, **each.document.plain()}
            for each in report.sections
            if each.kind != "since"
        ]
        plain = {"title": report.title, "blocks": sections}
        moved = [each.document.plain() for each in report.sections if each.kind == "since"]
        if moved:
            plain["since"] = moved[0]
        return dump(plain if report.receipt is None else with_receipt(plain, report.receipt))


def dump(plain: object) -> str:
    """Return a plain object as text; of a long list each entry is a line.

    >>> print(dump({"lines": [1, {"rows": 2}]}), end="")
    {
      "lines": [
        1,
        {
          "rows": 2
        }
      ]
    }
    """
    told = _with_long_lists(plain)
    text: str = simplejson.dumps(told, ensure_ascii=False, indent=2, allow_nan=False)
    return f"{text}\n"


def _with_long_lists(plain: object) -> object:
    """Return a plain object with its long lists as text already, an entry a line."""
    if isinstance(plain, Mapping):
        return {key: _with_long_lists(value) for key, value in plain.items()}
    if not isinstance(plain, list | tuple):
        return plain
    if len(plain) < _LONG:
        return [_with_long_lists(each) for each in plain]
    return simplejson.RawJSON(f"[\n{_entry_a_line(plain)}\n]")


def _entry_a_line(plain: Sequence[object]) -> str:
    """Return the entries of a list as text, each on a line."""
    return ",\n".join(map(compact, plain))


RENDERER = JsonRenderer()
