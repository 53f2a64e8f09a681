"""Views: every result in every format, compared whole."""

import json as standard_json
import pickle
from decimal import Decimal

import pytest
import simplejson
from rich.console import Console

from even_sieve import CellError, Choice, table_from
from even_sieve.documents import document_of
from even_sieve.documents.values import plain_json, plain_text, show_value
from even_sieve.renderers.formats.json import dump
from even_sieve.renderers.formats.table import draw
from even_sieve.renderers.renderer import format_names, renderer

TABLE = table_from(
    {
        "zone": ["Outer", "<b>&|*", "outer", None],
        "dues": [120.5, "waived", 80, CellError("#N/A")],
        "tons": [1000, 2, 3, 4],
    }
)
TALLIES = TABLE.tally(
    "rows", "sum of dues", "max of dues", "average of dues", "min of dues where dues > 999",
    where="zone is filled",
)  # fmt: skip
LINES = TABLE.tally("rows", "sum of dues", "average of dues", by="zone")
ROWS = TABLE.listing("tons < 1000", choice=Choice(columns=("zone", "dues"), sort=("dues desc",)))
EVERY = TABLE.listing("tons < 1000 and zone = outer", every_row=True)
BRIDGE = TABLE.bridge("sum of dues", where="dues < 100")
FUNNEL = TABLE.funnel("zone = Outer and dues > 100 or tons = 4")


def shown_as(form, answer, **beside):
    documents = {name: document_of(each) for name, each in beside.items()}
    return renderer(form).answer(document_of(answer), documents)


SHOWN = [
    ("table", TALLIES, r"""

 measure                         value   found at
 ────────────────────────────────────────────────
 rows                                3
 sum of dues                     200.5
 max of dues                     120.5   row 1
 average of dues                100.25
 min of dues where dues > 999        –

 account, rows: 4 rows = 1 unmatched + 3 used
 account, sum of dues, max of dues, average of dues: 4 rows = 1 unmatched + 1 not a number + 2 used
 account, min of dues where dues > 999: 4 rows = 4 unmatched

 note: min of dues where dues > 999: no row matched
"""),
    ("table", LINES, r"""

 zone      rows   sum of dues   average of dues
 ──────────────────────────────────────────────
 <b>&|*       1           0.0                 –
 Outer        2         200.5            100.25
 (blank)      1           0.0                 –

 total        4         200.5            100.25

 account of the total, rows: 4 rows = 4 used
 account of the total, sum of dues, average of dues: 4 rows = 1 error + 1 not a number + 2 used

 note: <b>&|*: sum of dues: 1 row matched, none with a number; this 0 stands for nothing added
 note: (blank): sum of dues: 1 row matched, none with a number; this 0 stands for nothing added
"""),
    ("table", ROWS, r"""

 row   zone     dues
 ─────────────────────
   2   <b>&|*   waived
   3   outer    80.0
   4            #N/A

 3 of 4 rows match
"""),
    ("table", EVERY, r"""

 row   zone       dues    tons   verdict
 ────────────────────────────────────────────────
   1   Outer     120.5   1,000   not tons < 1000
   2   <b>&|*   waived       2   not zone = outer
   3   outer      80.0       3   matches
   4              #N/A       4   not zone = outer

 1 of 4 rows matches
"""),
    ("table", FUNNEL, r"""

 alternative 1: 1 row, 1 of them by no other alternative

 condition      holds for   left in turn
 ───────────────────────────────────────
 rows in play                          4
 zone = Outer           2              2
 dues > 100             1              1

 alternative 2: 1 row, 1 of them by no other alternative

 condition      holds for   left in turn
 ───────────────────────────────────────
 rows in play                          4
 tons = 4               1              1

 in words: zone is Outer, and dues is above 100; or tons is 4
 2 of 4 rows match
"""),
    ("markdown", TALLIES, r"""
| measure | value | found at |
| --- | ---: | --- |
| rows | 3 |  |
| sum of dues | 200.5 |  |
| max of dues | 120.5 | row 1 |
| average of dues | 100.25 |  |
| min of dues where dues > 999 | – |  |

- rows: 4 rows = 1 unmatched + 3 used
- sum of dues, max of dues, average of dues: 4 rows = 1 unmatched + 1 not a number + 2 used
- min of dues where dues > 999: 4 rows = 4 unmatched
- min of dues where dues > 999: no row matched
"""),
    ("markdown", LINES, r"""
| zone | rows | sum of dues | average of dues |
| --- | ---: | ---: | ---: |
| &lt;b>&\|\* | 1 | 0.0 | – |
| Outer | 2 | 200.5 | 100.25 |
| (blank) | 1 | 0.0 | – |
| **total** | **4** | **200.5** | **100.25** |

- rows: 4 rows = 4 used
- sum of dues, average of dues: 4 rows = 1 error + 1 not a number + 2 used
- &lt;b>&\|\*: sum of dues: 1 row matched, none with a number; this 0 stands for nothing added
- (blank): sum of dues: 1 row matched, none with a number; this 0 stands for nothing added
"""),
    ("markdown", ROWS, r"""
| row | zone | dues |
| ---: | --- | --- |
| 2 | &lt;b>&\|\* | waived |
| 3 | outer | 80.0 |
| 4 |  | \#N/A |

- 3 of 4 rows match
"""),
    ("markdown", EVERY, r"""
| row | zone | dues | tons | verdict |
| ---: | --- | ---: | ---: | --- |
| 1 | Outer | 120.5 | 1,000 | not tons &lt; 1000 |
| 2 | &lt;b>&\|\* | waived | 2 | not zone = outer |
| 3 | outer | 80.0 | 3 | matches |
| 4 |  | \#N/A | 4 | not zone = outer |

- 1 of 4 rows matches
"""),
    ("markdown", FUNNEL, r"""
alternative 1: 1 row, 1 of them by no other alternative

| condition | holds for | left in turn |
| --- | ---: | ---: |
| rows in play |  | 4 |
| zone = Outer | 2 | 2 |
| dues > 100 | 1 | 1 |

alternative 2: 1 row, 1 of them by no other alternative

| condition | holds for | left in turn |
| --- | ---: | ---: |
| rows in play |  | 4 |
| tons = 4 | 1 | 1 |

- in words: zone is Outer, and dues is above 100; or tons is 4
- 2 of 4 rows match
"""),
    ("csv", TALLIES, r"""
measure,value,rows,subtotal,hidden,filtered,unmatched,blank,error,not_a_number,used,found_at,reason
rows,3,4,0,0,0,1,0,0,0,3,,
sum of dues,200.5,4,0,0,0,1,0,0,1,2,,
max of dues,120.5,4,0,0,0,1,0,0,1,2,1,
average of dues,100.25,4,0,0,0,1,0,0,1,2,,
min of dues where dues > 999,,4,0,0,0,4,0,0,0,0,,no row matched
"""),
    ("csv", LINES, r"""
zone,rows,sum of dues,average of dues,mark
<b>&|*,1,0,,
Outer,2,200.5,100.25,
,1,0,,
total,4,200.5,100.25,total
"""),
    ("csv", ROWS, r"""
zone,dues
<b>&|*,waived
outer,80
,#N/A
"""),
    ("csv", EVERY, r"""
row,zone,dues,tons,verdict
1,Outer,120.5,1000,not tons < 1000
2,<b>&|*,waived,2,not zone = outer
3,outer,80,3,matches
4,,#N/A,4,not zone = outer
"""),
]  # fmt: skip


