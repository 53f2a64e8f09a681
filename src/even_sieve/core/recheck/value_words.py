"""One value of a condition in words, read once more, with parameters put in.

A place in the text is moved past what is read. Faults are not explained: the words were read
before.
"""

import re
from collections.abc import Iterable, Sequence
from datetime import date, datetime

from even_sieve.core.cells import looks_like_date, looks_like_number
from even_sieve.core.criteria.operands import (
    NamedPeriod,
    Number,
    Operand,
    OtherColumn,
    Pattern,
    Period,
    Text,
    Wild,
    Window,
    YesNo,
)
from even_sieve.core.criteria.settings import Settings, operand_of
from even_sieve.core.recheck.plain_cells import same
from even_sieve.core.recheck.values import value_as_written

_TEST_AFTER = re.compile(r"\s*(?:(?<![^\W_])(?:in|is|not)(?!\w)|[<>!=≠≤≥])", re.IGNORECASE)
JOINT = re.compile(r"(?<![^\W_])(and|or)(?=[\s(\"#]|\Z)", re.IGNORECASE)
QUOTED = re.compile(r'"((?:[^"]|"")*)"')
PARAMETER = re.compile(r"\{([^}]*)\}")
#: A letter, a wildcard, or a parameter as it stands inside a value that is being gathered.
_Piece = str | Wild | re.Match[str]


