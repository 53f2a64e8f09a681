"""What hypothesis makes up: cells, tables and criteria of the harbour."""

from datetime import date, datetime, time

from hypothesis import strategies as st

from even_sieve.core.cells import CellError
from even_sieve.core.table import table_from_columns
from oracle import Wrong

WRONG = Wrong()
WORDS = ["Outer", "OUTER", "inner", "Straße", "STRASSE", "B-12", "a*b", "1996", "yes", "not x"]
texts = st.one_of(
    st.sampled_from(WORDS),
    st.text(st.sampled_from("aAbBé?*|&\"' {}@\\()=<>.,ßİ"), min_size=1, max_size=6).filter(
        str.strip
    ),
).map(str.strip)
decimals = st.integers(-10_000, 10_000).map(lambda cents: cents / 100)
numbers = st.one_of(st.integers(-50, 50), decimals)
days = st.dates(date(2030, 12, 25), date(2031, 4, 5))
moments = st.datetimes(datetime(2030, 12, 31), datetime(2031, 1, 3)).map(
    lambda at: at.replace(microsecond=0)
)
dates = st.one_of(days, moments)
holes = st.sampled_from([None, WRONG])
COLUMNS = {
    "zone": st.one_of(texts, st.none()),
    "dues": st.one_of(numbers, numbers, st.just("waived"), holes),
    "tons": st.integers(0, 9),
    "arrived": st.one_of(dates, st.none()),
    "departed": dates,
    "paid": st.one_of(st.booleans(), st.none()),
    "remarks": st.one_of(texts, numbers, dates, st.booleans(), holes),
}


@st.composite
def rows(draw, least=0, most=12):
    """Plain rows, as the oracle reads them."""
    count = draw(st.integers(least, most))
    made = [{name: draw(cells) for name, cells in COLUMNS.items()} for _ in range(count)]
    for name in COLUMNS:
        timed = any(isinstance(row[name], datetime) and row[name].time() != time() for row in made)
        for row in made:
            row[name] = _precise(row[name], timed)
    return made


def _precise(cell, timed):
    """A column has one precision: days, or moments if any cell has a time but midnight."""
    if not isinstance(cell, date):
        return cell
    return datetime(*cell.timetuple()[:6]) if timed else date(*cell.timetuple()[:3])


def table_of(plain_rows):
    """The same rows as a table."""
    error = CellError("#N/A", "not found")
    return table_from_columns(
        {
            name: [error if row[name] is WRONG else row[name] for row in plain_rows]
            for name in COLUMNS
        }
    )


_ORDERS = st.sampled_from(["<", "<=", ">", ">="])
_KINDS = ["blank", "filled", "error", "number", "text", "date", "yes/no"]
_PATTERN = st.text(st.sampled_from("aAbBoOutr*?é"), min_size=1, max_size=6).filter(
    lambda text: set(text) & set("*?")
)


def _about(column, values):
    return st.one_of(
        st.tuples(st.just("="), st.just(column), st.lists(values, min_size=1, max_size=12)),
        st.tuples(st.just("!="), st.just(column), st.lists(values, min_size=1, max_size=3)),
        st.tuples(_ORDERS, st.just(column), values),
    )


def _window(column, values):
    ends = st.tuples(st.one_of(values, st.none()), st.one_of(values, st.none()))
    some = ends.filter(lambda pair: pair != (None, None))
    return some.map(lambda pair: ("in", column, *pair))


conditions = st.one_of(
    _about("zone", texts),
    _about("remarks", texts),
    *(_about(column, numbers) for column in ("dues", "tons", "remarks")),
    *(_about(column, dates) for column in ("arrived", "departed", "remarks")),
    *(_window(column, numbers) for column in ("dues", "remarks")),
    *(_window(column, dates) for column in ("arrived", "remarks")),
    st.tuples(st.just("="), st.just("paid"), st.lists(st.booleans(), min_size=1, max_size=2)),
    st.tuples(st.just("like"), st.sampled_from(["zone", "remarks"]), _PATTERN),
    st.tuples(st.just("is"), st.sampled_from(list(COLUMNS)), st.sampled_from(_KINDS)),
    st.tuples(
        st.just("@"),
        st.sampled_from(["=", "<", "<=", ">", ">="]),
        st.sampled_from(["arrived", "departed", "dues", "remarks", "zone"]),
        st.sampled_from(["arrived", "departed", "dues", "tons", "remarks", "zone"]),
    ),
)
criteria = st.recursive(
    conditions,
    lambda inner: st.one_of(
        st.tuples(st.just("and"), inner, inner),
        st.tuples(st.just("or"), inner, inner),
        st.tuples(st.just("not"), inner),
    ),
    max_leaves=5,
)
