"""Results as headed rows of texts: what CSV, Markdown, HTML and the terminal lay out."""

from collections.abc import Iterator
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction

from even_sieve.core.cells import Cell
from even_sieve.core.notices import counted
from even_sieve.core.table import Profile
from even_sieve.core.tally import OF_NO_LINE, Bridge, Funnel, Tallies, Tally
from even_sieve.views.listing import Listing
from even_sieve.views.values import plain_amount, show_value

BLANK_KEY = "(blank)"
TOTAL = "total"
_EXACT = 10**15


@dataclass(frozen=True)
class Grid:
    """A header and rows of texts; `numeric` tells which columns stand to the right.

    The last `totals` rows repeat the ones above them, and so do the `strong` ones among them.
    `sources` are the tallies behind the texts, where there are any; `matching` the rows that
    match, where others stand among them.
    """

    header: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    numeric: tuple[bool, ...]
    totals: int = 0
    strong: frozenset[int] = frozenset()
    sources: "tuple[tuple[Tally | None, ...], ...]" = ()
    matching: frozenset[int] | None = None

    def is_strong(self, position: int) -> bool:
        """Tell whether a row repeats others."""
        return position >= len(self.rows) - self.totals or position in self.strong


def tallies_grid(result: Tallies) -> Grid:
    """Return a row a measure: its value and, where any has one, the rows that gave it."""
    found = any(tally.found_at for tally in result)
    header = ("measure", "value", "found at") if found else ("measure", "value")
    rows = tuple(
        (tally.name, show_figure(tally), found_at(tally))[: len(header)] for tally in result
    )
    sources = tuple((None, tally, None)[: len(header)] for tally in result)
    return Grid(header, rows, (False, True, False)[: len(header)], sources=sources)


def show_figure(tally: Tally) -> str:
    """Return the value of a tally for a person, with the decimals of its column."""
    return show_value(tally.value, tally.decimals)


def show_key(key: Cell) -> str:
    """Return one value of a line's key for a person."""
    return BLANK_KEY if key is None else show_value(key)


def rows_grid(result: Listing) -> Grid:
    """Return the rows with their numbers, and their verdicts where there are any."""
    header = ("row", *result.names)
    numeric = (True, *(_is_numeric(result, i) for i in range(len(result.names))))
    rows = [
        (str(number), *map(_show_cell, row, result.decimals))
        for number, row in zip(result.numbers, result.rows, strict=True)
    ]
    if result.verdicts is not None:
        header, numeric = (*header, "verdict"), (*numeric, False)
        rows = [(*row, verdict) for row, verdict in zip(rows, result.shown_verdicts, strict=True)]
    matching = None
    if result.verdicts is not None:
        matching = frozenset(i for i, verdict in enumerate(result.verdicts) if not verdict)
    return Grid(header, tuple(rows), numeric, matching=matching)


def _is_numeric(result: Listing, position: int) -> bool:
    """Tell whether the first cell of a column that is filled holds a number."""
    cells = (row[position] for row in result.rows)
    first = next((cell for cell in cells if cell is not None), None)
    return isinstance(first, int | float | Decimal) and not isinstance(first, bool)


def _show_cell(cell: Cell, decimals: int) -> str:
    return "" if cell is None else show_value(cell, decimals)


def funnel_grids(result: Funnel) -> Iterator[tuple[str, Grid]]:
    """Yield a grid an alternative, with a title: a row a condition, alone and in turn."""
    several = len(result.alternatives) > 1
    for number, each in enumerate(result.alternatives, 1):
        title = ""
        if several:
            title = (
                f"alternative {number}: {counted(each.alone, 'row')}, "
                f"{each.beyond:,} of them by no other alternative"
            )
        rows = [("rows in play", "", f"{result.in_play:,}")]
        rows += [(step.condition, f"{step.alone:,}", f"{step.left:,}") for step in each.steps]
        header = ("condition", "holds for", "left in turn")
        yield title, Grid(header, tuple(rows), (False, True, True))


def bridge_grid(result: Bridge) -> Grid:
    """Return a row a step: what it takes away, and what is left, in rows and in amount.

    Of a count of rows the amount would say the same twice.
    """
    header = ("step", "rows", result.name, "rows left", "left")
    first, *middle, last = result.steps
    decimals = result.tally.decimals
    rows = [(first.label, "", "", f"{first.rows:,}", show_amount(first.amount, decimals))]
    rows += [
        (
            step.label,
            _signed(f"{step.rows:,}"),
            _signed(show_amount(step.amount, decimals)),
            f"{step.rows_left:,}",
            show_amount(step.amount_left, decimals),
        )
        for step in middle
    ]
    rows.append((last.label, "", "", f"{last.rows:,}", show_amount(last.amount, decimals)))
    shown = (0, 1, 3) if result.tally.request.kind == "rows" else range(5)
    return Grid(
        tuple(header[i] for i in shown),
        tuple(tuple(row[i] for i in shown) for row in rows),
        tuple(i > 0 for i in shown),
        totals=1,
    )


