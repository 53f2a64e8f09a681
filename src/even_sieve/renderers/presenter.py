"""What shows the answers of the core: lays them out, and has a format render them."""

from pathlib import Path
from typing import TYPE_CHECKING

from even_sieve.core.answer import Answer
from even_sieve.core.understood import refused
from even_sieve.documents import document_of
from even_sieve.documents.shortened import shortened
from even_sieve.renderers.files import write_document
from even_sieve.renderers.frames import frame_of_document
from even_sieve.renderers.html import fragment
from even_sieve.renderers.renderer import renderer
from even_sieve.sinks.charts import write_chart
from even_sieve.sources.paths import path_of

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.axes import Axes


class DocumentPresenter:
    """Shows answers by their documents."""

    def show(self, answer: Answer, form: str, most: int | None = None) -> str:
        """Return the answer in a format by its name; of many lines so many at the most."""
        document = document_of(answer) if most is None else shortened(answer, most)
        return fragment(document) if form == "html" else renderer(form).answer(document, {})

    def frame(self, answer: Answer, *, totals: bool) -> "pd.DataFrame":
        """Return the answer as a pandas data frame."""
        return frame_of_document(document_of(answer), totals=totals)

    def write(self, answer: Answer, path: str | Path) -> None:
        """Write the answer to a file of a table."""
        write_document(document_of(answer), path_of("what is written", path))

    def plot(self, answer: Answer, measure: str | None, axes: "Axes | None") -> "Axes":
        """Draw the answer on these axes, or on new ones."""
        if axes is not None and not hasattr(axes, "barh"):
            raise refused("axes", "those of Matplotlib", axes)
        return document_of(answer).plot(measure, axes)

    def write_chart(self, answer: Answer, path: str | Path, measure: str | None) -> None:
        """Write the answer as a picture, .png or .svg."""
        path = path_of("what is written", path)
        write_chart(document_of(answer).chart(measure), Path(path))
