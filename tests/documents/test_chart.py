"""Charts: what stands on them, and files that are the same for the same chart."""

from datetime import date
from xml.etree.ElementTree import fromstring

import pytest

from even_sieve import SieveError, table_from
from even_sieve.documents.chart import draw_breakdown, draw_bridge

CALLS = table_from(
    {"zone": ["Outer", "Inner", "Outer", None], "dues": [640.15, 80, -20.55, 699.6]}
).mark(subtotal=[4])


def test_a_chart_has_a_bar_with_its_number_for_every_step():
    bridge = CALLS.bridge("sum of dues", where="zone = Outer and dues > 0")
    axes = draw_bridge(bridge)
    labels = [label.get_text() for label in axes.get_yticklabels()]
    assert labels == [step.label for step in bridge]
    assert [text.get_text() for text in axes.texts] == [
        "1,399.20   (4 rows)", "-699.60   (-1 row)", "-80.00   (-1 row)", "+20.55   (-1 row)",
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
    axes = draw_bridge(bridge)
    assert axes.get_yticklabels()[2].get_text() == "not: zone = Outer | North | Inner | South | R…"
    low, high = axes.get_xlim()
    assert all(low <= patch.get_x() <= high for patch in axes.patches)


def test_a_breakdown_is_drawn_as_bars_or_as_a_line_over_periods():
    calls = table_from(
        {
            "vessel": ["Heron", "Brant", "Heron", "<b>"],
            "arrived": [date(2031, 1, 5), date(2031, 2, 1), date(2031, 2, 2), date(2031, 4, 1)],
            "dues": [10.25, -5, 20, None],
        }
    )
    bars = calls.tally("sum of dues", by="vessel", top=2)
    axes = draw_breakdown(bars)
    assert [label.get_text() for label in axes.get_yticklabels()] == ["Heron", "<b>", "1 other"]
    assert [bar.get_width() for bar in axes.patches] == [30.25, 0, -5]
    assert [text.get_text() for text in axes.texts] == ["30.25", "0.00", "-5.00"]
    line = calls.tally("rows", "max of dues", by="arrived by month")
    axes = draw_breakdown(line, "max of dues")
    assert axes.get_title(loc="left") == "max of dues, arrived by month"
    assert [label.get_text() for label in axes.get_xticklabels()] == [
        "2031-01",
        "2031-02",
        "2031-03",
        "2031-04",
    ]
    assert axes.get_xlim() == (-0.5, 3.5)
    by_rows = calls.tally("rows", by="arrived by month", sort="rows desc")
    assert draw_breakdown(by_rows).patches  # out of their order periods are bars
    assert list(axes.lines[1].get_ydata())[:2] == [10.25, 20]
    assert [text.get_text() for text in axes.texts] == ["10.25", "20.00"]


@pytest.mark.parametrize(
    ("layout", "measure", "message"),
    [
        (
            {"by": ["zone", "dues in bands 0"], "across": "dues in bands 9"},
            None,
            "a chart shows one axis or two\nAsk",
        ),
        ({"by": "zone"}, "row", "there is no measure 'row' to draw\nDid you mean 'rows'?"),
        ({"by": "zone"}, "max of zone", "'max of zone' cannot be drawn: at Inner it is Inner"),
    ],
)
def test_what_cannot_be_drawn_is_refused(layout, measure, message):
    with pytest.raises(SieveError) as caught:
        draw_breakdown(CALLS.tally("rows", "max of zone", **layout), measure)
    assert str(caught.value).startswith(message)


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


def grid(measure, **layout):
    calls = table_from({
        "zone": ["Outer", "Inner", "Outer", "Inner", "Outer"],
        "status": ["paid", "open", "open", "paid", "late"],
        "arrived": [date(2031, month, 5) for month in (1, 1, 4, 4, 4)],
        "dues": [10.1, 20.2, 30.3, 40, 0.2],
    })  # fmt: skip
    return calls.tally(measure, **layout)


def test_two_axes_are_several_series():
    months = grid("sum of dues", by="zone", across="arrived by month").plot()
    lines = {line.get_label(): line for line in months.lines if line.get_label()[0] != "_"}
    assert list(lines) == ["Inner", "Outer"]  # periods go along the chart, whichever axis they are
    assert [str(each) for each in lines["Inner"].get_ydata()] == ["20.2", "nan", "nan", "40.0"]
    assert len({(each.get_marker(), each.get_linestyle()) for each in lines.values()}) == 2
    stacked = grid("sum of dues", by="zone", across="status").plot()
    assert [text.get_text() for text in stacked.texts] == ["60.2", "40.6"]
    assert [bars[0].get_x() for bars in stacked.containers] == [0.0, 0.0, 20.2]
    legend = [text.get_text() for text in stacked.get_legend().get_texts()]
    assert legend == ["late", "open", "paid"]
    beside = grid("average of dues", by=["zone", "status"]).plot()
    assert {bar.get_x() for bars in beside.containers for bar in bars} == {0.0}
    assert [text.get_text() for text in beside.texts if text.get_text() == "30.3"]


def test_many_series_are_panels_of_one_scale():
    vessels = [f"ship {number}" for number in range(9)]
    calls = table_from({"vessel": vessels * 2, "zone": list("ab" * 9), "dues": range(18)})
    first = calls.tally("sum of dues", by="zone", across="vessel").plot()
    panels = [each for each in first.figure.axes if each.get_visible()]
    assert [panel.get_title(loc="left") for panel in panels] == vessels
    assert len({panel.get_xlim() for panel in panels}) == 1
    assert calls.tally("rows", by="zone", across="vessel").plot(axes=first) is first
    many = table_from({"vessel": list(map(str, range(25))), "zone": ["a"] * 25})
    with pytest.raises(SieveError, match="25 series are too many to draw: at most 24"):
        many.tally("rows", by="zone", across="vessel").plot()


def test_what_is_given_is_drawn_on():
    from matplotlib.figure import Figure

    given = Figure().add_subplot()
    assert CALLS.tally("rows", by="zone").plot(axes=given) is given
    assert CALLS.bridge("rows").plot(axes=given) is given
    with pytest.raises(SieveError, match="there is no chart of tallies"):
        CALLS.tally("rows").plot()