class ValueWords:
    """A text and the place in it that is read next."""

    def __init__(self, text: str, settings: Settings, *, in_cell: bool = False) -> None:
        self.text, self.at, self.in_cell, self.settings = text, 0, in_cell, settings
        self.values = {same(name.strip()): v for name, v in settings.parameters.items()}

    def finish(self) -> None:
        """Raise `ValueError` unless the text is used up."""
        self.space()
        if self.at < len(self.text):
            raise ValueError(f"'{self.text[self.at :]}' is left over")

    def space(self) -> None:
        """Move past white space."""
        while self.text[self.at : self.at + 1].isspace():
            self.at += 1

    def take(self, form: re.Pattern[str]) -> re.Match[str] | None:
        """Move past what matches after white space, if it does."""
        start = self.at
        self.space()
        found = form.match(self.text, self.at)
        self.at = found.end() if found else start
        return found

    def sign(self, char: str) -> bool:
        """Move past a character after white space, and tell whether it stood there."""
        self.space()
        found = self.text[self.at : self.at + 1] == char
        self.at += found
        return found

    def value(self) -> list[Operand]:
        """Return the value that stands here; several, or none, where a parameter says so."""
        found = self.take(QUOTED)
        if found:
            return [Text(found[1].replace('""', '"'))]
        if self.sign("@"):
            found = self.take(QUOTED)
            if found:
                return [OtherColumn(found[1].replace('""', '"'))]
            start = self.at
            while not self.ends(0):
                self.at += 1
            return [OtherColumn(self.text[start : self.at].strip())]
        start = self.at
        pieces, plain = self.gathered()
        written = self.text[start : self.at].strip()
        if not written:
            raise ValueError("no value")
        if plain:
            return [self.bare(written)]
        if ".." in written and "{" in written:
            window = self.window(written)
            if window is not None:
                return window
        return self.of_pieces(pieces)

    def gathered(self) -> tuple[list[_Piece], bool]:
        """Return the letters, wildcards and parameters up to where the value ends."""
        pieces: list[_Piece] = []
        plain, depth = True, 0
        while not self.ends(depth):
            char = self.text[self.at]
            parameter = PARAMETER.match(self.text, self.at) if char == "{" else None
            escaped = char == "\\" and self.at + 1 < len(self.text)
            plain = plain and not (parameter or escaped or char in "*?")
            if parameter:
                pieces.append(parameter)
                self.at = parameter.end()
                continue
            letter = self.text[self.at + 1] if escaped else char
            depth += 0 if escaped else (char == "(") - (char == ")")
            pieces.append(Wild(char) if char in "*?" else letter)
            self.at += 2 if escaped else 1
        return pieces, plain

    def ends(self, depth: int) -> bool:
        """Tell whether the value that is being gathered ends here, so deep in brackets."""
        if self.at >= len(self.text):
            return True
        char = self.text[self.at]
        if char == "|":
            return True
        if char == "&":
            return _TEST_AFTER.match(self.text, self.at + 1) is not None
        if self.in_cell:
            return False
        if char == ")":
            return depth == 0
        spaced = self.at > 0 and self.text[self.at - 1].isspace()
        escaped = self.at > 1 and self.text[self.at - 2] == "\\"
        return spaced and not escaped and JOINT.match(self.text, self.at) is not None

    def bare(self, written: str) -> Operand:
        """Return what a value without quotes, escapes and wildcards is: a window, or alone."""
        read = self.alone(written)
        if isinstance(read, Text):
            window = self.window(written)
            return window[0] if window else read
        return read

    def alone(self, text: str) -> Operand:
        """Return what a text is by itself."""
        return value_as_written(text, self.settings.as_of, self.settings.fiscal_start)

    def window(self, written: str) -> list[Operand] | None:
        """Return a window; no value where parameters leave both ends blank; None if it is none."""
        low, points, high = (part.strip() for part in written.partition(".."))
        if not points:
            low, points, high = (part.strip() for part in written.partition("/"))
            if not points or not all(isinstance(self.alone(e), Period) for e in (low, high)):
                return None
        if not low and not high:
            return None
        ends = []
        for end in (low, high):
            parameter = PARAMETER.fullmatch(end)
            values = self.parameter(parameter[1]) if parameter else [self.alone(end)] if end else []
            if values and not _is_end(values[0]):
                return None
            ends.append(values[0] if values else None)
        return [Window(*ends)] if ends != [None, None] else []  # type: ignore[arg-type]

    def of_pieces(self, pieces: list[_Piece]) -> list[Operand]:
        """Return a pattern, or the text or parameter that the pieces come to."""
        if len(pieces) == 1 and isinstance(pieces[0], re.Match):
            return self.parameter(pieces[0][1])
        while pieces and isinstance(pieces[0], str) and pieces[0].isspace():
            pieces.pop(0)
        while pieces and isinstance(pieces[-1], str) and pieces[-1].isspace():
            pieces.pop()
        if len(pieces) == 1 and isinstance(pieces[0], re.Match):
            return self.parameter(pieces[0][1])
        parts: list[str | Wild] = []
        for piece in pieces:
            if isinstance(piece, Wild):
                parts.append(piece)
                continue
            put = self.parameter(piece[1]) if isinstance(piece, re.Match) else [Text(piece)]
            if not put:
                return []
            letters = str(getattr(put[0], "text", ""))
            if parts and isinstance(parts[-1], str):
                letters = str(parts.pop()) + letters
            parts.append(letters)
        if any(isinstance(part, Wild) for part in parts):
            return [Pattern(tuple(parts))]
        return [Text("".join(map(str, parts)))]

    def parameter(self, name: str) -> list[Operand]:
        """Return the values that a parameter is set to; blanks are passed over."""
        value = self.values[same(name.strip())]
        several = isinstance(value, Sequence) and not isinstance(value, str)
        values: Iterable[object] = value if several else [value]  # type: ignore[assignment]
        return [read for each in values for read in self.python_value(each)]

    def python_value(self, value: object) -> list[Operand]:
        """Return a parameter's value, read again if it was given as a text; none if blank."""
        if isinstance(value, Number | Period | YesNo | NamedPeriod) or (
            isinstance(value, Text) and value.bare
        ):
            value = value.text if getattr(value, "text", "") else value
        if isinstance(value, str):
            return [self.alone(value.strip())] if value.strip() else []
        if isinstance(value, date) and not isinstance(value, datetime):
            return [self.alone(value.isoformat())]
        operand = operand_of(value)  # type: ignore[arg-type]
        return [] if operand is None else [operand]


def _is_end(value: Operand) -> bool:
    """Tell whether a window may end with it: a number, a date, or what may be one."""
    if isinstance(value, Text):
        return looks_like_number(value.text) or looks_like_date(value.text)
    return isinstance(value, Number | Period)
