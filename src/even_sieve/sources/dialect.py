"""How a text file is written: its encoding and its delimiter, found or given."""

import codecs
import csv
import re
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from io import StringIO

from even_sieve.core.errors import SourceError
from even_sieve.core.notices import Code, Notice
from even_sieve.sources.arrow_buffers import is_utf8

#: The byte order mark of UTF-8.
MARK = codecs.BOM_UTF8
_MARKS = (
    (MARK, "utf-8"),
    (codecs.BOM_UTF32_LE, "utf-32-le"),  # begins as the one of UTF-16 does
    (codecs.BOM_UTF32_BE, "utf-32-be"),
    (codecs.BOM_UTF16_LE, "utf-16-le"),
    (codecs.BOM_UTF16_BE, "utf-16-be"),
)
DELIMITERS = (",", ";", "\t", "|")
_LOOKED_AT = 64 * 1024
#: What text is taken for that is not UTF-8, and bytes that stand for nothing in it: control
#: characters, but for tab and line ends, and five that have no meaning.
GUESS = "cp1252"
_CONTROL = bytes(each for each in range(32) if each not in b"\t\n\r") + b"\x7f\x81\x8d\x8f\x90\x9d"
_PARTING = (b" ", b",", b";", b"\t", b"|", b"\n", b"\r", b'"')
_LONGEST_WORD = 40
_MOST_LINES = 0.5


@dataclass(frozen=True)
class Dialect:
    """What stands between fields, and what quotes one."""

    delimiter: str = ","
    quote: str = '"'


def lines_in(content: bytes) -> int:
    """Return how many line ends there are: line feeds, and returns that none follows.

    >>> lines_in(b"a\\nb\\r\\nc\\rd")
    3
    """
    count = content.count(b"\n")
    return count + content.count(b"\r") - content.count(b"\r\n") if b"\r" in content else count


def after_last_line(content: bytes) -> int:
    """Return where the last line ends that is whole, 0 if there is none.

    A return at the very end may be half of a line end.

    >>> after_last_line(b"a\\nb"), after_last_line(b"a\\rb\\r"), after_last_line(b"ab")
    (2, 2, 0)
    """
    return content.rfind(b"\n") + 1 or content.rfind(b"\r", 0, len(content) - 1) + 1


def strange_start(content: bytes) -> bool:
    """Tell whether text begins with a mark that is not of UTF-8, or is no text but packed."""
    others = (mark for mark, _ in _MARKS if mark != MARK)
    return content.startswith((*others, b"\x1f\x8b", b"PK"))


def to_utf8(content: bytes, source: str, encoding: str | None) -> tuple[bytes, tuple[Notice, ...]]:
    """Return the text as UTF-8 without a mark, and a notice if its encoding was guessed.

    A byte order mark tells; else UTF-8 is tried, and Windows-1252, which offices write most,
    where no byte speaks against it. Raises `SourceError` naming the row of the first byte that
    is not text.
    """
    known = encoding_of(content, encoding)
    if known is not None:
        mark = next(
            (mark for mark, name in _MARKS if name == known and content.startswith(mark)), b""
        )
        return _decoded(content[len(mark) :], known, source), ()
    if b"\0" not in content and is_utf8(content):
        return content, ()
    if is_plain_guess(content):
        at = _first_bad(content)
        row = lines_in(content[:at]) + 1
        return _decoded(content, GUESS, source), (guess_notice(content, at, row),)
    raise _not_text(content, source)


def encoding_of(content: bytes, said: str | None) -> str | None:
    """Return the encoding that a byte order mark tells, or that is said; None if none is.

    Of one that is said all names are alike, and one without an order of bytes takes any mark.

    >>> encoding_of(b"\\xff\\xfec\\0", "UTF16"), encoding_of(b"call", "U8"), encoding_of(b"", None)
    ('utf-16-le', 'utf-8', None)
    """
    name = None if said is None else named(said)
    marked = (known for mark, known in _MARKS if content.startswith(mark))
    return next(
        (known for known in marked if name in (None, "utf-16", "utf-32", "utf-8-sig", known)), name
    )


def named(encoding: str) -> str:
    """Return the one name of an encoding that has several; one that nobody knows as it is."""
    try:
        return codecs.lookup(encoding).name
    except LookupError:
        return encoding


def is_plain_guess(content: bytes) -> bool:
    """Tell whether no byte speaks against the encoding that is guessed."""
    return len(content.translate(None, _CONTROL)) == len(content)


