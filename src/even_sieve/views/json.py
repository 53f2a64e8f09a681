"""Results as JSON (RFC 8259): one object."""

import json
from collections.abc import Iterator, Sequence

from even_sieve.core.cells import CellError
from even_sieve.core.notices import Notice
from even_sieve.core.table import Profile
from even_sieve.core.tally import (
    ALL_VALUES,
    Added,
    Breakdown,
    Bridge,
    Counted,
    Explanation,
    Funnel,
    Heading,
    Line,
    LineSet,
    Recheck,
    Tallies,
    Tally,
)
from even_sieve.views.listing import Listing
from even_sieve.views.values import plain_amount, plain_json


def show_tallies(result: Tallies) -> str:
    """Return the tallies as one JSON object."""
    return _dump(tallies_object(result))


def show_breakdown(result: Breakdown) -> str:
    """Return the breakdown as one JSON object."""
    return _dump(
        {
            "by": list(result.by),
            "across": result.across,
            "lines": list(map(_line, result.lines)),
            "rest": None if result.rest is None else _line(result.rest),
            **(
                {"subtotals": [_subtotal(result, each) for each in result.subtotals]}
                if result.subtotals
                else {}
            ),
            "total": {"measures": [_tally(each) for each in result.total]},
            **_as_of(result.total),
            "notices": _notices(result.notices),
        }
    )


def _line(line: Line) -> dict[str, object]:
    key = [plain_json(value) for value in line.key]
    return {"key": key, "measures": [_tally(each) for each in line.tallies]}


def _subtotal(result: Breakdown, line: Line) -> dict[str, object]:
    """Return a subtotal; `of` names the axes whose values are in its key."""
    names = [*result.by, *([] if result.across is None else [result.across])]
    fixed = [(n, k) for n, k in zip(names, line.key, strict=True) if k is not ALL_VALUES]
    return {
        "of": [name for name, _ in fixed],
        "key": [plain_json(value) for _, value in fixed],
        "measures": [_tally(each) for each in line.tallies],
    }


def show_rows(result: Listing) -> str:
    """Return the rows as one JSON object: a record a row, its number under `row`."""
    records: list[dict[str, object]] = [
        {"row": number, "cells": {n: plain_json(c) for n, c in zip(result.names, row, strict=True)}}
        for number, row in zip(result.numbers, result.rows, strict=True)
    ]
    for record, verdict in zip(records, result.verdicts or (), strict=False):
        record |= {"matches": not verdict, "left_out_by": verdict or None}
    return _dump(
        {
            "rows": records,
            "matching": result.matching,
            "rows_in_table": result.rows_in_table,
            "notices": _notices(result.notices),
        }
    )


def show_bridge(result: Bridge) -> str:
    """Return the bridge as one JSON object: its figure, and a record a step."""
    steps = [
        {
            "reason": step.reason,
            "label": step.label,
            "rows": step.rows,
            "amount": plain_json(plain_amount(step.amount)),
            "rows_left": step.rows_left,
            "amount_left": plain_json(plain_amount(step.amount_left)),
        }
        for step in result
    ]
    figure = _tally(result.tally)
    return _dump({"figure": figure, "steps": steps, "notices": _notices(result.notices)})


def show_lines(result: LineSet) -> str:
    """Return the lines of a report as one JSON object."""
    return _dump({"lines": list(map(_entry, result)), "notices": _notices(result.notices)})


def _entry(entry: Heading | Counted | Added) -> dict[str, object]:
    if isinstance(entry, Heading):
        return {"heading": entry.label}
    if isinstance(entry, Counted):
        return {"label": entry.label, "measures": [_tally(each) for each in entry.tallies]}
    values = [None if a is None else plain_json(plain_amount(a)) for a in entry.amounts]
    return {
        "label": entry.label,
        "sum": list(entry.parts),
        "values": values,
        "reasons": list(entry.reasons),
    }


def with_explanations(shown: str, result: Tallies) -> str:
    """Return a shown result with what backs each figure under `explanations`."""
    found = [
        {
            "name": each.name,
            "definition": each.definition,
            "criteria": each.criteria,
            "before_rounding": None if each.before_rounding is None else str(each.before_rounding),
            "buckets": [
                {"bucket": b.bucket, "rows": b.rows, "first_rows": list(b.first)}
                for b in each.buckets
            ],
        }
        for each in (part for tally in result for part in _explained(tally))
    ]
    return _dump(json.loads(shown) | {"explanations": found})


def _explained(tally: Tally) -> Iterator[Explanation]:
    """Yield the explanation of a figure, after those of the figures inside it."""
    for part in tally.parts:
        yield from _explained(part)
    yield tally.explain()


def with_rechecks(shown: str, result: Sequence[Recheck]) -> str:
    """Return a shown result with what the rechecks found under `rechecks`."""
    found = [
        {
            "name": each.name,
            "agrees": True,
            "value": plain_json(each.value),
            "again": plain_json(each.again),
            "rows": each.rows,
        }
        for each in result
    ]
    return _dump(json.loads(shown) | {"rechecks": found})


def show_funnel(result: Funnel) -> str:
    """Return the funnel as one JSON object."""
    return _dump(result.as_dict())


def with_funnel(shown: str, funnel: Funnel) -> str:
    """Return a shown result with the funnel under `explain`."""
    return _dump(json.loads(shown) | {"explain": funnel.as_dict()})


def show_profile(result: Profile) -> str:
    """Return the profile as one JSON object."""
    plain = result.as_dict()
    for column, found in zip(plain["columns"], result.columns, strict=True):  # type: ignore[call-overload]
        column |= {"least": plain_json(found.least), "most": plain_json(found.most)}
    return _dump(plain)


def tallies_object(result: Tallies) -> dict[str, object]:
    """Return the tallies as plain Python objects that JSON can hold."""
    return {
        "measures": [_tally(each) for each in result],
        **_as_of(result),
        "notices": _notices(result.notices),
    }


def _as_of(result: Tallies) -> dict[str, object]:
    return {} if result.as_of is None else {"as_of": result.as_of}


def _tally(tally: Tally) -> dict[str, object]:
    # An error that was kept is no value that a program could go on with: the reason names it.
    value = None if isinstance(tally.value, CellError) else plain_json(tally.value)
    return {
        "name": tally.name,
        "value": value,
        "account": tally.account.as_dict(),
        "found_at": list(tally.found_at),
        "reason": tally.reason,
        "notices": _notices(tally.notices),
        **({"parts": list(map(_tally, tally.parts))} if tally.parts else {}),
    }


def _notices(notices: tuple[Notice, ...]) -> list[dict[str, object]]:
    return [notice.as_dict() for notice in notices]


def _dump(plain: object) -> str:
    return json.dumps(plain, ensure_ascii=False, indent=2, allow_nan=False) + "\n"
