"""What may import what, and what a start-up may load."""

import ast
import random
import re
import subprocess
import sys
from decimal import Decimal
from pathlib import Path

import pyarrow as pa
import pytest
from pyarrow import parquet

import even_sieve

HEAVY = ("pandas", "pyarrow", "matplotlib")
STARTS = [
    ("import even_sieve", (*HEAVY, "numpy", "click", "rich")),
    ("import even_sieve.core.tally", (*HEAVY, "click", "rich", "jinja2")),
    ("from even_sieve import parse_criteria", HEAVY),
    ("from even_sieve.cli.main import main; main(['--help'], standalone_mode=False)", (*HEAVY, "rich")),
    ("from even_sieve.cli.main import main; main(['tally', '--help'], standalone_mode=False)", (*HEAVY, "rich")),
]  # fmt: skip
#: All that the recheck may know: what a cell is, how criteria and measures are written down.
RECHECK_MAY_IMPORT = {
    "even_sieve.core.cells", "even_sieve.core.progress", "even_sieve.core.table", "even_sieve.core.table.lanes",
    "even_sieve.core.criteria.conditions", "even_sieve.core.criteria.nodes",
    "even_sieve.core.criteria.operands",
    "even_sieve.core.measures.request",
    "even_sieve.core.criteria.ranges", "even_sieve.core.criteria.settings",
}  # fmt: skip
PLAIN_PYTHON = {"calendar", "collections", "collections.abc", "dataclasses", "datetime", "decimal", "fractions",
                "functools", "itertools", "re", "typing", "unicodedata"}  # fmt: skip


def test_the_recheck_imports_nothing_but_what_it_may():
    folder = Path(even_sieve.__file__).parent / "core" / "recheck"
    for module in folder.glob("*.py"):
        for node in ast.walk(ast.parse(module.read_text(encoding="utf-8"))):
            if isinstance(node, ast.Import):
                names = {each.name for each in node.names}
            elif isinstance(node, ast.ImportFrom):
                names = {node.module}
            else:
                continue
            own = {name for name in names if name.startswith("even_sieve.core.recheck")}
            assert names - own <= RECHECK_MAY_IMPORT | PLAIN_PYTHON, module.name
            brought = {each.name for each in node.names if names - own - PLAIN_PYTHON}
            readers = {each for each in brought if each.startswith(("read_", "parse_", "resolve_"))}
            assert not readers, f"{module.name} reads words with the fast way's own readers"


@pytest.mark.parametrize(("start", "absent"), STARTS)
def test_a_start_up_does_not_load_what_it_does_not_need(start, absent):
    code = f"{start}\nimport sys\nprint('loaded:', *[m for m in {absent!r} if m in sys.modules])"
    run = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert run.stdout.splitlines()[-1].strip() == "loaded:"


def test_reading_tallying_and_writing_need_no_pandas(harbour, tmp_path):
    chance, rows = random.Random(), range(9000)
    shapes = [
        lambda: f"{chance.random():.15f}", lambda: f"{chance.randrange(10**21)}",
        lambda: f"{chance.randrange(1, 28)}.5.2031 {chance.randrange(24)}:05",
        lambda: chance.choice(["1e9", "7", "waived"]), lambda: f"{chance.randrange(10**6)} EUR",
        lambda: f"Höhe {chance.randrange(10**6)}", lambda: chance.choice(["", "yes", "#N/A"]),
        lambda: chance.choice(["", "", "", f"n{chance.randrange(10**6)}"]),
    ]  # fmt: skip
    lines = [",".join(f"c{i}" for i in range(len(shapes)))]
    lines += [",".join(shape() for shape in shapes) for _ in rows]
    (tmp_path / "odd.csv").write_text("\n".join(lines))
    typed = {
        "short": pa.array([chance.choice([None, 0.5]) for _ in rows], pa.float32()),
        "paid": pa.array([chance.choice([None, True]) for _ in rows]),
        "dues": pa.array([chance.choice([None, Decimal("1.25")]) for _ in rows], pa.decimal128(9, 2)),
        "zone": pa.array([chance.choice([None, "Outer"]) for _ in rows], pa.large_string()),
        "berth": pa.array([chance.choice([None, "B1"]) for _ in rows]).dictionary_encode(),
    }  # fmt: skip
    parquet.write_table(pa.table(typed), tmp_path / "typed.parquet")
    code = (
        "import sys; from even_sieve import read_table\n"
        f"for file in {[str(harbour / 'calls.csv'), *map(str, tmp_path.iterdir())]!r}:\n"
        "    made = read_table(file, date_order='day-month-year') if 'odd' in file else read_table(file)\n"
        "    print(made.tally('rows')[0].value, len(str(made.profile())) > 100)\n"
        "    made.write(file + '.parquet'); made.write(file + '.arrow')\n"
        "print('pandas' in sys.modules)"
    )
    run = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert sorted(run.stdout.split()) == sorted(
        ["438", "9000", "9000", "True", "True", "True", "False"]
    )


def test_every_public_name_is_there_and_has_an_example():
    for name in even_sieve.__all__:
        assert ">>> " in (getattr(even_sieve, name).__doc__ or ""), name
    with pytest.raises(AttributeError, match="has no attribute 'nothing'"):
        even_sieve.nothing  # noqa: B018


def test_every_public_name_has_its_place_in_the_reference():
    pages = (Path(__file__).parent.parent / "docs" / "api").glob("*.md")
    named = [
        name
        for page in pages
        for name in re.findall(r"^::: even_sieve\.(?:.*\.)?(\w+)$", page.read_text(), re.M)
    ]
    assert sorted(named) == sorted(even_sieve.__all__)
