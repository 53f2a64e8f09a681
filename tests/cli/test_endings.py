"""How the command line ends: each cause in its own way, never in a traceback."""

import signal
import subprocess
import sys
import time
from contextlib import suppress

import pytest

from even_sieve.cli import entry

PROGRAM = [sys.executable, "-m", "even_sieve"]


def test_a_reader_that_goes_away_ends_it_quietly(harbour):
    run = subprocess.Popen(
        [*PROGRAM, "rows", "calls.csv"], cwd=harbour, stdout=subprocess.PIPE, stderr=subprocess.PIPE
    )
    run.stdout.close()
    assert (run.wait(60), run.stderr.read()) == (141, b"")


def test_a_full_device_is_one_clear_line(harbour):
    with open("/dev/full", "wb") as full:
        run = subprocess.run(
            [*PROGRAM, "tally", "calls.csv", "rows"],
            cwd=harbour,
            stdout=full,
            stderr=subprocess.PIPE,
        )
    assert (run.returncode, run.stderr.decode().count("\n")) == (1, 1)
    assert b"the output cannot be written: No space left on device" in run.stderr


def _heed() -> None:
    """Be interrupted by Ctrl-C, also where the tests are run in the background of a shell."""
    signal.signal(signal.SIGINT, signal.SIG_DFL)


def test_an_interrupt_has_its_own_status_and_leaves_nothing(harbour, tmp_path):
    for name in ("harbour.toml", "harbour.ods", "tariff.csv"):
        (tmp_path / name).write_bytes((harbour / name).read_bytes())
    run = subprocess.Popen([*PROGRAM, "run", "harbour.toml", "--watch", "--to", "out"], cwd=tmp_path,
                           stdout=subprocess.PIPE, stderr=subprocess.PIPE, preexec_fn=_heed)  # fmt: skip
    run.stdout.readline()  # it has begun, however busy the machine is
    time.sleep(0.3)
    run.send_signal(signal.SIGINT)
    said = run.communicate(timeout=60)[1]
    assert (run.returncode, said.strip()) == (130, b"even-sieve: interrupted")
    assert list(tmp_path.rglob(".*")) == []


def _swallow(words):
    with suppress(KeyboardInterrupt):
        signal.raise_signal(signal.SIGINT)
    return 0


def _make_another(words):
    try:
        signal.raise_signal(signal.SIGINT)
    except KeyboardInterrupt:
        raise TypeError("incompatible arguments") from None


@pytest.mark.parametrize("run", [_swallow, _make_another])
def test_an_interrupt_is_one_whatever_a_library_makes_of_it(run, monkeypatch, capsys):
    monkeypatch.setattr(entry, "_run", run)
    before = signal.signal(signal.SIGINT, signal.default_int_handler)
    try:
        with pytest.raises(SystemExit) as caught:
            entry.run(["tally"])
    finally:
        signal.signal(signal.SIGINT, before)
    assert (caught.value.code, capsys.readouterr().err) == (130, "even-sieve: interrupted\n")


def test_what_nobody_foresaw_is_a_fault_of_ours_and_says_how_to_report_it(monkeypatch, capsys):
    def fail(words):
        raise KeyError("all")

    monkeypatch.setattr(entry, "_run", fail)
    for words, traced in ((["tally"], False), (["--debug", "tally"], True)):
        with pytest.raises(SystemExit) as caught:
            entry.run(words)
        said = capsys.readouterr().err
        assert caught.value.code == 3
        assert "this is a fault of Even Sieve, please report it: KeyError: 'all'" in said
        assert ("Traceback" in said) == traced


def test_words_that_are_no_text_are_shown_escaped(harbour):
    run = subprocess.run(
        [*PROGRAM, "tally", b"caf\xe9.csv", "rows"], cwd=harbour, capture_output=True
    )
    assert (run.returncode, b"caf\\udce9.csv" in run.stderr) == (2, True)


@pytest.mark.parametrize(
    ("words", "status"),
    [
        (["--version"], 0),
        (["tally"], 2),
        (["nothing"], 2),
        (["demo"], 0),
        (["bridge", "calls.csv", "rows", "--criteria", "no\0.csv"], 2),
    ],
)
def test_a_command_keeps_its_own_status(words, status, capsys):
    with pytest.raises(SystemExit) as caught:
        entry.run(words)
    assert caught.value.code == status
