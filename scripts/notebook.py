"""Writes and runs the notebook of five jobs, `examples/five-jobs.ipynb`, with what it shows."""

from pathlib import Path
from textwrap import dedent
from typing import Any

import nbformat
from nbclient import NotebookClient

FILE = Path(__file__).parent.parent / "examples" / "five-jobs.ipynb"

TOLD = [
    """\
    # Five jobs at the harbour

    A figure, a breakdown, lines, a bridge, and a report. All that is used here is in
    `help(even_sieve)`.""",
    """\
    from datetime import date

    from even_sieve import Heading, LineRows, Report, Together, table_from

    calls = table_from({
        "vessel": ["Heron", "Eider", "Brant", "Heron", "Barnacle", "Eider", "Month total"],
        "zone": ["Outer", "Inner", "Outer", "Outer", "Inner", "North", None],
        "arrived": [date(2031, 1, 5), date(2031, 1, 9), date(2031, 2, 1), date(2031, 2, 14),
                    date(2031, 2, 20), date(2031, 3, 3), None],
        "dues": [640.5, 80, "waived", 96.25, 410, 12.75, 1239.5],
        "status": ["paid", "open", "paid", "late", "paid", "open", None],
    }).mark(subtotal="vessel = Month total")
    calls""",
    """\
    ## 1. A figure, and what backs it

    The total is marked, a word stands among the dues: the account says where each row went.""",
    """\
    found = calls.tally("rows", "sum of dues", where="zone = Outer")
    found""",
    """\
    dues = found["sum of dues"]
    float(dues), dues.account.words(), calls.rows(dues)""",
    """\
    calls.recheck(found)""",
    """\
    ## 2. A breakdown, as a data frame and as a chart""",
    """\
    months = calls.tally("rows", "sum of dues", by="zone", across="arrived by month")
    months.to_frame()""",
    """\
    months.plot("sum of dues").figure""",
    """\
    ## 3. Lines with criteria of their own, and sums of them""",
    """\
    calls.lines("rows", "sum of dues", entries=[
        Heading("Settled"),
        LineRows("paid", "status = paid"),
        Heading("To come"),
        LineRows("open", "status = open"),
        LineRows("late", "status = late"),
        Together("to come in all", ("open", "late")),
    ])""",
    """\
    ## 4. A bridge from the bare column to the figure""",
    """\
    walk = calls.bridge("sum of dues", where="zone = Outer and arrived in 2031-Q1")
    walk""",
    """\
    walk.plot().figure""",
    """\
    ## 5. A report with a parameter

    The report is a file of its own; here it is written first.""",
    '''\
    import tempfile
    from pathlib import Path

    folder = Path(tempfile.mkdtemp())
    calls.write(folder / "calls.csv")
    (folder / "dues.toml").write_text("""
    title = "Dues of a zone"
    where = "zone = {zone}"
    as_of = 2031-12-31
    [source]
    file = "calls.csv"
    [marks]
    by = "mark"
    [parameters.zone]
    default = "Outer"
    allowed_from = "zone"
    [[blocks]]
    kind = "figures"
    measures = ["rows", "sum of dues", "to come = share of dues where status = open | late"]
    [[blocks]]
    kind = "breakdown"
    measures = ["sum of dues"]
    by = ["vessel"]
    """)
    results = Report.from_file(folder / "dues.toml").run({"zone": "Inner"})
    results.figures()''',
    """\
    results.to_frames()[1]""",
]


def main() -> None:
    """Write the notebook, run, without what hangs on the machine or the time."""
    make: Any = nbformat.v4
    cells = [
        make.new_markdown_cell(text) if text.startswith(("#", "The")) else make.new_code_cell(text)
        for text in map(dedent, TOLD)
    ]
    for number, cell in enumerate(cells):
        cell["id"] = f"cell-{number}"
    book = make.new_notebook(cells=cells)
    kernel = {"name": "python3", "display_name": "Python 3", "language": "python"}
    book.metadata["kernelspec"] = kernel
    NotebookClient(book, timeout=120, record_timing=False).execute()
    book.metadata.pop("language_info", None)
    FILE.write_text(make.writes(book) + "\n")


if __name__ == "__main__":
    main()
