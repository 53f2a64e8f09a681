"""Reading a workbook of 200,000 rows and 12 columns: the time, and how far the memory grows.

The reading stands beside openpyxl alone going through the same cells without keeping them;
memory stands beside the size of the sheet's XML, which a reader that is not bounded holds.

    python bench/workbook.py [ROWS]
"""

import resource
import subprocess
import sys
import tempfile
import time
import zipfile
from pathlib import Path


def write_calls(path: Path, rows: int) -> None:
    from openpyxl import Workbook

    book = Workbook(write_only=True)
    sheet = book.create_sheet("calls")
    sheet.append(["call", *(f"c{i}" for i in range(11))])
    for i in range(rows):
        paid = "waived" if i % 50 == 0 else i / 100
        start = [f"C{i:07}", f"O-{i % 12}", "Outer", f"V{i % 4000}", "tanker", i % 90, i / 4]
        sheet.append([*start, i * 7 / 100, paid, "paid", "fog" if i % 5 == 0 else None, i])
    book.save(path)


def read_once(way: str, path: str) -> None:
    """Read in this process and print the seconds and the growth of memory in MiB."""
    import openpyxl

    from even_sieve import read_table

    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    start = time.perf_counter()
    if way == "even-sieve":
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
        path = Path(folder) / "calls.xlsx"
        write_calls(path, rows)
        with zipfile.ZipFile(path) as parts:
            xml = parts.getinfo("xl/worksheets/sheet1.xml").file_size >> 20
        print(f"{rows:,} rows of 12 cells; the sheet's XML has {xml} MiB")
        found = {}
        for way in ("even-sieve", "openpyxl alone"):
            command = [sys.executable, __file__, "--once", way, str(path)]
            words = subprocess.run(command, capture_output=True, text=True, check=True).stdout
            found[way] = seconds, grown = tuple(map(float, words.split()))
            print(f"  {way:<16} {seconds:6.2f} s  grown by {grown:6.0f} MiB")
        own, bare = found["even-sieve"], found["openpyxl alone"]
        print(f"  ours / openpyxl alone: {own[0] / bare[0]:.2f}; grown / XML: {own[1] / xml:.2f}")


if __name__ == "__main__":
    if sys.argv[1:2] == ["--once"]:
        read_once(sys.argv[2], sys.argv[3])
    else:
        main(int(sys.argv[1]) if len(sys.argv) > 1 else 200_000)