def guess_notice(content: bytes, at: int, row: int) -> Notice:
    """Return the notice that an encoding is guessed, with the word of the first byte that tells."""
    first = max(content.rfind(each, 0, at) for each in _PARTING) + 1
    ends = [end for each in _PARTING if (end := content.find(each, at)) >= 0]
    word = content[first : min([*ends, first + _LONGEST_WORD])].decode(GUESS, errors="replace")
    text = (
        f"row {row} is not UTF-8: the file was read as Windows-1252, so that it says "
        f"'{word}'; if that is wrong, see --encoding"
    )
    return Notice(Code.ENCODING_GUESSED, text)


def _first_bad(content: bytes) -> int:
    """Return the position of the first byte that is not UTF-8 text."""
    position = content.find(b"\0")
    if position >= 0:
        return position
    try:
        content.decode("utf-8")
    except UnicodeDecodeError as error:
        return error.start
    return 0


def _decoded(content: bytes, encoding: str, source: str) -> bytes:
    try:
        text = content.decode(encoding)
    except UnicodeDecodeError as error:
        row = lines_in(content[: error.start]) + 1
        fact = f"the byte 0x{content[error.start]:02x} is not {encoding} text"
        raise SourceError(source, fact, "Say how it is encoded: --encoding", row) from None
    except LookupError:
        hint = "Known are for example utf-8, utf-16, latin-1"
        raise SourceError(source, f"no encoding '{encoding}'", hint) from None
    if "\0" in text:
        row = lines_in(text[: text.index("\0")].encode("utf-8", errors="ignore")) + 1
        raise SourceError(source, "the byte 0x00 is not text", "Is it a text file?", row)
    return text.encode("utf-8")


def _not_text(content: bytes, source: str) -> SourceError:
    position = _first_bad(content)
    row = lines_in(content[:position]) + 1
    fact = f"the byte 0x{content[position]:02x} is not UTF-8 text"
    wide = _wide_encoding(content[:_LOOKED_AT])
    said = f"or say how it is: --encoding {wide}" if wide else "or say how it is with --encoding"
    return SourceError(source, fact, f"Save the file as CSV in UTF-8, {said}", row)


def _wide_encoding(content: bytes) -> str:
    """Return the encoding of two or four bytes a letter that a text without a mark seems to have.

    >>> [_wide_encoding("zone;dues".encode(each)) for each in ("utf-16-le", "utf-32-be", "cp437")]
    ['utf-16-le', 'utf-32-be', '']
    """
    for width, name in ((4, "utf-32"), (2, "utf-16")):
        zeros = [
            each.count(0) * 2 > len(each) for each in (content[i::width] for i in range(width))
        ]
        if zeros == [False, *[True] * (width - 1)]:
            return f"{name}-le"
        if zeros == [*[True] * (width - 1), False]:
            return f"{name}-be"
    return ""


#: A first line by which some programs say what parts the fields.
SAYS_DELIMITER = re.compile(rb'"?sep=([,;|\t])"?[ ,;]*(?:\r\n?|\n)\s*(?=\S)', re.IGNORECASE)


def widths_of(records: Iterable[Sequence[str]]) -> Counter[int]:
    """Return how many records have how many fields; blank ones are passed over.

    >>> widths_of([["1", "Mole"], [], ["2", "Pier"]])
    Counter({2: 2})
    """
    counts = Counter(map(len, records))
    del counts[0]
    return counts


def find_delimiter(content: bytes, quote: str = '"') -> str:
    """Return the delimiter that parts the first lines into most fields, alike in each line.

    A comma where none does: the file has one column. A first line that says it (`sep=;`) decides.
    """
    said = SAYS_DELIMITER.match(content)
    if said is not None:
        return said[1].decode()
    sample = content[:_LOOKED_AT].decode("utf-8", errors="ignore")
    cut = sample if len(content) <= _LOOKED_AT else sample[: sample.rfind("\n") + 1]
    best, most = ",", 1
    usual = dict.fromkeys(DELIMITERS, 0.0)
    for delimiter in DELIMITERS:
        if delimiter not in cut:
            continue
        lines = csv.reader(StringIO(cut, newline=""), delimiter=delimiter, quotechar=quote)
        counts = widths_of(lines)
        if len(counts) == 1 and (fields := next(iter(counts))) > most:
            best, most = delimiter, fields
        several = {fields: lines for fields, lines in counts.items() if fields > 1}
        usual[delimiter] = max(several.values(), default=0) / max(counts.total(), 1)
    if most > 1:
        return best
    likely = max(usual, key=lambda each: usual[each])
    if usual[likely] > _MOST_LINES:  # titles stand above
        return likely
    header = next((line for line in cut.splitlines() if line.strip()), "")
    return max(DELIMITERS, key=header.count) if any(d in header for d in DELIMITERS) else ","
