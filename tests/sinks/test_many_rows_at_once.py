"""CSV, JSON Lines and workbooks, written so many rows at once: as each cell by itself would be."""

import csv
import json
import random
from datetime import date, datetime, timedelta
from decimal import Decimal
from io import StringIO

import pytest

from even_sieve import CellError, table_from
from even_sieve.core.errors import SourceError
from even_sieve.documents.values import plain_json
from even_sieve.sinks import csv as csv_sink
from even_sieve.sinks import json_lines, xlsx
from even_sieve.sinks.files import write_file
from even_sieve.sinks.tokens import harmless, token

MAKE = {
    "whole": lambda g: g.choice([g.randrange(-9, 10), g.randrange(-(10**18), 10**18)]),
    "cents": lambda g: g.randrange(-(10**6), 10**6) / 100,
    "small": lambda g: g.choice([0.000005, 0.0000007, -0.00125, 12.5]),
    "doubles": lambda g: g.choice([g.uniform(-1, 1), g.uniform(-1, 1) * 10 ** g.randrange(-300, 300), -0.0]),
    "long": lambda g: Decimal(g.randrange(10**25)) / 10 ** g.randrange(9),
    "texts": lambda g: "".join(g.choices('ab ü",;\'\\=-+@\t\n🚢/{}0\u2028\x01', k=g.randrange(1, 5))) + "x",
    "words": lambda g: g.choice(["East", "West quay", '"in"', "=run", "a,b", "\\", "a\nb", "é"]),
    "days": lambda g: date(1, 1, 1) + timedelta(g.randrange(3_650_000)),
    "moments": lambda g: datetime(1, 1, 2) + timedelta(g.randrange(9**6), g.choice([0, 60, 61]), g.choice([0, 0, 500_000, 1])),
    "yes": lambda g: g.random() < 0.5,
    "errors": lambda g: CellError(g.choice(["#N/A", "=odd", "a,b", 'q"']), "so"),
    "blank": lambda g: None,
}  # fmt: skip


def column(g, rows):
    kinds = g.choice(
        [[g.choice(list(MAKE))], [g.choice(list(MAKE)), "blank"], g.sample(list(MAKE), 4)]
    )
    dated = [each for each in kinds if each in ("days", "moments")]
    kinds = [each for each in kinds if each not in dated[1:]]  # a column has one precision
    return [MAKE[g.choice(kinds)](g) for _ in range(rows)]


def table(g):
    rows = g.choice([1, 7, 60])
    names = g.sample(["dues", "=berth", 'a"b', "c,d", "Höhe", "x\ny"], g.choice([1, 2, 5]))
    return table_from({name: column(g, rows) for name in names}).core


@pytest.mark.parametrize("ending", ["csv", "jsonl", "parquet", "arrow"])
@pytest.mark.parametrize("cells", [["a\ud800", "b"], ["a\ud800", 5]])
def test_half_of_a_letter_is_refused(tmp_path, ending, cells):
    with pytest.raises(SourceError, match=r"a text holds U\+D800, half of a letter"):
        table_from({"berth": cells}).write(tmp_path / f"a.{ending}")
    assert not list(tmp_path.iterdir())


def cells_of(found):
    return zip(*(list(each.cells()) for each in found.columns), strict=True)


@pytest.mark.parametrize("left", [False, True])
def test_a_csv_is_as_the_standard_library_writes_it(tmp_path, monkeypatch, left):
    monkeypatch.setattr(csv_sink, "ROWS", 13)
    seed = random.randrange(10**9)
    for case in range(60):
        found = table(random.Random(f"{seed}/{case}"))
        write_file(found, tmp_path / "a.csv", leave_formulas=left)
        spell = (lambda text, cell: text) if left else harmless
        rows = [[spell(name, name) for name in found.names]]
        for row in cells_of(found):
            pairs = zip(row, found.columns, strict=True)
            rows.append([spell(token(cell, own.decimals), cell) for cell, own in pairs])
        wanted, written = {}, (tmp_path / "a.csv").read_text(encoding="utf-8")
        for quoting in (csv.QUOTE_MINIMAL, csv.QUOTE_ALL):
            out = StringIO()
            csv.writer(out, lineterminator="\n", quoting=quoting).writerows(rows)
            wanted[quoting] = out.getvalue()
        alone = len(found.columns) == 1  # what holds another separator stands in quotes
        assert written in (list(wanted.values()) if alone else [wanted[csv.QUOTE_MINIMAL]]), seed


def test_json_lines_hold_each_cell_as_it_is_by_itself(tmp_path, monkeypatch):
    monkeypatch.setattr(json_lines, "ROWS", 13)
    seed = random.randrange(10**9)
    for case in range(60):
        found = table(random.Random(f"{seed}/{case}"))
        write_file(found, tmp_path / "a.jsonl")
        lines = (tmp_path / "a.jsonl").read_text(encoding="utf-8").removesuffix("\n").split("\n")
        for number, (line, row) in enumerate(zip(lines, cells_of(found), strict=True)):
            record = json.loads(line, parse_float=Decimal)
            cells = dict(zip(found.names, map(plain_json, row), strict=True))
            wanted = {name: each for name, each in cells.items() if each is not None or not number}
            assert list(record) == list(wanted), (seed, case)
            for name, cell in wanted.items():
                is_number = isinstance(cell, int | float | Decimal) and not isinstance(cell, bool)
                exact = Decimal(str(cell)) if is_number else cell
                got = (
                    record[name]
                    if isinstance(record[name], bool | str | None)
                    else Decimal(record[name])
                )
                assert (type(got), got) == (type(exact), exact), (seed, case)


def test_rows_of_workbooks_are_as_each_cell_is_by_itself(tmp_path, monkeypatch):
    seed = random.randrange(10**9)
    for case in range(30):
        g = random.Random(f"{seed}/{case}")
        names = ["dues", "=berth", "Höhe"]
        cells = {name: column(g, 40) for name in names}
        plain = {
            n: [c.replace("\x01", "&") if isinstance(c, str) else c for c in own]
            for n, own in cells.items()
        }
        found = table_from(plain).mark(hidden=[g.random() < 0.2 for _ in range(40)]).core
        monkeypatch.setattr(xlsx, "ROWS", 13)
        write_file(found, tmp_path / "many.xlsx")
        with monkeypatch.context() as patch:
            patch.setattr(xlsx._Column, "maker", lambda self: None)
            write_file(found, tmp_path / "few.xlsx")
        assert (tmp_path / "many.xlsx").read_bytes() == (tmp_path / "few.xlsx").read_bytes(), (
            seed,
            case,
        )
