"""The documents on the site: links that lead out of them become the names of files."""

import re
from typing import Any

_OUTSIDE = re.compile(r"\[([^\]]+)\]\(\.\./((?:bench|examples|src|scripts|README)[^)]*)\)")


def on_page_markdown(markdown: str, **_: Any) -> str:
    """Return a page with links to files of the project as their names."""
    return _OUTSIDE.sub(r"\1 (`\2`)", markdown)