@pytest.mark.parametrize(("form", "result", "text"), SHOWN)
def test_a_result_is_shown(form, result, text):
    assert shown_as(form, result) == text.removeprefix("\n")


def test_json_is_one_object_without_loss():
    found = standard_json.loads(TALLIES.to_json())
    assert list(found) == ["measures", "notices"]
    total, extreme, none = (found["measures"][i] for i in (1, 2, 4))
    assert total == {
        "name": "sum of dues",
        "value": 200.5,
        "account": {
            "rows": 4, "subtotal": 0, "hidden": 0, "filtered": 0, "unmatched": 1, "blank": 0,
            "error": 0, "not_a_number": 1, "used": 2,
        },
        "found_at": [],
        "reason": None,
        "notices": [],
    }  # fmt: skip
    assert (extreme["value"], extreme["found_at"]) == (120.5, [1])
    assert (none["value"], none["reason"]) == (None, "no row matched")


def test_json_of_a_breakdown_has_keys_lines_rest_and_total():
    found = standard_json.loads(LINES.to_json())
    assert list(found) == ["by", "across", "lines", "rest", "total", "notices"]
    assert (found["by"], found["across"], found["rest"]) == (["zone"], None, None)
    assert [line["key"] for line in found["lines"]] == [["<b>&|*"], ["Outer"], [None]]
    assert [each["value"] for each in found["lines"][1]["measures"]] == [2, 200.5, 100.25]
    assert [each["value"] for each in found["total"]["measures"]] == [4, 200.5, 100.25]


NESTED = TABLE.tally("sum of tons", by=["zone", "tons in bands 3"], where="zone is filled")
ACROSS = TABLE.tally("sum of tons", "rows", by="zone", across="tons in bands 3")


