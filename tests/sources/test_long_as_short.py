"""A text file is read in pieces as it is read whole, however it begins, ends and is encoded."""

import gzip
import random
from dataclasses import replace

import pytest

from even_sieve.core.errors import MemoryShort, SieveError
from even_sieve.core.notices import Code
from even_sieve.sources import files, in_utf8, long_csv, long_csv_file
from even_sieve.sources.source_options import SourceOptions

ENCODINGS = (
    "utf-8",
    "utf-8-sig",
    "utf-16",
    "utf-32",
    "utf-16-le",
    "latin-1",
    "cp1252",
    "cp437",
    "utf8",
    "x",
)
TITLES = ("Dues of the year", "", ",,", "made,by,hand", ' "quoted" title', "Æ title", "sep=,", "  ")


def some_file(g):
    """Return the bytes of a file of calls, and the options that it is to be read by."""
    rows = [["call", "zone", "dues"][: g.choice([3, 3, 3, 2, 1])]]
    texts = [
        "Outer",
        "Ærø",
        "mole, north",
        'the "old" pier',
        "two\nlines",
        "",
        "€ 5",
        "a\x81b",
        "東京",
    ]
    mild = texts if g.random() < 0.3 else texts[:2]
    for number in range(g.choice([0, 1, 2, 5, 30])):
        rows.append([str(number), g.choice(mild), f"{g.randrange(10**5) / 100}"][: len(rows[0])])
        if g.random() < 0.02:
            rows[-1] = rows[-1][:-1] if g.random() < 0.5 else [*rows[-1], "7"]
    end = g.choice(["\n", "\n", "\r\n", "\r"])
    lines = [",".join(_field(cell, g) for cell in row) for row in rows]
    if g.random() < 0.3:
        lines.insert(g.randrange(len(lines) + 1), "")
    lines[:0] = g.choices(TITLES, k=g.choice([0, 0, 0, 1, 3]))
    lines += g.choices(["Total,,9", "printed", ""], k=g.choice([0, 0, 1, 2]))
    text = end.join(lines) + (end if g.random() < 0.8 else "")
    encoding = g.choice(ENCODINGS[:-2] if g.random() < 0.6 else ["utf-8"])
    said = {
        "encoding": g.choice([None, None, encoding, g.choice(ENCODINGS)]),
        "header": g.choice([None, None, None, g.randrange(1, 6)]),
        "leave_out_top": g.choice([0, 0, 0, g.randrange(4)]),
        "leave_out_foot": g.choice([0, 0, 0, g.randrange(4)]),
        "delimiter": g.choice([None, None, ",", ";"]),
    }
    content = text.encode(encoding, errors="replace")
    if g.random() < 0.2:  # another export below, maybe in another encoding
        content += text.encode(g.choice(["cp1252", "utf-8"]), errors="replace") * g.choice([1, 4])
    return content, {k: v for k, v in said.items() if v}


def _field(cell, g):
    doubled = cell.replace('"', '""')
    must = any(sign in cell for sign in ',"\n')
    return f'"{doubled}"' if (must and g.random() < 0.95) or g.random() < 0.05 else cell


def outcome(read):
    """Return what is read: names, cells, lines, notices; or how it is refused."""
    try:
        table = read()
    except SieveError as error:
        return str(error)
    cells = [list(column.cells()) for column in table.columns]
    lines = [table.number(row) for row in range(table.length)]
    return table.names, cells, lines, sorted({(each.code, each.text) for each in table.notices})


@pytest.fixture
def in_pieces(monkeypatch):
    monkeypatch.setattr(files, "_LONG", 1)
    monkeypatch.setattr(long_csv_file, "_PIECE", 64)
    monkeypatch.setattr(in_utf8, "_PIECE", 7)
    monkeypatch.setattr(long_csv, "_EACH", 1)


def both(path, content, said):
    """Return what is read of a file in pieces, and whole."""
    name, options = str(path), SourceOptions.of(**said)
    path.write_bytes(content)
    in_pieces = replace(options, later=random.random() < 0.5)  # columns made when asked for
    return (
        outcome(lambda: files.read_file(name, in_pieces)),
        outcome(lambda: files.read_content(content, name, options)),
    )


