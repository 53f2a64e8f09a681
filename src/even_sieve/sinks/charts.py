"""Charts as files: PNG and SVG, the same bytes for the same chart."""

from io import BytesIO
from pathlib import Path
from typing import TYPE_CHECKING

from even_sieve.core.errors import CallError
from even_sieve.sinks.files import replace_file

if TYPE_CHECKING:
    from matplotlib.figure import Figure

#: What each format notes of its making: nothing that changes from day to day.
_NOTES: dict[str, dict[str, str | None]] = {
    ".png": {"Software": None},
    ".svg": {"Date": None, "Creator": None},
}


def svg_of(figure: "Figure") -> str:
    """Return a chart as SVG to stand within a page: without the head of a file of its own."""
    import matplotlib as mpl

    out = BytesIO()
    with mpl.rc_context({"svg.hashsalt": "even-sieve", "svg.fonttype": "none"}):
        figure.savefig(out, format="svg", metadata=_NOTES[".svg"])
    text = out.getvalue().decode()
    return text[text.index("<svg") :]


def write_chart(figure: "Figure", path: str | Path) -> None:
    """Write a chart; the ending of the name chooses PNG or SVG.

    Raises `CallError` for another ending, `SourceError` for a file that cannot be written.
    """
    import matplotlib as mpl

    file = Path(path)
    notes = _NOTES.get(file.suffix.lower())
    if notes is None:
        fact = f"{path}: a chart that ends in '{file.suffix}' is not written"
        raise CallError(f"{fact}\nWritten are: {', '.join(_NOTES)}")
    form = file.suffix.lower().removeprefix(".")
    with mpl.rc_context({"svg.hashsalt": "even-sieve", "svg.fonttype": "none"}):
        replace_file(file, lambda new: figure.savefig(new, format=form, metadata=notes))
