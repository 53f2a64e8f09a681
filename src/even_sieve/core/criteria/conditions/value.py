"""One value of a condition, read from where a scanner stands."""

import re
from collections.abc import Callable
from dataclasses import dataclass, field

from even_sieve.core.criteria.operands import (
    NamedPeriod,
    Number,
    Operand,
    OtherColumn,
    Parameter,
    Pattern,
    Period,
    Text,
    Wild,
    Window,
    WindowEnd,
    add_letters,
    is_likely_end,
    read_period,
    read_plain,
)
from even_sieve.core.criteria.scanner import Scanner
from even_sieve.core.criteria.symbols import INSIDE, symbol_here, test_here
from even_sieve.core.table.build import is_beyond

#: Words with spaces between them, of which none joins conditions, up to a bar or the end.
_WORDS = re.compile(r"(?!(?i:and|or) +[\w.-])([\w.-]+(?: +(?!(?i:and|or)\b)[\w.-]+)*)\s*(?=\||\Z)")
#: Letters that say nothing by themselves, and among which no value ends.
_ORDINARY = re.compile(r"[^\\{*?()|&\s]+")


@dataclass
class _Bare:
    """An unquoted value as it is gathered: its parts, and how it was written."""

    parts: list[str | Wild | Parameter] = field(default_factory=list)
    plain: bool = True

    def add(self, part: str | Wild | Parameter) -> None:
        if isinstance(part, str):
            add_letters(self.parts, part)
        else:
            self.parts.append(part)


def read_value(scanner: Scanner, symbol: str, *, in_cell: bool) -> Operand:
    """Return the value that stands here, and leave the scanner after it.

    `symbol` is the comparison before it, for messages and for what `in` accepts.
    """
    start = scanner.at
    if scanner.here('"'):
        text = scanner.quoted()
        scanner.skip_space()
        if not (scanner.done or _ends(scanner, in_cell, 0)):
            raise scanner.error(
                "the value goes on after its closing quotes", "Quote the whole value, or none"
            )
        return Text(text)
    if scanner.take("@"):
        return OtherColumn(_column_after_at(scanner, in_cell))
    word = _WORDS.match(scanner.text, start)
    if word is not None:  # as most are: nothing in it means anything
        scanner.at = word.end()
        return _plain(scanner, word[1], start, symbol)
    bare = _gather(scanner, in_cell)
    written = scanner.text[start : scanner.at].strip()
    if not written:
        raise scanner.error(
            f"a value is missing after '{symbol}'", "For cells without a value write: is blank"
        )
    if symbol == "in" and written.startswith("("):
        raise scanner.error(
            "a list is written with bars and without brackets",
            "Write: " + " | ".join(each.strip() for each in written.strip("()").split(",")),
            at=start,
        )
    if not in_cell:
        _refuse_comparison(scanner, start, written)
    return _interpret(scanner, bare, written, start, symbol)


def _refuse_comparison(scanner: Scanner, start: int, written: str) -> None:
    """Refuse `zone = Outer dues > 5`: a comparison inside a value is a joint forgotten."""
    found = INSIDE.search(written)
    if found:
        raise scanner.error(
            f"'{found.group()}' stands inside the value '{written}'",
            "Is an 'and' or 'or' missing before it? If not, put the value in quotes; "
            "so too a column name with 'in' or 'is' in it",
            at=start + found.start(),
        )


def _column_after_at(scanner: Scanner, in_cell: bool) -> str:
    if scanner.here('"'):
        return scanner.quoted()
    start = scanner.at
    while not scanner.done and not _ends(scanner, in_cell, 0):
        scanner.at += 1
    name = scanner.text[start : scanner.at].strip()
    if not name:
        raise scanner.error(
            "a column name is missing after '@'", "Write the name of a column after it"
        )
    return name


def _gather(scanner: Scanner, in_cell: bool) -> _Bare:
    """Gather an unquoted value up to where it ends."""
    bare, depth = _Bare(), 0
    while not scanner.done and not _ends(scanner, in_cell, depth):
        ordinary = _ORDINARY.match(scanner.text, scanner.at)
        if ordinary is not None:
            bare.add(ordinary[0])
            scanner.at = ordinary.end()
            continue
        char = scanner.text[scanner.at]
        if char == "\\" and scanner.at + 1 < len(scanner.text):
            bare.add(scanner.text[scanner.at + 1])
            bare.plain = False
            scanner.at += 2
            continue
        if char == "{":
            bare.add(_parameter(scanner))
            bare.plain = False
            continue
        if char in "*?":
            bare.add(Wild(char))
            bare.plain = False
        else:
            depth += {"(": 1, ")": -1}.get(char, 0)
            bare.add(char)
        scanner.at += 1
    return bare


def _parameter(scanner: Scanner) -> Parameter:
    start = scanner.at
    end = scanner.text.find("}", start)
    if end < 0:
        raise scanner.error("the brace that opens here is not closed", "Write for example: {floor}")
    name = scanner.text[start + 1 : end].strip()
    if not name:
        raise scanner.error("a parameter needs a name in its braces")
    scanner.at = end + 1
    return Parameter(name)