def test_subtotals_stand_under_the_lines_that_they_repeat():
    assert shown_as("table", NESTED).splitlines()[3:9] == [
        " <b>&|*   below 3                     2",
        " <b>&|*   total                       2",
        " Outer    3 and above             1,003",
        " Outer    total                   1,003",
        "",
        " total                            1,005",
    ]
    assert shown_as("markdown", NESTED).splitlines()[3] == (
        "| **&lt;b>&\\|\\*** | **total** | **2** |"
    )
    assert shown_as("csv", NESTED).splitlines() == [
        "zone,tons in bands 3,sum of tons,mark", "<b>&|*,below 3,2,", "<b>&|*,total,2,subtotal",
        "Outer,3 and above,1003,", "Outer,total,1003,subtotal", "total,,1005,total",
    ]  # fmt: skip
    found = standard_json.loads(shown_as("json", NESTED))
    assert [(each["of"], each["key"]) for each in found["subtotals"]] == [
        (["zone"], ["<b>&|*"]), (["zone"], ["Outer"])
    ]  # fmt: skip
    assert "font-weight:bold" in NESTED._repr_html_()


def test_an_axis_stands_side_by_side_with_totals():
    shown = [line.split() for line in shown_as("table", ACROSS).splitlines()]
    assert ["Outer", "1,003", "2", "1,003", "2"] in shown
    assert ["total", "2", "1", "1,007", "3", "1,009", "4"] in shown
    header = shown_as("markdown", ACROSS).splitlines()[0]
    assert header.startswith("| zone | below 3: sum of tons | below 3: rows | 3 and above: sum")
    frame = ACROSS.to_frame()
    assert list(frame.index.names) == ["zone"]
    assert frame.loc["total", "total: rows"] == frame["total: rows"][:-1].sum() == 4
    assert frame["mark"].dropna().to_dict() == {"total": "total"}
    bare = ACROSS.to_frame(totals=False)
    assert list(bare.columns) == list(frame.columns)[:4]
    assert bare.sum().sum() == 1009 + 4
    plain = standard_json.loads(ACROSS.to_json())
    assert (plain["by"], plain["across"]) == (["zone"], "tons in bands 3")
    assert plain["lines"][0]["key"] == ["<b>&|*", "below 3"]


def test_the_others_of_the_first_lines_are_the_rest():
    found = standard_json.loads(TABLE.tally("rows", by="zone", top=1).to_json())
    assert [line["key"] for line in found["lines"]] == [["Outer"]]
    assert found["rest"]["key"] == ["2 others"]
    assert shown_as("csv", TABLE.tally("rows", by="zone", top=1)).splitlines()[2] == "2 others,2,"


def test_json_of_rows_tells_which_match():
    found = standard_json.loads(shown_as("json", EVERY))
    assert found["rows"][0] == {
        "row": 1,
        "cells": {"zone": "Outer", "dues": 120.5, "tons": 1000},
        "matches": False,
        "left_out_by": "not tons < 1000",
    }
    assert found["rows"][2]["matches"] is True
    assert standard_json.loads(shown_as("json", ROWS))["rows"][2] == {
        "row": 4, "cells": {"zone": None, "dues": "#N/A"},
    }  # fmt: skip


def test_json_of_a_bridge_has_its_figure_and_a_record_a_step():
    found = standard_json.loads(shown_as("json", BRIDGE))
    assert found["figure"]["value"] == 80
    assert [step["reason"] for step in found["steps"]] == ["start", "unmatched", "figure"]
    assert found["steps"][1] == {
        "reason": "unmatched", "label": "not: dues < 100", "rows": -3, "amount": -120.5,
        "rows_left": 1, "amount_left": 80,
    }  # fmt: skip


def test_explanations_and_rechecks_stand_beside_the_answer():
    found = TABLE.tally("sum of dues")
    beside = {"explanations": TABLE.explain(found), "rechecks": TABLE.recheck(found)}
    shown = standard_json.loads(shown_as("json", found, **beside))
    (why,) = shown["explanations"]
    assert why["definition"] == "the exact sum of the numbers, rounded once, in column 'dues'"
    assert why["before_rounding"] == "401/2"
    assert why["buckets"][1] == {"bucket": "not_a_number", "rows": 1, "first_rows": [2]}
    assert shown["rechecks"] == [
        {"name": "sum of dues", "agrees": True, "value": 200.5, "again": 200.5, "rows": 4}
    ]
    text = shown_as("markdown", found, **beside)
    assert "**sum of dues = 200.5**" in text
    assert "- recheck: sum of dues agrees: 200.5, row by row 200.5" in text


def test_a_kept_error_is_no_value_in_json_and_the_reason_names_it():
    found = TABLE.tally("sum of dues", keep="errors")
    assert found[0].value == CellError("#N/A")
    (figure,) = standard_json.loads(found.to_json())["measures"]
    assert (figure["value"], figure["found_at"]) == (None, [4])
    assert figure["reason"] == "the error #N/A was kept"


