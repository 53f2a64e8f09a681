"""The usual set of measures of a column: what `all of` stands for."""

from collections.abc import Iterable, Iterator
from dataclasses import replace

from even_sieve.core.cells import Kind
from even_sieve.core.errors import UnknownColumn
from even_sieve.core.measures import MeasureRequest
from even_sieve.core.measures.request import parse_measure
from even_sieve.core.measures.signatures import (
    ALL,
    ALL_OF_NUMBERS,
    ALL_OF_ORDERED,
    ALL_OF_OTHERS,
)
from even_sieve.core.table import Column, Table


def spell_out(table: Table, requests: Iterable[MeasureRequest]) -> list[MeasureRequest]:
    """Return the measures with the usual set in the place of each `all of`."""
    return [each for request in requests for each in _spelt_out(table, request)]


def _spelt_out(table: Table, request: MeasureRequest) -> Iterator[MeasureRequest]:
    if request.kind != ALL:
        yield request
        return
    try:
        column = table.column(request.column or "")
    except UnknownColumn as error:
        raise error.at(f"measure '{request.words}'") from None
    for stem in _stems(column):
        plain = parse_measure(f"{stem} of x")
        named = request.name.startswith(f"{ALL} ")
        name = f"{stem}{request.name[len(ALL) :]}" if named else f"{request.name}, {stem}"
        where, keep = request.where, request.keep
        yield replace(plain, column=request.column, where=where, keep=keep, name=name)


def _stems(column: Column) -> tuple[str, ...]:
    if column.leading in (Kind.DATE, Kind.TEXT):
        return ALL_OF_ORDERED
    return ALL_OF_NUMBERS if column.leading is Kind.NUMBER else ALL_OF_OTHERS
