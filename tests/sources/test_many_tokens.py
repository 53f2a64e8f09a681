"""Many different strings that come again are read in bulk, and as each would be by itself."""

import random

import numpy as np
import pyarrow as pa
import pytest

from even_sieve.sources.arrow_buffers import strings_of
from even_sieve.sources.shaped import Shaped
from even_sieve.sources.source_options import SourceOptions
from even_sieve.sources.string_columns import column_from_strings, column_of_tokens

pytestmark = pytest.mark.usefixtures("each_way")

DAY_FIRST = {"date_order": "day-month-year"}
SHAPES = {
    "money": (lambda n: f"{n / 100:.2f}", {}),
    "commas": (lambda n: f"{n:,}", {}),
    "decimal commas": (lambda n: f"{n // 7}.000,{n % 100:02}"[-9:], {"decimal": ","}),
    "long": (lambda n: f"{n}.{n * 7919:013}", {}),
    "percent": (lambda n: f"{n / 10}%", {}),
    "codes": (lambda n: f"{n:07}", {}),
    "words": (lambda n: f" Quay {n} " if n % 3 else f"quay {n}", {}),
    "days": (lambda n: f"{n % 28 + 1}.{n % 12 + 1:02}.{1900 + n % 400}", DAY_FIRST),
    "times": (lambda n: f"{n % 28 + 1:02}/{n % 12 + 1:02}/2031 {n % 24:02}:{n % 60:02}", DAY_FIRST),
    "mixed times": (lambda n: f"{n % 28 + 1}-1-{1900 + n % 99}" + f" {n % 24}:{n % 60:02}" * (n % 2),
                    DAY_FIRST),
    "offsets": (lambda n: f"2031-01-05T{n % 24:02}:{n % 60:02}:{n % 59:02}.{n % 1000:03}+0{n % 3}:00", {}),
}  # fmt: skip
ASIDE = [
    "",
    "waived",
    "#N/A",
    "24.12.2031 24:00",
    "31.02.2031",
    "1.5",
    "yes",
    "2031-05-01",
    " 7 ",
    "7",
    "waived ",
]
PARTS = [
    "€", "$ ", "(", ")", "%", "-", "+", ".", ",", "'", " ", "\u00a0", "e", "E+", "1", "23", "456",
    "7.890", "1,234", "05.04.2031", " 2:30 PM", "2031-05-04", "T10:00", "Z", "+02:00", "inf", "true",
    "#N/A", "#", "\x1f", "–", "é", "٣", "a", "港", "л",
]  # fmt: skip


@pytest.mark.parametrize("shape", SHAPES)
@pytest.mark.parametrize("aside", [0, 40])
def test_they_are_what_each_is_by_itself(shape, aside):
    chance = random.Random(f"{shape}{aside}")
    write, how = SHAPES[shape]
    options = SourceOptions.of(**how)
    different = [write(chance.randrange(10**6)) for _ in range(9000)]
    rows = [*chance.choices(different, k=50_000), *chance.choices(ASIDE, k=aside)]
    chance.shuffle(rows)
    assert_read_alike(rows, options)


@pytest.mark.parametrize("how", [{"decimal": ","}, DAY_FIRST, {"decimal": ",", **DAY_FIRST}, {}])
def test_strings_of_more_shapes_than_are_kept_are_read_so_too(how):
    chance = random.Random(seed := random.randrange(10**6))
    odd = ["".join(chance.choices(PARTS, k=chance.randint(1, 6))) for _ in range(6000)]
    assert Shaped(strings_of(odd)).shapes is None
    assert_read_alike(odd, SourceOptions.of(**how), seed)


def assert_read_alike(rows, options, seed=None):
    coded = pa.array(rows, pa.string()).dictionary_encode()
    codes = np.array(coded.indices)
    found = column_from_strings("dues", pa.array(rows, pa.string()), options)
    alone = column_of_tokens("dues", coded.dictionary.to_pylist(), codes, options)
    cells = list(found.cells())
    assert [*map(repr, cells)] == [*map(repr, alone.cells())], seed
    assert found.trimmed == alone.trimmed
    assert {each.text for each in found.notices} == {each.text for each in alone.notices}
    assert found.conventions == alone.conventions