def show_amount(amount: Fraction, decimals: int) -> str:
    """Return an exact amount for a person, with the decimals of its column unless it is 0."""
    value = plain_amount(amount)
    if value and decimals and abs(value) < _EXACT:
        value = float(value)
    return show_value(value, decimals)


def _signed(shown: str) -> str:
    """Return a number with a sign, and with a real minus."""
    if not shown.strip("0.,"):
        return shown
    return shown.replace("-", "−") if shown.startswith("-") else f"+{shown}"


def bridge_remarks(result: Bridge) -> list[str]:
    """Return the remarks on a bridge: its figure's and its own."""
    found = [each.text for each in (*result.notices, *result.tally.notices)]
    return list(dict.fromkeys(found))


def explanations(result: Tallies) -> Iterator[tuple[str, list[str]]]:
    """Yield each figure with the lines that explain it."""
    for tally in result:
        yield f"{tally.name} = {show_figure(tally)}", tally.explain().lines()


def profile_grid(result: Profile) -> Grid:
    """Return a row a column: what it holds, how many different values, its extremes."""
    header = ("column", "holds", "different", "least", "most")
    rows = tuple(
        (
            column.name,
            ", ".join(f"{count:,} {kind}" for kind, count in column.kinds.items()) or "nothing",
            f"{column.distinct:,}",
            "" if column.least is None else show_value(column.least),
            "" if column.most is None else show_value(column.most),
        )
        for column in result.columns
    )
    return Grid(header, rows, (False, False, True, False, False))


def profile_notes(result: Profile) -> list[str]:
    """Return the rows and their marks, what to look at, and what was trimmed."""
    marks = [f"{count:,} {mark}" for mark, count in result.marked.items() if count]
    found = [f"{counted(result.rows, 'row')}, of these {', '.join(marks) or 'none'} marked"]
    found += [finding.text for finding in result.findings] or ["nothing stands out"]
    for column in result.columns:
        if column.trimmed:
            cells = counted(column.trimmed, "cell")
            found.append(f"column '{column.name}': outer white space was trimmed from {cells}")
    return found


def funnel_notes(result: Funnel) -> list[str]:
    """Return what the criteria mean in words, and what comes of them."""
    found = [f"in words: {result.words}", f"{result.matching:,} of {result.rows:,} rows match"]
    if result.as_of is not None:
        found.append(f"dates are as of {result.as_of}")
    emptied = [each.emptied_by for each in result.alternatives]
    found += [f"nothing is left after '{step.condition}'" for step in emptied if step]
    return found


def found_at(tally: Tally, most: int = 3) -> str:
    """Return the rows that gave a figure: `row 12`, `rows 3, 9`, `rows 1, 2, 3 and 97 more`."""
    rows = tally.found_at
    if not rows:
        return ""
    shown = ", ".join(str(row) for row in rows[:most])
    more = f" and {len(rows) - most} more" if len(rows) > most else ""
    return f"{'row' if len(rows) == 1 else 'rows'} {shown}{more}"


def accounts(result: Tallies) -> Iterator[tuple[str, str]]:
    """Yield each different account in words, with the names of the measures that have it."""
    names: dict[str, list[str]] = {}
    for tally in result:
        names.setdefault(tally.account.words(), []).append(tally.name)
    for words, measures in names.items():
        yield ("" if len(names) == 1 else ", ".join(measures)), words


def reasons(result: Tallies) -> Iterator[str]:
    """Yield why measures have no value, or no good one."""
    for tally in result:
        if tally.reason and tally.reason not in OF_NO_LINE:
            where = f" ({found_at(tally)})" if tally.found_at else ""
            yield f"{tally.name}: {tally.reason}{where}"


def remarks(result: Tallies) -> list[str]:
    """Return reasons and notices as texts, each once."""
    found = [*reasons(result), *(each.text for each in result.notices)]
    for tally in result:
        found.extend(notice.text for notice in tally.notices)
    if result.as_of is not None:
        found.append(f"dates are as of {result.as_of}")
    return list(dict.fromkeys(found))
