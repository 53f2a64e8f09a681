"""Questions in sentences of every grammar, over a table with every kind of cell."""

import json
import tempfile
from datetime import date, datetime
from functools import cache
from pathlib import Path

from hypothesis import strategies as st

import sentences
from even_sieve import CellError, Choice, LineRows, Report, table_from
from even_sieve.core.errors import AccountError, RecheckError, SieveError
from trying import examples

TABLE = table_from({
    "zone": ["Outer", "inner", None, "Straße", "a*b"],
    "dues": [5, 7.5, -1, None, CellError("#N/A")],
    "arrived": [date(2031, 1, 5), date(9999, 12, 31), date(1, 1, 1), None, date(2031, 2, 1)],
    "paid": [True, False, None, True, True],
    "berth no": ["1", 2, 3, datetime(2031, 1, 1, 12), "x"],
    "a,b": [1.5, 2.25, 1e300, -1e300, 0],
    "and": [10**15, 5, 5, 5, 5],
    "ß": [None] * 5,
})  # fmt: skip
_EXAMPLES = 20


def check(name):
    """Raise what is not the product's own error; a name makes so many questions."""
    asked = st.sampled_from(_ASKED).flatmap(lambda each: st.tuples(st.just(each[0]), each[1]))
    examples(name, asked, lambda each: _ask(*each), _EXAMPLES)


check.tries = _EXAMPLES


def _ask(ask, text):
    try:
        ask(text)
    except (RecheckError, AccountError):
        raise
    except SieveError as error:
        assert str(error).strip(), "an error without words"


def _figures(**options):
    found = TABLE.tally("rows", "sum of dues", **options)
    TABLE.recheck(found)
    return found


def _measure(text):
    found = TABLE.tally(text)
    for each in found:
        counts = each.account.as_dict()
        assert sum(counts.values()) == 2 * counts["rows"], "the account does not add up"
    TABLE.recheck(found)


@cache
def _folder():
    folder = Path(tempfile.mkdtemp())
    TABLE.write(folder / "calls.csv")
    return folder


def _report(text):
    path = _folder() / "report.toml"
    path.write_text(text, encoding="utf-8", errors="surrogatepass")
    for block in Report.from_file(path).run().blocks:
        assert block.kind


def _line(text):
    found = TABLE.lines("sum of dues", entries=[LineRows("a", text)])
    TABLE.recheck(found)


def _toml(words):
    where, measure, axis, derived = map(json.dumps, words)
    return (
        f'title = "calls"\n[source]\nfile = "calls.csv"\n[criteria]\n"x" = {where}\n[derived]\nmore = {derived}\n'
        f'[[blocks]]\nkind = "breakdown"\ntitle = {measure}\nmeasures = [{measure}, "rows"]\n'
        f'by = [{axis}]\nwhere = "{{x}}"\n[[blocks]]\nkind = "figures"\nmeasures = [{measure}]\n'
    )


_BENT = {name: sentences.bent(getattr(sentences, name)) for name in
         ("CRITERIA", "CELL", "MEASURE", "AXIS", "DERIVED")}  # fmt: skip
_ASKED = [
    (lambda text: _figures(where=text, parameters={"x": "Outer", "y": ["1", "2"]}), _BENT["CRITERIA"]),
    (lambda text: _figures(where={"zone": text, "dues": text}), _BENT["CELL"]),
    (_measure, _BENT["MEASURE"]),
    (lambda text: TABLE.recheck(TABLE.tally("rows", "average of dues", by=text)), _BENT["AXIS"]),
    (lambda text: TABLE.tally("rows", "min of new", derive=text), _BENT["DERIVED"]),
    (lambda text: _figures(hidden=text, subtotal=text), _BENT["CRITERIA"]),
    (_line, _BENT["CRITERIA"]),
    (lambda text: TABLE.bridge(f"sum of dues where {text}"), _BENT["CRITERIA"]),
    (lambda text: TABLE.funnel(text), _BENT["CRITERIA"]),
    (lambda text: TABLE.listing(choice=Choice((text,), text, None)), _BENT["AXIS"]),
    (_report, st.tuples(*(_BENT[e] for e in ("CRITERIA", "MEASURE", "AXIS", "DERIVED"))).map(_toml)),
]  # fmt: skip
