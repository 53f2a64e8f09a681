"""Criteria as a call gives them: text, nodes, ranges, or several of these together."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from even_sieve.core.criteria import (
    ParameterValue,
    PlainValue,
    RangeCriteria,
    criteria_from_range,
    criteria_from_records,
    operand_of,
    parameter_from_text,
)
from even_sieve.core.errors import ParameterError
from even_sieve.core.understood import refused
from even_sieve.sources.contents import read_bytes
from even_sieve.sources.csv import read_plain_rows
from even_sieve.sources.files import read_inside
from even_sieve.sources.frames import frame_rows
from even_sieve.sources.paths import path_of


def read_criteria(source: Any) -> RangeCriteria:
    """Return the criteria of a criteria range: column names, below them rows of conditions.

    The source is the path of a CSV file, a block or name in a workbook
    (`calls.ods!wanted`), a pandas data frame, a list of mappings, or a list of rows of
    which the first is the header. Across a row all must hold; the rows
    are alternatives; a blank cell sets no condition.

    >>> read_criteria([["zone", "dues"], ["Outer", ">= 500"]]).notices
    ()
    """
    if isinstance(source, str | Path):
        inside = read_inside(str(source))
        if inside is not None:
            (header, *below), told = inside
            found = criteria_from_range(header, below, source=str(source))
            told = tuple(replace(each, text=f"criteria range: {each.text}") for each in told)
            return replace(found, notices=(*found.notices, *told))
        return criteria_from_rows(read_bytes(Path(source)), str(source))
    if hasattr(source, "iloc"):
        source = [list(source.columns), *frame_rows(source)]
    accepted = "a path, a data frame, mappings, or rows of cells"
    if not isinstance(source, Iterable):
        raise refused("a criteria range", accepted, source)
    rows = list(source)
    if rows and all(isinstance(row, Mapping) for row in rows):
        return criteria_from_records(rows)
    if not rows or isinstance(rows[0], str):
        raise refused("a criteria range", accepted, source)
    return criteria_from_range(rows[0], rows[1:])


def read_parameters(source: str | Path) -> dict[str, ParameterValue]:
    """Return the parameters of two columns, name and value, below a header.

    The source is a CSV file, or a block or name in a workbook (`calls.ods!values`).
    A name that stands several times has several values: alternatives. A blank value takes
    its condition away. Raises `ParameterError` for a row that is not a name and a value, and
    for a block with cells right below it: a value of a list would be missing.

    >>> import even_sieve
    >>> import pathlib, tempfile
    >>> values = pathlib.Path(tempfile.mkdtemp(), "values.csv")
    >>> _ = values.write_text("name,value\\nleast,100\\n")
    >>> even_sieve.read_parameters(values)
    {'least': Number(value=Decimal('100'), text='100')}
    """
    (_, header), *rows = _parameter_rows(str(path_of("what holds parameters", source)))
    if len(header) != 2:
        raise ParameterError(str(source), "two columns are needed: name and value")
    found: dict[str, list[PlainValue]] = {}
    for number, row in rows:
        if not any(str(cell or "").strip() for cell in row):
            continue
        if len(row) != 2 or not str(row[0] or "").strip():
            raise ParameterError(str(source), f"row {number} is not a name and a value")
        value = row[1]
        read = parameter_from_text(value) if isinstance(value, str) else operand_of(value)
        found.setdefault(str(row[0]).strip(), []).append(read)
    return {name: values[0] if len(values) == 1 else values for name, values in found.items()}


def _parameter_rows(source: str | Path) -> list[tuple[int, Sequence[Any]]]:
    inside = read_inside(str(source))
    if inside is not None:
        cells, told = inside
        if told:  # a value of its list would be missing, and nothing would say so
            raise ParameterError(str(source), f"{told[0].text}: is the block too short?")
        return list(enumerate(cells, 1))
    return list(read_plain_rows(read_bytes(Path(source)), str(source)))


def criteria_from_rows(content: bytes, source: str) -> RangeCriteria:
    """Return the criteria laid out in the bytes of a CSV file that is called `source`."""
    rows = read_plain_rows(content, source)
    (_, header), below = rows[0], rows[1:]
    return criteria_from_range(
        header,
        [record for _, record in below],
        source=source,
        numbers=[number for number, _ in below],
    )
