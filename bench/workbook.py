"""Reading a workbook of 200,000 rows and 12 columns: the time, and how far the memory grows.

Of an .xlsx the reading stands beside openpyxl alone going through the same cells without keeping
them; memory stands beside the size of the sheet's XML, which a reader that is not bounded holds.

    python bench/workbook.py [ROWS]
"""

import resource
import subprocess
import sys
import tempfile
import time
import zipfile
from collections.abc import Iterator
from pathlib import Path

Cell = str | int | float | None
HEADER: tuple[Cell, ...] = ("call", *(f"c{i}" for i in range(11)))
SPACES = "".join(
    f' xmlns:{name}="urn:oasis:names:tc:opendocument:xmlns:{name}:1.0"'
    for name in ("office", "table", "text")
)
BEGIN = (
    f"<office:document-content{SPACES}><office:body><office:spreadsheet>"
    '<table:table table:name="calls">'
)
END = "</table:table></office:spreadsheet></office:body></office:document-content>"


def calls(rows: int) -> Iterator[list[Cell]]:
    for i in range(rows):
        paid = "waived" if i % 50 == 0 else i / 100
        start: list[Cell] = [
            f"C{i:07}",
            f"O-{i % 12}",
            "Outer",
            f"V{i % 4000}",
            "tanker",
            i % 90,
            i / 4,
        ]
        yield [*start, i * 7 / 100, paid, "paid", "fog" if i % 5 == 0 else None, i]


def write_xlsx(path: Path, rows: int) -> None:
    from openpyxl import Workbook

    book = Workbook(write_only=True)
    sheet = book.create_sheet("calls")
    sheet.append(HEADER)
    for row in calls(rows):
        sheet.append(row)
    book.save(path)


def write_ods(path: Path, rows: int) -> None:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as parts:
        parts.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        with parts.open("content.xml", "w") as out:
            out.write(BEGIN.encode())
            for row in (HEADER, *calls(rows)):
                cells = "".join(map(ods_cell, row))
                out.write(f"<table:table-row>{cells}</table:table-row>".encode())
            out.write(END.encode())


def ods_cell(value: Cell) -> str:
    if value is None:
        return "<table:table-cell/>"
    kind = 'string"' if isinstance(value, str) else f'float" office:value="{value}"'
    return (
        f'<table:table-cell office:value-type="{kind}><text:p>{value}</text:p></table:table-cell>'
    )


def read_once(way: str, path: str) -> None:
    """Read in this process and print the seconds and the growth of memory in MiB."""
    import openpyxl

    from even_sieve import read_table

    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    start = time.perf_counter()
    if way.startswith("even-sieve"):
        read_table(path)
    else:
        for row in openpyxl.load_workbook(path, read_only=True)["calls"].iter_rows():
            for cell in row:
                _ = cell.value
    seconds = time.perf_counter() - start
    grown = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before
    print(seconds, grown / 1024)


def main(rows: int) -> None:
    with tempfile.TemporaryDirectory() as folder:
        for ending, write, part, ways in (
            (".xlsx", write_xlsx, "xl/worksheets/sheet1.xml", ("even-sieve", "openpyxl alone")),
            (".ods", write_ods, "content.xml", ("even-sieve",)),
        ):
            path = Path(folder) / f"calls{ending}"
            write(path, rows)
            with zipfile.ZipFile(path) as parts:
                xml = parts.getinfo(part).file_size >> 20
            print(f"{ending}: {rows:,} rows of 12 cells; the sheet's XML has {xml} MiB")
            found = []
            for way in ways:
                command = [sys.executable, __file__, "--once", way, str(path)]
                words = subprocess.run(command, capture_output=True, text=True, check=True).stdout
                seconds, grown = map(float, words.split())
                found.append(seconds)
                ratio = (
                    f"{found[0] / seconds:.2f} of its time, {grown / max(xml, 1):.2f} of the XML"
                )
                print(f"  {way:<16} {seconds:6.2f} s  grown by {grown:6.0f} MiB; ours: {ratio}")


if __name__ == "__main__":
    if sys.argv[1:2] == ["--once"]:
        read_once(sys.argv[2], sys.argv[3])
    else:
        main(int(sys.argv[1]) if len(sys.argv) > 1 else 200_000)
