"""Let a coverage-guided fuzzer look for bytes that go new ways: `python fuzz/guided.py [SECONDS]`.

It needs atheris, which installs where it has wheels: `pip install atheris`. What is found is kept
in tests/found, where the tests try it again without it.
"""

import hashlib
import json
import sys
import tempfile
from pathlib import Path

import atheris

with atheris.instrument_imports(include=["even_sieve"]):
    import damage
    import octets

_FOUND = Path(__file__).parent.parent / "tests" / "found"


def _once(data):
    try:
        octets.check(data.hex())
    except Exception:
        name = hashlib.sha256(data).hexdigest()[:12]
        found = {"kind": "octets", "seed": data.hex()}
        (_FOUND / f"octets-{name}.json").write_text(json.dumps(found) + "\n")
        raise


def _corpus():
    """Return a folder of beginnings: files of every format, and words."""
    folder = Path(tempfile.mkdtemp())
    words = [b"zone = Outer and dues > 5", b"arrived by month", b"x = dues / 2", b"sum of dues where paid"]  # fmt: skip
    files = damage.sound().values()
    for number, data in enumerate([*words, *files]):
        for way in range(octets.WAYS):
            (folder / f"{number}-{way}").write_bytes(bytes([way]) + data)
    return str(folder)


if __name__ == "__main__":
    seconds = sys.argv[1] if sys.argv[1:] else "60"
    atheris.Setup([sys.argv[0], f"-max_total_time={seconds}", "-rss_limit_mb=2048", "-timeout=20", "-max_len=4096", _corpus()], _once)  # fmt: skip
    atheris.Fuzz()