def test_files_are_read_in_pieces_as_they_are_whole(tmp_path, in_pieces, monkeypatch):
    tried = []
    usual = files.content_of
    monkeypatch.setattr(files, "content_of", lambda *all_of: tried.append(1) or usual(*all_of))
    in_pieces = 0
    for _ in range(150):
        seed = random.randrange(10**9)
        content, said = some_file(random.Random(seed))
        long, whole = both(tmp_path / "calls.csv", content, said)
        assert long == whole, (seed, content, said)
        in_pieces += not isinstance(whole, str) and not tried
        tried.clear()
    assert in_pieces > 20, "no few files are to be read in pieces"


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "utf-32", "cp1252"])
def test_marks_titles_and_a_foot_do_not_have_a_file_held_whole(tmp_path, in_pieces, encoding):
    lines = ["Dues of the year,,", "", "call,zone,dues"]
    lines += [f"{number},Ærø {number},{number}.50" for number in range(500)]
    content = "\n".join([*lines, "Total,,124999", "printed,,"]).encode(encoding)
    for packed in (False, True):
        path = tmp_path / ("calls.csv.gz" if packed else "calls.csv")
        path.write_bytes(gzip.compress(content) if packed else content)
        options = SourceOptions.of(leave_out_foot=2)
        table = files.read_long([(str(path), "")], str(path), options)
        assert table is not None
        assert (table.length, table.number(0), table.number(499)) == (500, 4, 503)
        assert [sum(table.column("dues").cells()), table.column("zone").cell(7)] == [
            125000,
            "Ærø 7",
        ]
        guessed = [each for each in table.notices if each.code is Code.ENCODING_GUESSED]
        assert len(guessed) == (encoding == "cp1252")


def test_a_row_that_is_too_short_names_its_line_under_titles(tmp_path, in_pieces):
    content = b"Dues of the year,,\n\ncall,zone,dues\n1,Outer,5\n2,Inner\n"
    long, whole = both(tmp_path / "calls.csv", content, {})
    assert long == whole
    assert "row 5: 2 fields, too few" in whole


@pytest.mark.parametrize("name", ["utf8", "UTF-8", "u8", "utf-8-sig"])
def test_a_mark_is_no_part_of_a_name_whatever_utf_8_is_called(tmp_path, in_pieces, name):
    content = "\ufeffcall,dues\n1,5\n".encode()
    long, whole = both(tmp_path / "calls.csv", content, {"encoding": name})
    assert long == whole
    assert whole[0] == ("call", "dues")


@pytest.mark.parametrize("first", ["utf-8", "cp1252"])
def test_two_exports_of_different_encodings_put_together_are_read_each_as_it_is(
    tmp_path, in_pieces, first
):
    second = {"utf-8": "cp1252", "cp1252": "utf-8"}[first]
    below = "".join(f"{number},Ærø\n" for number in range(40))
    content = f"call,zone\n{below}".encode(first) + below.encode(second)
    long, whole = both(tmp_path / "calls.csv", content, {})
    assert long == whole
    assert whole[1][1] == ["Ærø"] * 80
    ((code, told),) = whole[3]
    assert code is Code.ENCODING_GUESSED
    row = 2 if first == "cp1252" else 42
    assert told.startswith(f"the file mixes encodings: row {row} is not UTF-8, as others are;")
    assert "'Ærø'" in told
    said = outcome(
        lambda: files.read_content(content, "x.csv", SourceOptions.of(encoding="cp1252"))
    )
    assert set(said[1][1]) == {"Ærø", "Ã†rÃ¸"}


@pytest.mark.parametrize(
    "text", ["«CAFÉ»", "“CAFÉ”", "L’ÉTÉ…", "SÃO", "été…", "ÎLE–À–BOIS", "Straße „Ä“"]
)
def test_a_text_in_windows_1252_alone_is_no_mixture(text):
    content = f"call,zone\n1,{text}\n".encode("cp1252") * 50
    found = outcome(lambda: files.read_content(content, "x.csv", SourceOptions()))
    assert set(found[1][1]) == {text, "zone"}


def test_without_room_on_disk_a_file_is_read_whole(tmp_path, in_pieces, monkeypatch):
    def full(*_):
        raise MemoryShort("there is no room on disk")

    content = "call,zone\n1,Ærø\n".encode("cp1252")
    monkeypatch.setattr(in_utf8, "kept_on_disk", full)
    long, whole = both(tmp_path / "calls.csv", content, {})
    assert long == whole
    assert whole[1][1] == ["Ærø"]
