"""Shared by all tests: one hypothesis profile, the harbour's files, helpers."""

import os
import sys
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

sys.path.insert(0, str(Path(__file__).parent))

from even_sieve.core.criteria import Binder, Settings, blocks, parse_criteria, prepare
from even_sieve.demo.make import write_files

settings.register_profile(
    "even-sieve",
    deadline=None,
    max_examples=120,
    # A change is judged on the same examples each time; at the desk they are new ones.
    derandomize=bool(os.environ.get("CI")),
    suppress_health_check=[HealthCheck.too_slow],
)
settings.load_profile("even-sieve")


@pytest.fixture(scope="session")
def harbour(tmp_path_factory):
    """A folder with the demo's files."""
    folder = tmp_path_factory.mktemp("harbour")
    write_files(folder)
    return folder


def mask(table, criteria, **values):
    """The mask of criteria, given as text or nodes, as a list."""
    nodes = parse_criteria(criteria, table.names) if isinstance(criteria, str) else criteria
    probe = Binder(table).probe(prepare(nodes, Settings(**values)).criteria)
    return [bool(each) for block in blocks(0, len(table), 5) for each in block.mask(probe)]


@pytest.fixture(name="mask")
def _mask():
    return mask
