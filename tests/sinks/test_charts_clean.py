"""What stands in cells shows in a chart, a page and Markdown as it is, and is obeyed nowhere."""

import warnings
from xml.etree import ElementTree

import pytest

from even_sieve import table_from
from even_sieve.documents import document_of
from even_sieve.renderers.html import fragment
from even_sieve.renderers.renderer import renderer

BAD = ["\x1b[31mred", "a\x07b", "\u202eback", "$a_b$ \\frac{ $", "![x](http://q.invalid/i.png)",
       "<img src=x>", "[l](javascript:x)", "漢\u2066字", "\x9b31m"]  # fmt: skip
TABLE = table_from({"zone\x1b[1m": BAD, "dues": list(range(1, len(BAD) + 1))})
LINES = TABLE.tally("sum of dues", by="#1")


@pytest.mark.parametrize("ending", ["svg", "png"])
def test_a_chart_is_drawn_of_any_text_without_a_word_of_its_library(tmp_path, ending):
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        LINES.write_chart(tmp_path / f"a.{ending}")
    content = (tmp_path / f"a.{ending}").read_bytes()
    assert len(content) > 2000
    if ending == "svg":
        texts = "".join(ElementTree.fromstring(content).itertext())
        assert "\\x1b[31mred" in texts
        assert "$a_b$ \\frac{ $" in texts


def test_nothing_hidden_or_obeyed_is_left_in_a_page_or_in_markdown():
    page = fragment(document_of(LINES))
    text = renderer("markdown").answer(document_of(LINES), {})
    for shown in (page, text):
        assert not set(shown) & set("\x1b\x07\x9b\u202e\u2066")
        assert "\\u202eback" in shown
    assert "<img" not in page
    assert "&lt;img src=x>" in text
    assert "!\\[x\\](http" in text
    assert "\n| \\[l\\](javascript:x)" in text


def test_formulas_in_full_width_signs_are_guarded_and_come_back(tmp_path):
    from even_sieve import read_table

    cells = ["＝1+1", "＋5", "－x", "＠a", "=2", "'t Veer"]
    table_from({"remark": cells}).write(tmp_path / "a.csv")
    written = (tmp_path / "a.csv").read_text(encoding="utf-8").splitlines()[1:]
    assert [line[0] for line in written] == ["'"] * 6
    assert list(read_table(tmp_path / "a.csv").core.column("remark").cells()) == cells
