"""What may import what, and what a start-up may load."""

import subprocess
import sys

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


def test_every_public_name_is_there_and_has_a_docstring():
    for name in even_sieve.__all__:
        assert getattr(even_sieve, name).__doc__
    with pytest.raises(AttributeError, match="has no attribute 'nothing'"):
        even_sieve.nothing  # noqa: B018
