"""Reading a text from left to right: white space, words, symbols, quoted pieces."""

import re
from collections.abc import Iterator
from contextlib import contextmanager

from even_sieve.core.cells.quoting import DEEPEST
from even_sieve.core.errors import CriteriaError

_WORD = re.compile(r"[^\W\d_]+")


class Scanner:
    """A position in a text. `at` counts from 0; errors name it from 1."""

    def __init__(self, text: str, place: str = "criteria") -> None:
        self.text, self.at, self.place, self.depth = text, 0, place, 0

    @property
    def done(self) -> bool:
        """Whether the text is used up."""
        return self.at >= len(self.text)

    def error(self, fact: str, hint: str = "", at: int | None = None) -> CriteriaError:
        """Return an error at this position, or at another."""
        where = self.at if at is None else at
        return CriteriaError(self.text, where + 1, fact, hint, place=self.place)

    @contextmanager
    def nested(self) -> Iterator[None]:
        """Read what stands in brackets or after a `not`. Raises `CriteriaError` too deep down."""
        self.depth += 1
        if self.depth > DEEPEST:
            raise self.error(f"brackets and 'not' are nested more than {DEEPEST} deep")
        yield
        self.depth -= 1

    def skip_space(self) -> None:
        """Move past white space."""
        text, at, end = self.text, self.at, len(self.text)
        while at < end and text[at].isspace():
            at += 1
        self.at = at

    def here(self, symbol: str) -> bool:
        """Tell whether the symbol stands here."""
        return self.text.startswith(symbol, self.at)

    def take(self, symbol: str) -> bool:
        """Move past the symbol if it stands here, and tell whether it did."""
        if self.here(symbol):
            self.at += len(symbol)
            return True
        return False

    def word_here(self) -> str:
        """Return the word that starts here, in lower case, or an empty text."""
        if self.at and self.text[self.at - 1].isalnum():
            return ""
        found = _WORD.match(self.text, self.at)
        if found is None:
            return ""
        after = self.text[found.end() : found.end() + 1]
        return "" if after.isalnum() or after == "_" else found.group().lower()

    def joint_here(self) -> str:
        """Return `and` or `or` if it stands here and joins conditions, else an empty text.

        What follows a joint is white space, a bracket, a quote or a `#`: `or?` is a value.
        """
        word = self.word_here()
        after = self.text[self.at + len(word) : self.at + len(word) + 1]
        return word if word in ("and", "or") and (not after.strip() or after in '("#') else ""

    def take_word(self, word: str) -> bool:
        """Move past the word if it stands here as a whole, and tell whether it did."""
        if self.word_here() == word:
            self.at += len(word)
            return True
        return False

    def quoted(self) -> str:
        """Return what stands in the quotes that open here; `""` inside is one quote."""
        start, pieces = self.at, []
        self.at += 1
        while True:
            end = self.text.find('"', self.at)
            if end < 0:
                raise self.error("the quotes that open here are not closed", at=start)
            pieces.append(self.text[self.at : end])
            self.at = end + 1
            if not self.here('"'):
                return '"'.join(pieces)
            self.at += 1
