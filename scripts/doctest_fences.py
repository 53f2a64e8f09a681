"""Examples of docstrings on the site: what a prompt leads is code, and its output with it."""

from typing import Any

import griffe


def fenced(text: str) -> str:
    """Return a docstring with its examples in fences.

    >>> fenced(chr(10).join(["Two.", "", ">>> 1 + 1", "2"])).splitlines()[2:]
    ['```pycon', '>>> 1 + 1', '2', '```']
    """
    lines: list[str] = []
    inside = False
    for line in text.splitlines():
        starts = line.lstrip().startswith(">>>")
        if starts and not inside:
            lines.append("```pycon")
        if inside and not line.strip():
            lines.append("```")
        inside = (inside or starts) and bool(line.strip())
        lines.append(line)
    return "\n".join([*lines, "```"] if inside else lines)


class DoctestFences(griffe.Extension):
    """Puts the examples of every docstring into fences."""

    def on_object(self, *, obj: griffe.Object, **_: Any) -> None:
        """Change the docstring of what was read."""
        if obj.docstring is not None:
            obj.docstring.value = fenced(obj.docstring.value)
