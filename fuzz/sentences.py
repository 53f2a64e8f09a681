"""Sentences of every small grammar, mostly right, as hypothesis makes them up; some are then bent.

Criteria, criteria cells, measures and those of other measures, axes, derived columns, look-ups,
marks, lines, reports.
"""

from hypothesis import strategies as st

NAMES = ("zone", "dues", "arrived", "paid", "berth no", "a,b", "and", "ß")
_COLUMN = st.one_of(st.sampled_from(NAMES), st.sampled_from(["zon", '"a,b"', '"and"', "dues of", "@dues"]))  # fmt: skip
_NUMBER = st.one_of(
    st.integers(-99, 99).map(str),
    st.decimals(-1000, 1000, places=2).map(str),
    st.sampled_from(["1e308", "1e309", "1e-400", "-0", "1.000", "1,5", "9" * 19, "007", "5 %", "١٢", "kr 5", "1e99999", "½", "−5", "+5"]),
)  # fmt: skip
_DAY = st.one_of(
    st.dates().map(str),
    st.datetimes().map(lambda at: at.isoformat(sep=" ")),
    st.sampled_from(["9999-12-31", "0001-01-01", "2031-02-29", "2031-Q1", "2031-W53", "2031-13", "31.12.2031",
                     "this month", "last 30 days", "next 9999 years", "year to date", "FY2031", "FY0001", "FY9999", "yesterday"]),
)  # fmt: skip
_WORD = st.one_of(
    st.sampled_from(["Outer", "STRASSE", "B*", "a?c", '"a*b"', "\\*", "{x}", "{y}", "yes", "blank", "#N/A", "''"]),
    st.text(max_size=8),
)  # fmt: skip
_VALUE = st.one_of(_NUMBER, _DAY, _WORD, _COLUMN.map(lambda name: f"@{name}"))
_VALUES = st.lists(_VALUE, min_size=1, max_size=5).map(" | ".join)
_WINDOW = st.tuples(_VALUE, _VALUE).map("..".join)
_ORDER = st.sampled_from(["=", "!=", "<", "<=", ">", ">=", "<>", "≠", "in", "not in", "is", "is not", "==", "=>"])  # fmt: skip
_KIND = st.sampled_from(["blank", "filled", "number", "text", "date", "yes/no", "error", "a number", "empty", "true"])  # fmt: skip
_CONDITION = st.one_of(
    st.tuples(_COLUMN, _ORDER, _VALUES).map(" ".join),
    st.tuples(_COLUMN, st.just("in"), _WINDOW).map(" ".join),
    st.tuples(_COLUMN, st.sampled_from(["is", "is not"]), _KIND).map(" ".join),
)
CRITERIA = st.recursive(
    _CONDITION,
    lambda part: st.one_of(
        st.tuples(part, st.sampled_from(["and", "or", "and not"]), part).map(" ".join),
        part.map(lambda each: f"({each})"),
        part.map(lambda each: f"not {each}"),
    ),
    max_leaves=8,
)
CELL = st.one_of(_VALUES, _WINDOW, st.tuples(_ORDER, _VALUES).map("".join), st.just(""))

_SIMPLE = st.sampled_from(["numbers", "filled", "blanks", "errors", "distinct", "distinct or blank", "sum", "product",
    "average", "min", "max", "range", "median", "mode", "variance", "variance population", "deviation", "only", "first",
    "last", "share", "largest 2", "smallest 99999999999", "percentile 90", "percentile 101", "percentile 0.5 exclusive",
    "quartile 3", "all"])  # fmt: skip
_MORE = st.one_of(
    st.just(""),
    CRITERIA.map(lambda each: f" where {each}"),
    st.sampled_from([" keep hidden", " keep errors, blanks", " keep all", " regardless of zone", " regardless of all"]),
)  # fmt: skip
_FIGURE = st.one_of(
    st.tuples(_SIMPLE, _COLUMN, _MORE).map(lambda e: f"{e[0]} of {e[1]}{e[2]}"),
    st.tuples(_COLUMN, _COLUMN, _MORE).map(lambda e: f"weighted average of {e[0]} by {e[1]}{e[2]}"),
    _MORE.map(lambda more: f"rows{more}"),
)
MEASURE = st.one_of(
    _FIGURE,
    st.tuples(_FIGURE, _FIGURE).map(lambda e: f"ratio of {e[0]} to {e[1]}"),
    st.tuples(_FIGURE, _FIGURE).map(lambda e: f"difference of {e[0]} and {e[1]}"),
    st.tuples(st.sampled_from(["change", "relative change", "running total"]), _FIGURE).map(" of ".join),
    st.tuples(_WORD, _FIGURE).map(" = ".join),
)  # fmt: skip
AXIS = st.one_of(
    _COLUMN,
    st.tuples(_COLUMN, st.sampled_from(["year", "quarter", "month", "week", "day", "hour", "decade"])).map(" by ".join),
    st.tuples(_COLUMN, st.lists(_NUMBER, min_size=1, max_size=4).map(", ".join)).map(" in bands ".join),
    st.tuples(_COLUMN, _VALUES).map(" as ".join),
)  # fmt: skip
_TERM = st.recursive(
    st.one_of(_COLUMN, _NUMBER),
    lambda part: st.one_of(
        st.tuples(part, st.sampled_from("+-*/"), part).map(" ".join),
        part.map(lambda each: f"({each})"),
        part.map(lambda each: f"-{each}"),
        st.tuples(part, st.integers(-20, 20)).map(lambda e: f"round({e[0]}, {e[1]})"),
        st.tuples(st.sampled_from(["abs", "min", "max", "round"]), part).map(lambda e: f"{e[0]}({e[1]})"),
    ),
    max_leaves=8,
)  # fmt: skip
_PART = st.sampled_from(["year", "quarter", "month", "week", "day", "weekday", "upper", "lower", "trimmed"])  # fmt: skip
DERIVED = st.one_of(
    _TERM,
    st.tuples(_PART, _COLUMN).map(" of ".join),
    AXIS,
    st.text("ab{}zoned\"' ", max_size=12).map(lambda each: f'"{each}"'),
    st.tuples(_WORD, CRITERIA, _WORD).map(lambda e: f"{e[0]} if {e[1]}, else {e[2]}"),
).map(lambda each: f"new = {each}")
LOOK_UP = st.tuples(_COLUMN, st.sampled_from(["", " bring rate", " bring rate as new", " bring"])).map(
    lambda e: f"tariff.csv on {e[0]}{e[1]}"
)  # fmt: skip
ROWS = st.lists(
    st.one_of(st.integers(-2, 10**20).map(str), st.tuples(st.integers(0, 50), st.integers(0, 10**13)).map(lambda e: f"{e[0]}-{e[1]}")),
    min_size=1, max_size=4,
).map(",".join)  # fmt: skip


@st.composite
def bent(draw, sentences):
    """Draw a sentence; one in three with a piece doubled, taken out, or put in."""
    text = draw(sentences)
    if draw(st.integers(0, 2)) or not text:
        return text
    at = draw(st.integers(0, len(text) - 1))
    end = draw(st.integers(at, min(at + 8, len(text))))
    piece = draw(st.one_of(st.just(""), st.just(text[at:end] * 2), st.sampled_from(
        ['"', "(", ")", "{", "}", "'", "|", " and ", " or ", "\\", "\x00", "\u202e", "\n", "not ", "=", "@", ",", "..", "if ", "#"]
    )))  # fmt: skip
    return text[:at] + piece + text[end:]
