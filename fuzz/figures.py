"""One question, answered by the product from several sources and by the plain_rows."""

import csv
import io
import json
import random
import tempfile
from fractions import Fraction
from pathlib import Path

import plain_rows
import questions
from even_sieve import CellError, read_table, table_from
from even_sieve.core.errors import CallError

_ENDINGS = ("csv", "jsonl", "xlsx", "ods", "parquet")


def check(seed):
    """Raise `AssertionError` where a figure is not the oracle's; the seed makes it again."""
    chance = random.Random(seed)
    written, rows = questions.table(chance)
    where = questions.criteria(chance) if chance.random() < 0.9 else (None, None)
    subtotal = questions.criteria(chance, 1) if chance.random() < 0.3 else (None, None)
    hidden = questions.criteria(chance, 1) if chance.random() < 0.3 else (None, None)
    column = chance.choice(list(questions.COLUMNS))
    numeric = questions.COLUMNS[column] in ("number", "mixed")
    kinds = chance.sample(questions.MEASURES if numeric else questions.MEASURES[4:7], 3)
    kept = [each for each in ("subtotals", "hidden") if chance.random() < 0.3]
    asked = [each if each == "rows" else f"{each} of {column}" for each in kinds]
    found, cells = plain_rows.account(rows, where[1], subtotal[1], hidden[1], column, kept)
    options = {"where": where[0], "keep": kept or None}
    options["mark"] = {name: words for name, (words, _) in
                       (("subtotal", subtotal), ("hidden", hidden)) if words}  # fmt: skip
    with tempfile.TemporaryDirectory() as folder:
        for table in _tables(written, Path(folder), chance):
            answer = _ask(table, asked, options)
            if answer is not None:
                _compare(answer, kinds, cells, found, column)


def _tables(written, folder, chance):
    names = list(questions.COLUMNS)
    out = io.StringIO()
    writer = csv.DictWriter(
        out, names, delimiter=chance.choice(",;\t"), lineterminator=chance.choice(["\n", "\r\n"])
    )
    writer.writeheader()
    writer.writerows(written)
    path = folder / "calls.csv"
    path.write_text(out.getvalue(), encoding=chance.choice(["utf-8", "utf-8-sig", "utf-16"]))
    first = read_table(path)
    yield first
    ending = chance.choice(_ENDINGS)
    first.write(folder / f"again.{ending}")
    yield read_table(folder / f"again.{ending}")
    plain = first.to_frame()
    if not any(isinstance(value, CellError) for value in plain.to_numpy().ravel()):
        yield table_from(plain)


def _ask(table, asked, options):
    """Return the answer; None where the question is refused and may be."""
    marked = table.mark(**options["mark"]) if options["mark"] else table
    try:
        answer = marked.tally(*asked, where=options["where"], keep=options["keep"])
        marked.recheck(answer)
        lines = marked.tally(*asked, where=options["where"], keep=options["keep"], by="zone")
    except CallError as error:
        assert "is no number and no date" in str(error), str(error)
        return None
    return answer, lines


def _compare(answer, kinds, cells, found, column):
    tallies, lines = answer
    for kind, tally in zip(kinds, tallies, strict=True):
        _same(kind, tally, plain_rows.figure(kind, cells))
        counts = plain_rows.buckets(found, cells, kind, kind != "rows")
        for name in ("hidden", "unmatched", "error", "not_a_number", "used"):
            if kind not in ("blanks", "errors") or name in ("hidden", "unmatched"):
                assert getattr(tally.account, name) == counts[name], (
                    f"{kind}: {name} in the account"
                )
        assert tally.account.subtotal == counts["subtotals"], f"{kind}: subtotals in the account"
    own = plain_rows.groups(found["matched"], "zone")
    assert len(lines.lines) == len(own), "another number of lines"
    for line in lines.lines:
        rows = own[plain_rows.identity(_plain(line.key[0]))]
        for kind, tally in zip(kinds, line.tallies, strict=True):
            _same(kind, tally, plain_rows.figure(kind, [row[column] for row in rows]))


def _plain(key):
    return plain_rows.Error(key.token) if isinstance(key, CellError) else key


def _same(kind, tally, exact):
    value = tally.value
    if isinstance(value, CellError) or exact is None:
        assert exact is None, f"{kind}: {value} and not {exact}"
        return
    if tally.exact is not None:
        assert tally.exact == exact, f"{kind}: {tally.exact} and not {exact}"
    near = Fraction(repr(value)) if isinstance(value, float) else Fraction(value)
    assert float(near) == exact.numerator / exact.denominator, f"{kind}: {value} and not {exact}"


def describe(seed):
    """Return the question of a seed as JSON, to be looked at."""
    chance = random.Random(seed)
    written, _ = questions.table(chance)
    return json.dumps({"seed": seed, "rows": written}, ensure_ascii=False)