def test_html_is_escaped_and_has_a_header_a_total_and_the_account():
    shown = LINES._repr_html_()
    assert "<b>&|*" not in shown
    assert "&lt;b&gt;&amp;|*" in shown
    assert shown.count("<tr>") == 5
    assert "font-weight:bold" in shown
    assert "sum of dues, average of dues: 4 rows = 1 error + 1 not a number + 2 used" in shown
    assert "rows: 4 rows" in TALLIES._repr_html_()
    assert "3 of 4 rows match" in ROWS._repr_html_()
    assert "zone is Outer, and dues is above 100" in FUNNEL._repr_html_()
    assert "&lt;b&gt;" in TABLE._repr_html_()


def test_results_print_themselves():
    assert str(TALLIES) == repr(TALLIES) == shown_as("table", TALLIES)
    assert str(LINES) == shown_as("table", LINES)
    assert str(FUNNEL) == shown_as("table", FUNNEL)
    assert "4 of 4 rows match" in repr(TABLE)
    assert standard_json.loads(FUNNEL.to_json())["matching"] == 2


def test_columns_that_do_not_fit_are_left_out_and_named():
    console = Console(width=45, color_system=None)
    with console.capture() as capture:
        console.print(draw(document_of(EVERY), 45))
    narrow = capture.get()
    assert "verdict" in narrow
    assert "not shown for want of width: tons; choose" in " ".join(narrow.split())


def test_every_format_shows_every_answer():
    answers = (TALLIES, LINES, ROWS, EVERY, BRIDGE, FUNNEL, TABLE.profile(), TABLE.explain(LINES),
               TABLE.recheck(LINES))  # fmt: skip
    for answer in answers:
        for name in format_names():
            assert len(shown_as(name, answer)) > 20
        assert "<div" in answer._repr_html_()
        assert len(answer.to_frame()) > 0
        again = pickle.loads(pickle.dumps(answer))
        assert again == answer
        assert str(again) == str(answer)


@pytest.mark.parametrize(
    ("value", "shown", "plain", "as_json"),
    [
        (None, "–", "", None),
        (True, "yes", "yes", True),
        (1234567, "1,234,567", "1234567", 1234567),
        (1234.5, "1,234.5", "1234.5", 1234.5),
        (1000.0, "1,000", "1000", 1000),
        (2 / 3, "0.666667", "0.6666666666666666", 2 / 3),
        (1e-9, "1e-09", "1e-09", 1e-9),
        (1.5e300, "1.5e+300", "1.5e+300", 1.5e300),
        (-0.25, "-0.25", "-0.25", -0.25),
        ("Outer", "Outer", "Outer", "Outer"),
        (CellError("#N/A"), "#N/A", "#N/A", "#N/A"),
    ],
)
def test_a_value_for_people_for_files_and_for_programs(value, shown, plain, as_json):
    assert (show_value(value), plain_text(value), plain_json(value)) == (shown, plain, as_json)


def test_what_a_terminal_would_obey_or_hide_is_spelt_out_and_formulas_are_harmless():
    table = table_from({"vessel": ["\x1b[31mred", "a\u202eb", "=1+1", "-x"], "dues": [1, 2, 3, -4]})
    shown = str(table)
    assert ("\\x1b[31mred" in shown, "a\\u202eb" in shown, "\x1b" in shown) == (True, True, False)
    csv = shown_as("csv", table.listing())
    assert csv.splitlines()[1:] == ["\x1b[31mred,1", "a\u202eb,2", "'=1+1,3", "'-x,-4"]


def test_a_grid_is_as_wide_as_its_widest_cells_and_looks_as_a_table_does():
    table = table_from({"zone": ["é漢字", "a\nb", "x"], "dues": [1, 200, None]})
    shown = renderer("table").answer(document_of(table.listing()), {}).splitlines()
    assert shown[1:] == [
        " row   zone    dues",
        " ──────────────────",
        "   1   é漢字      1",
        "   2   a        200",
        "       b",
        "   3   x",
        "",
        " 3 of 3 rows match",
    ]


def test_long_lists_of_json_have_an_entry_a_line():
    lines = [
        {"zone": 'Außen\u2028}, {"zone": 1', "dues": [None, 1.5, Decimal("0.1234567890123456789")]}
    ] * 1_000
    plain = {"lines": lines, "blocks": [{"rows": (*range(1_200),)}], "few": [1]}
    text = dump(plain)
    assert simplejson.loads(text, use_decimal=True) == simplejson.loads(
        simplejson.dumps(plain), use_decimal=True
    )
    assert text.count("\n") == 1_001 + 1_201 + 11  # of the long lists, and of what is around them
