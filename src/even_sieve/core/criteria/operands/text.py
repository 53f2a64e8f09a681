"""A text, to the letter."""

import re
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, ClassVar

from even_sieve.core.cells import Kind, fold, looks_like_date, looks_like_number
from even_sieve.core.cells.quoting import quoted
from even_sieve.core.criteria.blocks import Probe
from even_sieve.core.criteria.operands.operand import Operand, Piece, Writing
from even_sieve.core.criteria.stored_range import Order, codes_probe
from even_sieve.core.table.lanes import TextLane

if TYPE_CHECKING:
    from even_sieve.core.criteria.asked_column import AskedColumn
    from even_sieve.core.criteria.value_list import ValueList

TEXT_ORDERS = {
    Order.LESS: "before",
    Order.AT_MOST: "no later than",
    Order.MORE: "after",
    Order.AT_LEAST: "no earlier than",
}

#: A word that is read as itself, unless it means something.
_WORD = re.compile(r"[^\W\d_]\w*")
_MEANING = re.compile(
    r"and|or|not|is|in|yes|no|true|false|today|yesterday|tomorrow|fy.*", re.IGNORECASE
)


@dataclass(frozen=True)
class Text(Operand):
    """A text, to the letter.

    A `bare` one had no quotes: a column may take it for a number or a date as it writes them.
    """

    text: str
    bare: bool = field(compare=False, default=False)
    orders: ClassVar[dict[Order, str]] = TEXT_ORDERS
    ordered_verb: ClassVar[str] = "comes"

    def write(self, writing: Writing) -> str:
        """Return the text, in quotes where it could be read otherwise."""
        if not self.bare and (is_likely_end(self.text) or writing.seems_otherwise(self.text)):
            return quoted(self.text)
        balanced = self.text[:1] != "(" and self.text.count("(") == self.text.count(")")
        if balanced and self._reads_back(writing):
            return self.text
        return quoted(self.text)

    def _reads_back(self, writing: Writing) -> bool:
        """Tell whether the bare text is read as itself, alone and among others."""
        if _WORD.fullmatch(self.text) and not _MEANING.fullmatch(self.text):
            return True  # as most do: nothing need be tried
        other = Text("x")
        among = f"x | {self.text} | x"
        return writing.reads_back(self.text, (self,)) and writing.reads_back(
            among, (other, self, other)
        )

    def write_ordered(self, writing: Writing) -> str:
        """Return the text, in quotes if it had them."""
        return self.write(writing) if self.bare else quoted(self.text)

    def say(self) -> str:
        """Return the text, in quotes where it could be taken for other words."""
        return say_text(self.text)

    def add_to(self, values: "ValueList") -> None:
        """Ask for the texts that are equal, whatever their case."""
        if values.text is None:
            values.asked.refuse_no_period(self)
            values.remarks.wrong_kind(Kind.TEXT, self)
            return
        if not values.ask_text(fold(self.text)):
            values.asked.refuse_no_period(self)
            values.remarks.not_held(self, values.text)

    def ordered_probe(self, order: Order, asked: "AskedColumn") -> Probe:
        """Return the probe for the texts alone; a bare text among numbers or dates is refused."""
        if self.bare:
            asked.refuse_unordered(self)
        lane = asked.column.lanes.get(Kind.TEXT)
        if not isinstance(lane, TextLane):
            return asked.nothing(Kind.TEXT, self)
        if self.bare:
            asked.remarks.as_text(self)
        asked.remarks.times_as_text(self)
        return asked.column_probe(Kind.TEXT, lane_probe(lane, order, fold(self.text)))

    def piece(self) -> Piece | None:
        """Return the text as equal texts are."""
        return fold(self.text)


def say_text(text: str) -> str:
    """Return a text in plain English: in quotes where it could be taken for other words.

    >>> say_text("Quay 4"), say_text("and, so")
    ('Quay 4', '"and, so"')
    """
    plain = all(each.isalnum() or each in " -.'&/" for each in text) and text == text.strip()
    number = text.replace(".", "").replace(",", "").isdigit()
    return text if plain and text and not number else f'"{text}"'


def is_likely_end(text: str) -> bool:
    """Tell whether a text may be a number or a date as some source writes it."""
    return looks_like_number(text) or looks_like_date(text)


def lane_probe(lane: TextLane, order: Order, folded: str) -> Probe:
    """Return the probe for the texts of a lane in this order to a folded one."""
    low, high = lane.range_of(folded)
    last = len(lane.spellings)
    return codes_probe(
        lane,
        *{
            Order.LESS: (0, low),
            Order.AT_MOST: (0, high),
            Order.MORE: (high, last),
            Order.AT_LEAST: (low, last),
        }[order],
    )
