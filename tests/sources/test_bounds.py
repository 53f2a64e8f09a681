"""Small files that say they are large: refused before memory and time are spent on them."""

import gzip
import io
import os
import zipfile
from threading import Thread

import pyarrow as pa
import pytest
from pyarrow import parquet

from even_sieve import read_criteria, read_table
from even_sieve.core.errors import CallError, SourceError, SourceNotFound
from even_sieve.sources import contents

_NAMES = {
    "office": "urn:oasis:names:tc:opendocument:xmlns:office:1.0",
    "table": "urn:oasis:names:tc:opendocument:xmlns:table:1.0",
    "text": "urn:oasis:names:tc:opendocument:xmlns:text:1.0",
}
_HEAD = '<r><c t="string"><text:p>a</text:p></c></r>'


def ods(tmp_path, rows, more=()):
    """Write a spreadsheet of rows in short: `r` a row, `c` a cell, `t` its type."""
    short = {"<r": "<table:table-row", "</r": "</table:table-row", "<c": "<table:table-cell",
             "</c": "</table:table-cell", " t=": " office:value-type=", " v=": " office:value=",
             " cols=": " table:number-columns-repeated=", " rows=": " table:number-rows-repeated="}  # fmt: skip
    body = _HEAD + rows
    for each, long in short.items():
        body = body.replace(each, long)
    named = " ".join(f'xmlns:{prefix}="{uri}"' for prefix, uri in _NAMES.items())
    sheet = f'<table:table table:name="a">{body}</table:table>'
    sheet = f"<office:spreadsheet>{sheet}</office:spreadsheet>"
    content = f"<office:document-content {named}><office:body>{sheet}</office:body></office:document-content>"
    path = tmp_path / "a.ods"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        for name, part in (("content.xml", content), *more):
            archive.writestr(name, part)
    return path


@pytest.mark.parametrize(
    ("rows", "said"),
    [
        ('<r><c t="float" v="1" cols="2000000000"/></r>', "too many cells"),
        ('<r rows="2000000000"><c t="float" v="1"/></r>', "too many cells"),
        ('<r rows="-5"><c t="float" v="1"/></r>', "repeated -5 times"),
        ('<r><c t="string"><text:p><text:s text:c="2000000000"/>x</text:p></c></r>',
         "more than 1,048,576 characters"),
    ],
)  # fmt: skip
def test_a_spreadsheet_that_unfolds_is_refused(tmp_path, rows, said):
    with pytest.raises(SourceError, match=said):
        read_table(ods(tmp_path, rows))


def test_spans_in_spans_are_read_however_deep(tmp_path):
    deep = "<text:span>" * 5000 + "x" + "</text:span>" * 5000 + "y<text:s/>z"
    rows = f'<r><c t="string"><text:p>{deep}</text:p></c></r>'
    assert read_table(ods(tmp_path, rows)).core.column("a").cell(0) == "xy z"


def test_a_document_type_in_any_part_is_refused(tmp_path):
    part = "thumbnail.svg", '<!DOCTYPE x [<!ENTITY a "b">]><x>&a;</x>'
    with pytest.raises(SourceError, match="defines entities"):
        read_table(ods(tmp_path, '<r><c t="float" v="1"/></r>', [part]))


def test_gzip_beyond_its_ratio_is_refused_unless_that_is_said(tmp_path):
    path = tmp_path / "a.csv.gz"
    path.write_bytes(gzip.compress(b"a,b\n" + b"1,2\n" * 17_000_000, 9))
    with pytest.raises(SourceError, match="more than 200 times its size"):
        read_table(path)
    with pytest.raises(SourceError, match="more than 1,048,576 bytes"):
        read_table(path, at_most=["unpacked=1MiB", "ratio=5000"])


def test_what_a_file_may_hold_can_be_said(tmp_path):
    (tmp_path / "a.csv").write_text("a,b,c\n1,2,xxxxx\n")
    with pytest.raises(SourceError, match="3 columns: at most 2"):
        read_table(tmp_path / "a.csv", at_most="columns=2")
    with pytest.raises(SourceError, match="a cell of column 'c' has 5 bytes"):
        read_table(tmp_path / "a.csv", at_most="cell=4")
    with pytest.raises(CallError, match="'cel=4' is no limit"):
        read_table(tmp_path / "a.csv", at_most="cel=4")


@pytest.mark.parametrize("ending", ["parquet", "arrow"])
def test_runs_beyond_the_ratio_are_refused_before_they_are_made(tmp_path, ending):
    table = pa.table({"a": pa.nulls(200_000_000)})
    out = io.BytesIO()
    if ending == "parquet":
        parquet.write_table(table, out, compression="zstd")
    else:
        with pa.ipc.new_file(out, table.schema) as writer:
            writer.write_table(table)
    path = tmp_path / f"a.{ending}"
    path.write_bytes(out.getvalue())
    with pytest.raises(SourceError, match="more than 200 times the"):
        read_table(path)


def test_records_of_ever_new_names_are_refused(tmp_path):
    path = tmp_path / "a.jsonl"
    path.write_text("".join(f'{{"c{n}": 1}}\n' for n in range(9000)))
    with pytest.raises(SourceError, match="different names in"):
        read_table(path)
    path.write_text('{"a": ' + "[" * 50_000 + "]" * 50_000 + "}\n")
    with pytest.raises(SourceError, match="nested too deep"):
        read_table(path)


def test_a_device_is_no_file():
    with pytest.raises(SourceError, match="this is a device"):
        read_table("/dev/zero")


def test_a_pipe_is_read_and_one_without_a_writer_is_not_waited_for(tmp_path, monkeypatch):
    monkeypatch.setattr(contents, "_PATIENCE", 0.1)
    path = tmp_path / "calls.csv"
    os.mkfifo(path)
    with pytest.raises(SourceError, match="nobody has written into this pipe"):
        read_table(path)
    writer = Thread(target=path.write_text, args=("zone,dues\nOuter,5\n",))
    writer.start()
    assert len(read_table(path)) == 1
    writer.join()


def test_a_name_that_no_file_can_have_is_refused():
    for name in ("a\0.csv", "a\0b.xlsx!wanted"):
        with pytest.raises(SourceNotFound, match="no file has such a name"):
            read_criteria(name)
