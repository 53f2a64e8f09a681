"""The tutorial and the README are true: every command gives the output that stands under it."""

import re
import shlex
from pathlib import Path

import pytest
from click.testing import CliRunner

from even_sieve.cli.main import main
from even_sieve.demo.make import write_files

ROOT = Path(__file__).parent.parent
PAGES = [ROOT / "docs" / "tutorial.md", ROOT / "README.md"]
BLOCKS = re.findall(
    r"```(console|toml)\n(.*?)\n```", "\n".join(page.read_text() for page in PAGES), re.DOTALL
)


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    folder = tmp_path_factory.mktemp("tutorial")
    write_files(folder)
    reports = [text for kind, text in BLOCKS if kind == "toml"]
    for name, report in zip(("mine.toml", "month.toml"), reports, strict=True):
        (folder / name).write_text(report + "\n")
    # What later commands take up from earlier ones: each is run by itself, in any order.
    words = ["run", str(folder / "month.toml"), "--to", str(folder / "october")]
    assert CliRunner().invoke(main, words).exit_code == 0
    return folder


CONSOLE = [text for kind, text in BLOCKS if kind == "console"]


@pytest.mark.parametrize("text", CONSOLE, ids=[text.splitlines()[0][2:50] for text in CONSOLE])
def test_a_command_gives_the_output_under_it(folder, monkeypatch, text):
    monkeypatch.chdir(folder)
    joined = text.replace(" \\\n    ", " ")
    command, _, output = joined.partition("\n")
    program, *words = shlex.split(command.removeprefix("$ "))
    if program == "cat":
        found = (folder / words[0]).read_text()
    else:
        assert program == "even-sieve"
        found = CliRunner().invoke(main, words).output
    lines = [line.rstrip() for line in found.strip("\n").splitlines()]
    if "…" not in output.splitlines():
        assert lines == output.splitlines()
        return
    shown = "\n".join(lines)
    for part in output.removesuffix("\n…").removeprefix("…\n").split("\n…\n"):
        assert part in shown


def test_both_pages_have_their_commands():
    assert len(CONSOLE) == 21