def _ends(scanner: Scanner, in_cell: bool, depth: int) -> bool:
    """Tell whether a value ends here."""
    char = scanner.text[scanner.at]
    if char == "|":
        return True
    if char == "&":
        return _test_after_and(scanner)
    if in_cell:
        return False
    if char == ")" and depth == 0:
        return True
    spaced = scanner.at > 0 and scanner.text[scanner.at - 1].isspace()
    escaped = scanner.at > 1 and scanner.text[scanner.at - 2] == "\\"
    return spaced and not escaped and bool(scanner.joint_here())


def _test_after_and(scanner: Scanner) -> bool:
    """Tell whether a test follows the `&` here; else it is a letter of the value."""
    start = scanner.at
    scanner.at += 1
    scanner.skip_space()
    test = scanner.here("!") or test_here(scanner)
    scanner.at = start
    return test


def _interpret(scanner: Scanner, bare: _Bare, written: str, start: int, symbol: str) -> Operand:
    if bare.plain:
        return _plain(scanner, written, start, symbol)
    if "{" in written and ".." in written and (window := _window(written)):
        return window
    parts = _trimmed(bare.parts)
    if len(parts) == 1 and not isinstance(parts[0], Wild):
        return parts[0] if isinstance(parts[0], Parameter) else Text(parts[0])
    if symbol not in ("=", "!=", "in") and Wild.ANY_RUN in parts:
        raise scanner.error(
            f"a wildcard cannot follow '{symbol}'",
            "Wildcards go with = and !=; write \\* for a real star",
            at=start,
        )
    return Pattern(tuple(parts))


def _trimmed(parts: list[str | Wild | Parameter]) -> list[str | Wild | Parameter]:
    """Return the parts without the white space at either end."""
    if isinstance(parts[0], str):
        parts[0] = parts[0].lstrip()
    if isinstance(parts[-1], str):
        parts[-1] = parts[-1].rstrip()
    return [part for part in parts if part != ""]


def _plain(scanner: Scanner, written: str, start: int, symbol: str) -> Operand:
    single = read_plain(written)
    window = _window(written) if isinstance(single, Text) else None
    for each in (single, window and window.low, window and window.high):
        if isinstance(each, Number) and is_beyond(each.value):
            fact = f"'{_short(written)}' is beyond the largest double"
            hint = f'Numbers go up to 1.797e308; for a text write "{_short(written)}"'
            raise scanner.error(fact, hint, at=start)
    if not isinstance(single, Text):
        return single
    if window is not None:
        return window
    if symbol == "in" and (".." in written or "/" in written):
        raise scanner.error(
            f"'{written}' is no window of numbers or dates",
            "Write for example: 100..500, 100.., 2031-01-01..2031-03-31",
            at=start,
        )
    return single


def _window(written: str) -> Window | None:
    """Return the window that is written out, or None if its ends are not numbers or dates."""
    for joint, split in _SPLITS.items():
        if joint not in written:
            continue
        ends = [_window_end(end.strip()) for end in split(written)]
        if len(ends) == 2 and "?" not in ends and ends != [None, None]:
            return Window(ends[0], ends[1])  # type: ignore[arg-type]
    return None


_SPLITS: dict[str, Callable[[str], list[str]]] = {
    "..": lambda written: written.split("..", 1),
    "/": lambda written: written.split("/", 1) if _both_dates(written) else [],
}


def _both_dates(written: str) -> bool:
    return all(isinstance(read_period(end.strip()), Period) for end in written.split("/", 1))


def _window_end(end: str) -> "WindowEnd | str":
    """Return one end of a window, None for an open one, `?` for what is no end."""
    if not end:
        return None
    if end.startswith("{") and end.endswith("}") and end[1:-1].strip():
        return Parameter(end[1:-1].strip())
    value = read_plain(end)
    if isinstance(value, Text):
        return value if is_likely_end(end) else "?"
    return value if isinstance(value, Number | Period | NamedPeriod) else "?"


def value_here(scanner: Scanner, symbol: str, *, in_cell: bool) -> Operand:
    """Return the value that stands after a comparison. Raises for a second comparison."""
    scanner.skip_space()
    if symbol_here(scanner):
        raise scanner.error("two comparisons in a row", 'Quote a value that begins so: "=5"')
    return read_value(scanner, symbol, in_cell=in_cell)


def more_values(scanner: Scanner) -> bool:
    """Tell whether a bar follows with a bare value after it: one more of the same list."""
    start = scanner.at
    try:
        scanner.skip_space()
        if not scanner.take("|"):
            return False
        scanner.skip_space()
        return not test_here(scanner)
    finally:
        scanner.at = start


def _short(text: str) -> str:
    return text if len(text) <= _SHOWN else f"{text[:_SHOWN]}…"


_SHOWN = 40
