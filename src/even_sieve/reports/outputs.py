"""The files that a report writes."""

from collections.abc import Iterable
from pathlib import Path

from even_sieve.core.errors import CallError, SourceError
from even_sieve.renderers.files import numbered, write_tables
from even_sieve.renderers.workbook import write_workbook
from even_sieve.reports.model import Outputs, ReportFile
from even_sieve.reports.results import Results
from even_sieve.sinks.charts import write_chart
from even_sieve.sinks.files import refuse_inputs, replace_file


def refuse_outputs(file: ReportFile, folder: Path, inputs: Iterable[Path]) -> None:
    """Raise `CallError` for an output that would be written over an input, twice, or outside.

    Outputs stay inside the folder unless the report says `outside = true` beside them.
    """
    outputs = file.outputs
    names = [outputs.html, outputs.markdown, outputs.json_, outputs.workbook]
    names += [getattr(block, "chart", None) for block in file.blocks]
    if outputs.csv is not None:
        path = Path(outputs.csv)
        names += [str(numbered(path, number + 1)) for number in range(len(file.blocks))]
    named = [name for name in names if name is not None]
    inside = folder.resolve()
    for name in named:
        if not outputs.outside and not (folder / name).resolve().is_relative_to(inside):
            raise CallError(
                f"outputs: '{name}' lies outside of the folder {folder}\n"
                "Name a file inside it, or write outside = true below [outputs]"
            )
    refuse_inputs([folder / name for name in named], inputs)


def write_outputs(results: Results, outputs: Outputs, folder: Path) -> list[Path]:
    """Write the outputs into the folder, which is made if need be; return where they are."""
    written = []
    for name, make in (
        (outputs.html, results.to_html),
        (outputs.markdown, results.to_markdown),
        (outputs.json_, results.to_json),
    ):
        if name is not None:
            written.append(_write_text(make(), _place(folder, name)))
    if outputs.workbook is not None:
        path = _place(folder, outputs.workbook)
        with results.shown():
            write_workbook(results.document(), path)
        written.append(path)
    if outputs.csv is not None:
        written += write_tables(results.document(), _place(folder, outputs.csv))
    for done in results.blocks:
        with results.shown():
            figure = done.draw()
        if figure is not None and done.chart is not None:
            path = _place(folder, done.chart)
            write_chart(figure, path)
            written.append(path)
    return written


def _write_text(text: str, path: Path) -> Path:
    def put(new: Path) -> None:
        new.write_bytes(text.encode())

    replace_file(path, put)
    return path


def _place(folder: Path, name: str) -> Path:
    """Return where an output goes, its folder made if need be. Raises `SourceError`."""
    path = folder / name
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        why = error.strerror or type(error).__name__
        raise SourceError(str(path.parent), f"the folder cannot be made: {why}") from error
    return path
