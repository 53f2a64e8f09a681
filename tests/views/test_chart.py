"""Charts: what stands on them, and files that are the same for the same chart."""

from xml.etree.ElementTree import fromstring

import pytest

from even_sieve import SieveError, table_from
from even_sieve.views.chart import draw_bridge

CALLS = table_from(
    {"zone": ["Outer", "Inner", "Outer", None], "dues": [640.15, 80, -20.55, 699.6]}
).mark(subtotal=[4])


def test_a_chart_has_a_bar_with_its_number_for_every_step():
    bridge = CALLS.bridge("sum of dues", where="zone = Outer and dues > 0")
    (axes,) = draw_bridge(bridge).axes
    labels = [label.get_text() for label in axes.get_yticklabels()]
    assert labels == [step.label for step in bridge]
    assert [text.get_text() for text in axes.texts] == [
        "1,399.20   (4 rows)", "−699.60   (−1 row)", "−80.00   (−1 row)", "+20.55   (−1 row)",
        "640.15   (1 row)",
    ]  # fmt: skip
    whole, taken, _, added, figure = axes.patches
    assert (whole.get_width(), taken.get_x(), taken.get_width()) == (1399.2, 1399.2, -699.6)
    assert (added.get_x(), added.get_width()) == pytest.approx((619.6, 20.55))
    assert figure.get_width() == 640.15
    styles = [(patch.get_hatch(), patch.get_facecolor()) for patch in (whole, taken, added)]
    assert len({hatch for hatch, _ in styles}) == len({colour for _, colour in styles}) == 3


def test_long_labels_are_cut_and_every_bar_stays_on_the_chart():
    bridge = CALLS.bridge(
        "sum of dues", where="zone = Outer | North | Inner | South | Roads | East"
    )
    (axes,) = draw_bridge(bridge).axes
    assert axes.get_yticklabels()[2].get_text() == "not: zone = Outer | North | Inner | South | R…"
    low, high = axes.get_xlim()
    assert all(low <= patch.get_x() <= high for patch in axes.patches)


@pytest.mark.parametrize("ending", [".png", ".svg"])
def test_the_same_chart_has_the_same_bytes(tmp_path, ending):
    files = [tmp_path / f"{name}{ending}" for name in ("a", "b")]
    for file in files:
        CALLS.bridge("rows").write_chart(file)
    first, second = (file.read_bytes() for file in files)
    assert first == second
    if ending == ".svg":
        texts = [each.text for each in fromstring(first).iter("{http://www.w3.org/2000/svg}text")]
        assert "all rows" in texts
        assert str(tmp_path).encode() not in first
    else:
        assert first.startswith(b"\x89PNG")


def test_a_chart_goes_to_png_or_svg_alone(tmp_path):
    with pytest.raises(SieveError, match=r"a chart that ends in '\.txt' is not written"):
        CALLS.bridge("rows").write_chart(tmp_path / "chart.txt")
    with pytest.raises(SieveError, match="the file cannot be written: No such file or directory"):
        CALLS.bridge("rows").write_chart(tmp_path / "nowhere" / "chart.png")
    assert list(tmp_path.iterdir()) == []
