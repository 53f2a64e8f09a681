"""What may import what, and what a start-up may load."""

import ast
import re
import subprocess
import sys
from pathlib import Path

import pytest

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


def test_reading_and_tallying_a_file_needs_no_pandas(harbour):
    code = (
        "import sys; from even_sieve import read_table\n"
        f"print(read_table({str(harbour / 'calls.csv')!r}).tally('rows')[0].value)\n"
        "print('pandas' in sys.modules)"
    )
    run = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert run.stdout.split() == ["438", "False"]


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
