"""How a text file is encoded: told by its bytes, guessed or given."""

import codecs

import numpy as np

from even_sieve.core.errors import SourceError
from even_sieve.core.notices import Code, Notice
from even_sieve.core.table.lanes import Array
from even_sieve.sources.arrow_buffers import is_utf8
from even_sieve.sources.octets import Octets, lines_in, whole_lines

#: The byte order mark of UTF-8.
MARK = codecs.BOM_UTF8
_MARKS = (
    (MARK, "utf-8"),
    (codecs.BOM_UTF32_LE, "utf-32-le"),  # begins as the one of UTF-16 does
    (codecs.BOM_UTF32_BE, "utf-32-be"),
    (codecs.BOM_UTF16_LE, "utf-16-le"),
    (codecs.BOM_UTF16_BE, "utf-16-be"),
)
_LOOKED_AT = 64 * 1024
#: What text is taken for that is not UTF-8, and bytes that stand in no text: control characters,
#: but for tab and line ends.
GUESS = "cp1252"
_CONTROL = bytes(each for each in range(32) if each not in b"\t\n\r") + b"\x7f"
#: What two files are that were put together: each line UTF-8, or that where it is none.
MIXED = "utf-8 or cp1252"
#: So many lines of UTF-8, and so great a share of the others, are no chance.
_LEAST, _SHARE = 3, 10
#: Bytes that stand for other letters in the encoding that is guessed than in the one it extends.
_OWN = bytes(range(0x80, 0xA0))
_BLOCK, _NOT_ASCII = 1 << 20, 0x80
_FEED, _RETURN = b"\n\r"
_PARTING = (b" ", b",", b";", b"\t", b"|", b"\n", b"\r", b'"')
_LONGEST_WORD = 40


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
    try:
        guess = guess_for(content)
        told = (
            guess_notice(content, at := _first_bad(content), lines_in(content[:at]) + 1, guess),
        )
        stretches = whole_lines(content, len(content), _BLOCK)
        return b"".join([guessed(some, guess) for _, some in stretches]), told
    except UnicodeError:
        raise _not_text(content, source) from None


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


def guess_for(content: Octets) -> str:
    """Return what text that is not UTF-8 is taken for. Raises `UnicodeError` for no text.

    Many lines of UTF-8 in it tell of two files that were put together: read as one encoding, the
    texts of one of them would be no words.

    >>> one, other = "K\xf8penhavn;5\\n".encode() * 5, "Troms\xf8;5\\n".encode("cp1252")
    >>> guess_for(other), guess_for(one + other)
    ('cp1252', 'utf-8 or cp1252')
    """
    known = others = 0
    for _, some in whole_lines(content, len(content), _BLOCK):
        if len(some.translate(None, _CONTROL)) < len(some):
            raise UnicodeError("a control character")
        if some.isascii():
            continue
        octets = np.frombuffer(some + b"   ", dtype=np.uint8)
        places = np.flatnonzero(octets >= _NOT_ASCII)
        follow = [(octets[places + after] & 0xC0) == _NOT_ASCII for after in (1, 2, 3)]
        of_four = (octets[places] >> 3 == 0x1E) & follow[0] & follow[1] & follow[2]
        of_three = (octets[places] >> 4 == 0xE) & follow[0] & follow[1]
        of_two = (octets[places] >> 5 == 0x6) & (octets[places] >= 0xC2) & follow[0]
        left = np.zeros(len(octets), dtype=bool)
        left[places] = True
        for begins, count in ((of_two, 2), (of_three, 3), (of_four, 4)):
            for after in range(count):
                left[places[begins] + after] = False
        ends = np.flatnonzero((octets == _FEED) | (octets == _RETURN))
        lines = np.searchsorted(ends, places)
        bad = _different(lines[left[places]])
        others += bad
        known += _different(lines) - bad
    return MIXED if known >= _LEAST and known * _SHARE >= others else GUESS


def _different(ascending: Array) -> int:
    return int(np.count_nonzero(np.diff(ascending))) + 1 if len(ascending) else 0


def guessed(lines: bytes, guess: str) -> bytes:
    """Return whole lines in a guessed encoding as UTF-8. Raises `UnicodeError` for no text."""
    if lines.isascii():
        return lines
    if guess == GUESS:
        alike = len(lines.translate(None, _OWN)) == len(lines)  # the next line is far faster then
        return lines.decode("latin-1" if alike else GUESS).encode("utf-8")
    if is_utf8(lines):
        return lines
    return b"".join(map(_one, lines.splitlines(keepends=True)))


def _one(line: bytes) -> bytes:
    try:
        line.decode("utf-8")
    except UnicodeDecodeError:
        return line.decode(GUESS).encode("utf-8")
    return line


def guess_notice(content: bytes, at: int, row: int, guess: str) -> Notice:
    """Return the notice that an encoding is guessed, with the word of the first byte that tells.

    Raises `UnicodeError` where that is no text.
    """
    first = max(content.rfind(each, 0, at) for each in _PARTING) + 1
    ends = [end for each in _PARTING if (end := content.find(each, at)) >= 0]
    word = content[first : min([*ends, first + _LONGEST_WORD])].decode(GUESS)
    if guess == MIXED:
        text = (
            f"the file mixes encodings: row {row} is not UTF-8, as others are; such rows were read "
            f"as Windows-1252, so that it says '{word}'; if that is wrong, see --encoding"
        )
    else:
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
