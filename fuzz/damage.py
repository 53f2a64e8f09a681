"""Files of every format, damaged with an eye for how they are built: what comes out is ours.

A packed file is damaged inside of its parts too, XML at its tags and numbers, Arrow and Parquet
at the counts and offsets that are small whole numbers.
"""

import io
import random
import tempfile
import zipfile
from pathlib import Path

from even_sieve import read_table
from even_sieve.core.errors import SieveError
from even_sieve.demo.make import demo_path
from even_sieve.sources.files import read_content
from even_sieve.sources.source_options import SourceOptions

_NUMBERS = [b"0", b"1", b"-1", b"999999999", b"4294967296", b"1e999", b"NaN", b"", b"A" * 300]
_FILES: dict[str, bytes] = {}


def sound():
    """Return small sound files of every format by name, made once."""
    if not _FILES:
        folder = Path(tempfile.mkdtemp())
        calls, tariff = (read_table(demo_path(f"{name}.csv")) for name in ("calls", "tariff"))
        for ending in ("csv", "jsonl", "parquet", "arrow"):
            calls.write(folder / f"calls.{ending}")
        for ending in ("xlsx", "ods"):
            tariff.write(folder / f"tariff.{ending}")
        for path in folder.iterdir():
            _FILES[path.name] = path.read_bytes()
    return _FILES


def check(seed):
    """Raise what is not the product's own error, or an account that does not add up."""
    chance = random.Random(seed)
    name, content = damaged(chance)
    try:
        table = read_content(content, name, SourceOptions())
        column = chance.choice(table.names)
        _add_up(table, column)
    except SieveError:
        return


def _add_up(table, column):
    from even_sieve import Query
    from even_sieve.core.measures.request import parse_measure
    from even_sieve.core.tally import tally

    request = parse_measure(f'filled of "{column}"') if '"' not in column else parse_measure("rows")
    account = tally(Query.of(), table, [request])[0].account
    assert account.rows == len(table), "the account does not add up"


def damaged(chance):
    """Return the name and the bytes of a damaged file."""
    name = chance.choice(sorted(sound()))
    content = sound()[name]
    if name.endswith(("xlsx", "ods")) and chance.random() < 0.8:
        return name, _repacked(chance, content)
    return name, _changed(chance, content)


def _changed(chance, content):
    found = bytearray(content)
    for _ in range(chance.randrange(1, 6)):
        if not found:
            return b"x"
        at = chance.randrange(len(found))
        way = chance.randrange(6)
        if way < 2:
            found[at] = chance.randrange(256)
        elif way == 2:
            del found[at : at + chance.randrange(1, 60)]
        elif way == 3:
            found[at:at] = found[at : at + chance.randrange(1, 200)]
        elif way == 4:  # a count or an offset of four or eight bytes
            size = chance.choice([4, 8])
            found[at : at + size] = chance.choice([0, 1, 2**31 - 1, 2**31]).to_bytes(size, "little")
        else:
            del found[at:]
    return bytes(found) or b"x"


def _repacked(chance, content):
    """Return a packed file with one part changed, doubled, left out or replaced."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(content)) as parts, zipfile.ZipFile(out, "w") as made:
        names = parts.namelist()
        chosen = chance.choice(names)
        for part in names:
            data = parts.read(part)
            if part == chosen:
                way = chance.randrange(5)
                if way == 0:
                    continue
                data = _changed(chance, data) if way == 1 else _changed_xml(chance, data)
            made.writestr(part, data, zipfile.ZIP_DEFLATED)
    return out.getvalue()


def _changed_xml(chance, data):
    """Return XML with a number, a tag or an attribute changed."""
    pieces = data.split(b'"')
    if len(pieces) < 3:
        return _changed(chance, data)
    for _ in range(chance.randrange(1, 4)):
        at = chance.randrange(len(pieces) // 2) * 2 + 1
        pieces[at] = chance.choice([*_NUMBERS, chance.choice(pieces)])
    found = b'"'.join(pieces)
    if chance.random() < 0.3:
        tag = chance.choice([b"<v>", b"<c ", b"<row ", b"</row>", b"<f>", b"</table:table-row>"])
        found = found.replace(tag, chance.choice([b"", tag + tag, b"<x>"]), 1)
    return found
