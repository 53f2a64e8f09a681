"""How the screen looks: its two palettes, and the strip that an account is drawn as."""

from rich.text import Text
from textual.theme import Theme

from even_sieve.core.tally import Account

DAY = Theme(
    name="harbour-day",
    dark=False,
    primary="#14506b",
    secondary="#5d6f2d",
    accent="#8a4b0f",
    warning="#8a5a00",
    error="#a3261f",
    success="#2f6b3c",
    foreground="#1c2429",
    background="#f6f4ee",
    surface="#ffffff",
    panel="#e7e2d6",
)
NIGHT = Theme(
    name="harbour-night",
    dark=True,
    primary="#7fc4e0",
    secondary="#b9cf7a",
    accent="#f0b46a",
    warning="#e9c46a",
    error="#ff8f84",
    success="#8fd19e",
    foreground="#e6e3da",
    background="#12191d",
    surface="#1a2329",
    panel="#26323a",
)

#: How each bucket is drawn: by its own letterform first, in its own colour second.
_DRAWN = {
    "used": ("█", "primary"),
    "unmatched": ("░", "foreground"),
    "hidden": ("▒", "secondary"),
    "filtered": ("▓", "secondary"),
    "subtotal": ("╳", "accent"),
    "blank": ("·", "foreground"),
    "error": ("!", "error"),
    "not_a_number": ("a", "warning"),
}


def strip(account: Account, width: int, colours: dict[str, str]) -> Text:
    """Return an account as one line of so many characters: each bucket in proportion.

    What is there has one character at least, however little it is.
    """
    counts = dict(account.strip())
    drawn = Text()
    if not counts or width < len(counts):
        return drawn
    left = width - len(counts)
    sizes = {name: 1 + int(left * count / account.rows) for name, count in counts.items()}
    largest = max(counts, key=lambda name: counts[name])
    sizes[largest] += width - sum(sizes.values())
    for name, size in sizes.items():
        char, colour = _DRAWN[name]
        drawn.append(char * size, style=colours[colour])
    return drawn


def legend(account: Account, width: int, colours: dict[str, str]) -> Text:
    """Return the account in words, each bucket after the character that it is drawn with."""
    said = Text(f"{account.rows:,} rows =")
    at = len(said)
    for position, (name, count) in enumerate(account.strip()):
        char, colour = _DRAWN[name]
        words = f" {count:,} {name.replace('_', ' ')}"
        joint = " + " if position else " "
        if at + len(joint) + 1 + len(words) > width:
            joint, at = "\n+ " if position else "\n", 0
        said.append(joint)
        said.append(char, style=colours[colour])
        said.append(words)
        at += len(joint.strip("\n")) + 1 + len(words)
    return said
