"""A grid for a rich console, line by line: thousands of rows take no longer than they must.

It looks as the console's own table does, which measures and pads every cell several times over;
only where cells have to be folded is that one wanted.
"""

from collections.abc import Callable, Iterator, Sequence
from itertools import zip_longest

from rich.cells import cell_len
from rich.console import Console, ConsoleOptions, RenderResult
from rich.segment import Segment
from rich.style import Style

from even_sieve.core.progress import steps
from even_sieve.documents.document import Grid
from even_sieve.documents.values import visible

_APART, _RULE = "   ", "─"


class GridLines:
    """The grid as lines of segments, with a blank line before it."""

    def __init__(self, grid: Grid, style_of: Callable[[int], str]) -> None:
        self.grid, self.style_of = grid, style_of
        self.header = [visible(name) for name in grid.header]
        self.rows = [[visible(cell) for cell in row] for row in grid.rows]
        self.widths = [widest(column) for column in zip(self.header, *self.rows, strict=True)]

    @property
    def width(self) -> int:
        """How many cells of the terminal a line takes, with one to either side."""
        return sum(self.widths) + len(_APART) * (len(self.widths) - 1) + 2

    def __rich_console__(self, console: Console, options: ConsoleOptions) -> RenderResult:
        """Yield the segments of every line."""
        yield Segment.line()
        bold = Style(bold=True)
        yield from self._record(self.header, bold, bold)
        yield Segment(f" {_RULE * (self.width - 2)}")
        yield Segment.line()
        numbers = Style(dim=True) if self.grid.of_rows else None
        styles = {"": Style()}
        last = len(self.rows) - self.grid.totals
        for position, row in enumerate(steps(self.rows, "laying out the rows")):
            name = self.style_of(position)
            style = styles.get(name) or styles.setdefault(name, Style.parse(name))
            if position == last and position:
                yield Segment.line()
            yield from self._record(row, style, numbers + style if numbers else style)

    def _record(self, cells: Sequence[str], style: Style, first: Style) -> Iterator[Segment]:
        folded = any("\n" in cell for cell in cells)
        lines = (
            list(zip_longest(*(c.split("\n") for c in cells), fillvalue="")) if folded else [cells]
        )
        for line in lines:
            texts = list(map(self._aligned, line, self.widths, self.grid.numeric))
            if first is style:
                yield Segment(f" {_APART.join(texts)}\n", style)
            else:
                yield Segment(f" {texts[0]}", first)
                yield Segment(f"{''.join(f'{_APART}{text}' for text in texts[1:])}\n", style)

    @staticmethod
    def _aligned(text: str, width: int, right: bool) -> str:
        if text.isascii():
            return text.rjust(width) if right else text.ljust(width)
        space = " " * (width - cell_len(text))
        return f"{space}{text}" if right else f"{text}{space}"


def widest(texts: Sequence[str]) -> int:
    """Return how many cells of the terminal the widest of some texts takes."""
    together = "".join(texts)
    plain = together.isascii() and "\n" not in together
    return max(map(len if plain else wide, texts))


def wide(text: str) -> int:
    """Return how many cells of the terminal the longest line of a text takes."""
    if text.isascii() and "\n" not in text:
        return len(text)
    return max(map(cell_len, text.split("\n")))
