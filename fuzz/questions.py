"""Tables and questions at random: what is asked in words, and the same as the oracle takes it."""

from datetime import date, timedelta
from fractions import Fraction

from plain_rows import Error

WORDS = ["Outer", "OUTER", "inner", "Straße", "STRASSE", "B-12", "a*b", "1996x", "not x", "or",
         "kr 5", "x y", "é", "Ändern", "in 5", "say \"hi\"", "Pier's", "{b}", "@a", "a|b", "ﬁn"]  # fmt: skip
TOKENS = ["#N/A", "#DIV/0!"]
COLUMNS = {"zone": "text", "vessel": "text", "dues": "number", "tons": "number", "arrived": "date",
           "remark": "mixed", "paid": "yes/no"}  # fmt: skip
MEASURES = ["rows", "sum", "numbers", "filled", "blanks", "errors", "distinct", "average", "min",
            "max", "range", "median", "variance population"]  # fmt: skip


def number(chance):
    """Return a number as it may be written, and what it is."""
    text = chance.choice([
        lambda: str(chance.randrange(-50, 50)),
        lambda: f"{chance.uniform(-999, 999):.2f}",
        lambda: f"{chance.random():.{chance.randrange(1, 17)}f}",
        lambda: f"{chance.randrange(1, 99)}e{chance.randrange(-9, 9)}",
        lambda: str(chance.randrange(10**15)),
    ])()  # fmt: skip
    return text, Fraction(text)


def day(chance):
    """Return a date as it is written, and what it is."""
    found = date(2031, 1, 1) + timedelta(days=chance.randrange(-400, 400))
    return found.isoformat(), found


def cell(chance, kind):
    """Return a cell as it is written in a file, and what it is."""
    roll = chance.random()
    if roll < 0.08:
        return "", None
    if roll < 0.12:
        token = chance.choice(TOKENS)
        return token, Error(token)
    if kind == "mixed":
        kind = chance.choice(["text", "number", "date"])
    if kind == "number":
        return number(chance)
    if kind == "date":
        return day(chance)
    if kind == "yes/no":
        return chance.choice([("true", True), ("false", False)])
    word = chance.choice(WORDS)
    return word, word


def table(chance):
    """Return the rows as they are written, and as they are."""
    pairs = [
        {name: cell(chance, kind) for name, kind in COLUMNS.items()}
        for _ in range(chance.randrange(1, 40))
    ]
    for name in ("dues", "tons", "arrived", "zone"):  # a column of no cell has no kind to ask of
        pairs[0][name] = {
            "zone": ("Outer", "Outer"),
            "arrived": ("2031-01-05", date(2031, 1, 5)),
        }.get(name, ("5", Fraction(5)))
    pairs[0]["remark"] = ("7", Fraction(7))
    written = [{name: text for name, (text, _) in row.items()} for row in pairs]
    return written, [{name: value for name, (_, value) in row.items()} for row in pairs]


def quoted(text):
    """Return a text in quotes."""
    return '"' + text.replace('"', '""') + '"'


def criteria(chance, depth=2):
    """Return criteria in words, and as the oracle takes them."""
    roll = chance.random()
    if depth and roll < 0.35:
        joint = chance.choice(["and", "or"])
        parts = [criteria(chance, depth - 1) for _ in range(chance.randrange(2, 4))]
        return f" {joint} ".join(f"({text})" for text, _ in parts), (joint, *(c for _, c in parts))
    if depth and roll < 0.45:
        text, inner = criteria(chance, depth - 1)
        return f"not ({text})", ("not", inner)
    return chance.choice([_any, _order, _like, _is, _window, _other])(chance)


def _value(chance, kind):
    if kind == "number":
        return number(chance)
    if kind == "date":
        return day(chance)
    word = chance.choice(WORDS)
    return quoted(word), word


def _typed(chance):
    name = chance.choice(["zone", "vessel", "dues", "tons", "arrived"])
    return chance.choice([name, name.upper(), quoted(name)]), name, COLUMNS[name]


def _any(chance):
    shown, name, kind = _typed(chance)
    values = [_value(chance, kind) for _ in range(chance.randrange(1, 5))]
    text = " | ".join(each for each, _ in values)
    found = [value for _, value in values]
    if chance.random() < 0.5:
        return f"{shown} = {text}", ("=", name, found)
    return f"{shown} {chance.choice(['!=', '<>', '≠'])} {text}", ("!=", name, found)


def _order(chance):
    shown, name, kind = _typed(chance)
    sign = chance.choice(["<", "<=", ">", ">="])
    text, value = _value(chance, kind)
    return f"{shown} {sign} {text}", (sign, name, value)


def _like(chance):
    name = chance.choice(["zone", "vessel"])
    pieces = chance.choices(["*", "?", "o", "R", "st", "ß", "é", "x"], k=chance.randrange(1, 5))
    text = "".join(pieces) if {"*", "?"} & set(pieces) else "".join(pieces) + "*"
    return f"{name} = {text}", ("like", name, text)


def _is(chance):
    name = chance.choice(list(COLUMNS))
    kind = chance.choice(["blank", "filled", "error", "number", "text", "date", "yes/no"])
    test = ("is", name, kind)
    return (
        (f"{name} is {kind}", test)
        if chance.random() < 0.5
        else (f"{name} is not {kind}", ("not", test))
    )


def _window(chance):
    name = chance.choice(["dues", "tons", "arrived"])
    ends = sorted((_value(chance, COLUMNS[name]) for _ in range(2)), key=lambda each: each[1])
    open_end = chance.randrange(4)
    low, high = (("", None) if open_end == at else end for at, end in enumerate(ends))
    return f"{name} in {low[0]}..{high[0]}", ("in", name, low[1], high[1])


def _other(chance):
    sign = chance.choice(["=", "<", "<=", ">", ">="])
    first, second = chance.choice([("dues", "tons"), ("zone", "vessel"), ("tons", "dues")])
    return f"{first} {sign} @{second}", ("@", sign, first, second)
