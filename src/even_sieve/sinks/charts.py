"""Charts as files: PNG and SVG, the same bytes for the same chart."""

import warnings
from collections.abc import Iterator
from contextlib import contextmanager
from io import BytesIO
from pathlib import Path
from typing import TYPE_CHECKING, Any

from even_sieve.core.errors import CallError
from even_sieve.documents.values import visible
from even_sieve.sinks.files import replace_file

if TYPE_CHECKING:
    from matplotlib.figure import Figure

#: What each format notes of its making: nothing that changes from day to day.
_NOTES: dict[str, dict[str, str | None]] = {
    ".png": {"Software": None},
    ".svg": {"Date": None, "Creator": None},
}


_PLAIN: dict[Any, Any] = {
    "svg.hashsalt": "even-sieve", "svg.fonttype": "none", "text.parse_math": False,
}  # fmt: skip


@contextmanager
def _drawing(figure: "Figure") -> Iterator[None]:
    """Draw a chart the same every time, its texts as they are written: no formulas, no controls.

    A letter that the font does not have is a box; the library's words on that, which name its
    own files, reach nobody.
    """
    import matplotlib as mpl
    from matplotlib.text import Text

    for text in figure.findobj(Text):
        text.set_text(visible(text.get_text()))
        text.set_parse_math(False)
    with (
        mpl.rc_context(_PLAIN),
        warnings.catch_warnings(),
    ):
        warnings.simplefilter("ignore")
        yield


def svg_of(figure: "Figure") -> str:
    """Return a chart as SVG to stand within a page: without the head of a file of its own."""
    out = BytesIO()
    with _drawing(figure):
        figure.savefig(out, format="svg", metadata=_NOTES[".svg"])
    text = out.getvalue().decode()
    return text[text.index("<svg") :]


def notes_for(file: Path) -> dict[str, str | None]:
    """Return what a chart's file says of itself. Raises `CallError` for an unknown ending."""
    notes = _NOTES.get(file.suffix.lower())
    if notes is None:
        fact = f"{file}: a chart that ends in '{file.suffix}' is not written"
        raise CallError(f"{fact}\nWritten are: {', '.join(_NOTES)}")
    return notes


def write_chart(figure: "Figure", path: str | Path) -> None:
    """Write a chart; the ending of the name chooses PNG or SVG.

    Raises `CallError` for another ending, `SourceError` for a file that cannot be written.
    """
    file = Path(path)
    notes = notes_for(file)
    form = file.suffix.lower().removeprefix(".")
    with _drawing(figure):
        replace_file(file, lambda new: figure.savefig(new, format=form, metadata=notes))
