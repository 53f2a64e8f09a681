"""The walk through the demo: step by step, the bare total beside the defended figure."""

from collections.abc import Iterator
from dataclasses import dataclass

from even_sieve.core.criteria import RangeCriteria
from even_sieve.core.tally import Breakdown, Tallies
from even_sieve.demo.make import demo_path
from even_sieve.public.criteria import criteria_from_rows
from even_sieve.public.reading import table_from_bytes
from even_sieve.public.table import Table

CALLS = "calls.csv"
WORKBOOK = "harbour.ods"
SUBTOTAL = "vessel = Month total*"
HIDDEN = "status = withdrawn"
QUESTION = "zone = Outer and arrived in 2031-Q1"
MARKS = f'\\\n    --subtotal "{SUBTOTAL}" --hidden "{HIDDEN}"'
FIVE = ("rows", "sum of dues", "average of dues", "min of dues", "max of dues")


@dataclass(frozen=True)
class DemoStep:
    """One step: what it shows, the command that gives the same, and its result."""

    title: str
    command: str
    result: Tallies | Breakdown
    text: str = ""


def read_demo(name: str) -> bytes:
    """Return one of the demo's files as it ships."""
    return demo_path(name).read_bytes()


def demo_table() -> Table:
    """Return the harbour's calls, unmarked."""
    return table_from_bytes(read_demo(CALLS), CALLS)


def demo_criteria(name: str) -> RangeCriteria:
    """Return one of the demo's criteria ranges."""
    return criteria_from_rows(read_demo(name), name)


def walk() -> Iterator[DemoStep]:
    """Yield the steps in order."""
    bare = demo_table()
    calls = bare.mark(subtotal=SUBTOTAL, hidden=HIDDEN)
    yield from _totals(bare, calls)
    yield from _questions(calls)


def _totals(bare: Table, calls: Table) -> Iterator[DemoStep]:
    yield DemoStep(
        "The bare total of the column",
        f'even-sieve tally {CALLS} "sum of dues"',
        bare.tally("sum of dues"),
        "Every number in the column is added: month totals, withdrawn calls and all.",
    )
    yield DemoStep(
        "The defended total",
        f'even-sieve tally {CALLS} "sum of dues" {MARKS}',
        calls.tally("sum of dues"),
        _difference(bare),
    )


def _questions(calls: Table) -> Iterator[DemoStep]:
    yield DemoStep(
        "A question: the outer zone in the first quarter",
        f'even-sieve tally {CALLS} {_quoted(FIVE)} {MARKS} \\\n    --where "{QUESTION}"',
        calls.tally(*FIVE, where=QUESTION),
    )
    yield DemoStep(
        "The wrong count, and the right ones",
        f'even-sieve tally {CALLS} "numbers of vessel" "filled of vessel" "distinct of vessel" '
        f"{MARKS}",
        calls.tally("numbers of vessel", "filled of vessel", "distinct of vessel"),
    )
    yield DemoStep(
        "Criteria laid out as a table: wanted.csv",
        f'even-sieve tally {CALLS} rows "sum of dues" {MARKS} \\\n    --criteria wanted.csv',
        calls.tally("rows", "sum of dues", where=demo_criteria("wanted.csv")),
    )
    yield DemoStep(
        "The same calls in a workbook",
        f'even-sieve tally {WORKBOOK} "sum of dues" --criteria "{WORKBOOK}!wanted"',
        table_from_bytes(read_demo(WORKBOOK), WORKBOOK).tally(
            "sum of dues", where=demo_criteria("wanted.csv")
        ),
        "Its hidden rows and subtotal formulas are told by the sheet; nothing is marked by hand,\n"
        "and the criteria stand beside the data, under a name.",
    )
    yield DemoStep(
        "A line for every zone",
        f'even-sieve tally {CALLS} rows "sum of dues" {MARKS} --by zone',
        calls.tally("rows", "sum of dues", by="zone"),
    )


def _quoted(measures: tuple[str, ...]) -> str:
    return " ".join(f'"{each}"' if " " in each else each for each in measures)


def _difference(bare: Table) -> str:
    """Return the way from the bare total to the defended one, in words and amounts."""
    found = bare.tally(
        "all = sum of dues",
        f"months = sum of dues where {SUBTOTAL}",
        f"withdrawn = sum of dues where {HIDDEN} and not {SUBTOTAL}",
        f"left = sum of dues where not {HIDDEN} and not {SUBTOTAL}",
    )
    amounts = {each.name: each.value for each in found}
    return (
        f"{amounts['all']:,.2f} bare total\n"
        f"less {amounts['months']:,.2f} in {found['months'].account.used} month totals, "
        "which repeat the rows above them\n"
        f"less {amounts['withdrawn']:,.2f} in {found['withdrawn'].account.used} withdrawn calls, "
        "which are hidden\n"
        f"is {amounts['left']:,.2f}. Cells that read waived, blanks and errors add nothing, "
        "and are counted:"
    )
