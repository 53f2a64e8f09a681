"""Files that are damaged at random, of every kind: read, or refused as ours; nothing else."""

import random

import pytest

from even_sieve import read_table
from even_sieve.core.errors import SieveError
from even_sieve.demo.make import demo_path
from even_sieve.sources.files import read_content
from even_sieve.sources.source_options import SourceOptions

ENDINGS = ("csv", "jsonl", "parquet", "arrow", "ods", "xlsx")


def damaged(content, rng):
    found = bytearray(content)
    for _ in range(rng.randint(1, 6)):
        at, kind = rng.randrange(len(found)), rng.random()
        if kind < 0.6:
            found[at] = rng.randrange(256)
        elif kind < 0.8:
            del found[at : at + rng.randint(1, 50)]
        else:
            found = found[: max(at, 1)]
        found = found or bytearray(b"x")
    return bytes(found)


@pytest.mark.parametrize("ending", ENDINGS)
def test_a_damaged_file_is_read_or_refused_with_its_name(ending, tmp_path):
    path = tmp_path / f"tariff.{ending}"
    read_table(demo_path("tariff.csv")).write(path)
    content = path.read_bytes()
    said = []
    for seed in range(60):
        broken = damaged(content, random.Random(f"{ending}{seed}"))
        try:
            table = read_content(broken, path.name, SourceOptions())
        except SieveError as error:
            said.append(str(error))
            continue
        assert sum(1 for _ in table.records()) == table.length
    assert len(said) > 5
    assert all(path.name in each or "column" in each for each in said)
