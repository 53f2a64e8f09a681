"""Completion in the shell: commands, options, and what the file on the line holds."""

import copy

import pytest
from click.shell_completion import BashComplete
from click.testing import CliRunner

from even_sieve.cli.completion import SHELLS, VARIABLE, complete_commands
from even_sieve.cli.main import main


@pytest.fixture
def complete(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    (tmp_path / "calls.csv").write_text(
        "zone,dues,paid by,arrived\nOuter,1,bank,2031-01-05\nInner,2,cash,2031-02-01\nOuter,3,bank,2031-02-02\n"
    )
    whole = copy.deepcopy(main)
    complete_commands(whole)

    def ask(*words):
        monkeypatch.setenv("COMP_WORDS", " ".join(("even-sieve", *words)))
        asked = BashComplete(whole, {}, "even-sieve", VARIABLE)
        return [each.value for each in asked.get_completions(list(words[:-1]), words[-1])]

    return ask


@pytest.mark.parametrize(("words", "found"), [
    (["ta"], ["tally"]),
    (["tally", "calls.csv", "--acr"], ["--across"]),
    (["tally", "calls.csv", "--format", "j"], ["json"]),
    (["tally", "calls.csv", "sum of du"], ["sum of dues"]),
    (["tally", "calls.csv", "av"], ["average of"]),
    (["tally", "calls.csv", "late = sum of du"], ["late = sum of dues"]),
    (["tally", "calls.csv", "rows where zone = o"], ["rows where zone = Outer"]),
    (["tally", "calls.csv", "rows", "--by", "pa"], ["paid by"]),
    (["tally", "calls.csv", "rows", "--by", "arrived by mon"], ["arrived by month", "arrived by month of year"]),
    (["tally", "calls.csv", "rows", "--where", "pa"], ["paid by"]),
    (["tally", "calls.csv", "rows", "--where", "zone = "], ["zone = Outer", "zone = Inner"]),
    (["tally", "calls.csv", "rows", "--where", "dues > 1 and (paid by = b"], ["dues > 1 and (paid by = bank"]),
    (["rows", "calls.csv", "--columns", "zone,d"], ["zone,dues"]),
    (["tally", "nowhere.csv", "rows", "--by", "zo"], []),
])  # fmt: skip
def test_what_is_begun_is_offered(complete, words, found):
    assert complete(*words) == found


def test_files_are_left_to_the_shell(complete, tmp_path):
    assert complete("tally", "ca") == ["ca"]  # as a file: the shell looks for it
    (tmp_path / "odd.csv").write_bytes(b"\xff\xfe\x00")
    assert complete("tally", "odd.csv", "rows", "--by", "z") == []


@pytest.mark.parametrize("shell", SHELLS)
def test_a_shell_gets_its_script(shell):
    printed = CliRunner().invoke(main, ["completion", shell]).stdout
    assert f"{VARIABLE}={shell}_complete" in printed
    assert "even-sieve" in printed
