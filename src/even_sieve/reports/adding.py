"""A block added to a report file, or a report made for it."""

import tomllib
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import tomli_w
from pydantic import ValidationError

from even_sieve.core.errors import CallError, SieveError
from even_sieve.reports.model import ReportFile, read_report
from even_sieve.reports.report import Report


def add_block(path: Path, block: Mapping[str, Any], rest: Mapping[str, Any]) -> str:
    """Add a block to a report file, and return what was done in words.

    A report that is not there is made, with the `rest` of its keys: its source at least. What
    stands in the file already is left as it is. The report is run
    with the block before it is written. Raises `CallError` for another ending, `ReportError`
    for a report that cannot be used, and what running it raises.
    """
    if path.suffix.lower() != ".toml":
        raise CallError(f"{path}: a report is a TOML file\nName a file that ends in .toml")
    said = {key: value for key, value in block.items() if value not in ("", None)}
    added = tomli_w.dumps({"blocks": [said]}, multiline_strings=False)
    if path.exists():
        read_report(path)
        before = path.read_text(encoding="utf-8")
        whole = f"{before.rstrip()}\n\n{added}"
        told = f"added to {path}"
    else:
        whole = f"{tomli_w.dumps({'title': 'Tried out', **rest})}\n{added}"
        told = f"made: {path}"
    try:
        file = ReportFile.model_validate(tomllib.loads(whole))
        Report(file, str(path), path.parent).check()
    except (ValidationError, tomllib.TOMLDecodeError) as error:
        raise CallError(f"{path}: the block does not fit there: {error}") from None
    except SieveError as error:
        raise CallError(
            f"{path}: nothing was added, for the report does not run: {error}"
        ) from None
    path.write_text(whole, encoding="utf-8")
    return f"{told}; run it: even-sieve run {path}"
