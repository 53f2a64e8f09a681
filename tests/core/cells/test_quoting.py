"""A name in quotes works wherever a name stands, and words inside quotes are never keywords."""

import pytest

from even_sieve import Choice, table_from

NAMES = ("x=y", "a, b", "net where paid", "kept keep hidden", "part of dues", "rate to rows",
         "size by berth", "dues desc", "in bands 5", "either | or", "x as y", 'pipe 5"', "plain")  # fmt: skip
TABLE = table_from({"zone": ["Outer", "Inner", "Outer"], **{name: [1, 2, 4] for name in NAMES}})
QUOTED = ['"' + name.replace('"', '""') + '"' for name in NAMES]


@pytest.mark.parametrize(("name", "quoted"), list(zip(NAMES, QUOTED, strict=True)))
def test_a_quoted_name_works_in_every_small_grammar(name, quoted):
    found = TABLE.tally(
        f"sum of {quoted} where {quoted} > 1 keep blanks",
        f"{quoted} = sum of {quoted} regardless of zone, {quoted}",
        f"weighted average of {quoted} by {quoted}",
        f"ratio of max of {quoted} to sum of {quoted}",
        f"all of {quoted}",
        where=f"{quoted} >= 1",
    )
    assert (found[0].value, found[1].value) == (6, 7)
    assert (found[1].name, found[2].value, found[3].value) == (name, 3, 4 / 7)
    lines = TABLE.tally("rows", by=quoted, sort="label desc")
    assert (lines.by, [line.key for line in lines]) == ((name,), [(4,), (2,), (1,)])
    assert len(TABLE.tally("rows", by=f"{quoted} in bands 2").lines) == 2
    assert TABLE.tally("rows", by=f'{quoted} as "1" | *').rest.tallies[0].value == 3
    listing = TABLE.listing(choice=Choice((quoted, "zone"), (f"{quoted} desc",)))
    assert listing.rows == ((4, "Outer"), (2, "Inner"), (1, "Outer"))
    derived = TABLE.derive(
        f'"new=one, two" = {quoted} + {quoted}',
        f'"size, of" = small if {quoted} < 2, else "a, else b"',
    )
    assert derived.column("new=one, two") == [2, 4, 8]
    assert derived.column("size, of") == ["small", "a, else b", "a, else b"]


def test_quotes_that_do_not_close_are_letters():
    table = table_from({'5" pipe': [1, 2]})
    assert table.tally('sum of 5" pipe', by='5" pipe').total[0].value == 3


def test_look_ups_on_the_command_line_take_names_in_quotes(tmp_path, monkeypatch):
    from click.testing import CliRunner

    from even_sieve.cli.main import main

    monkeypatch.chdir(tmp_path)
    TABLE.write("on file.csv")
    (tmp_path / "calls.csv").write_text('"x=y","own"\n1,2\n4,5\n')
    words = '"on file.csv" on "x=y" bring "a, b" as "b, on a", "x as y"'
    call = ["tally", "calls.csv", 'sum of "b, on a"', "--look-up", words, "--format", "csv"]
    found = CliRunner().invoke(main, call)
    assert (found.exit_code, found.output.splitlines()[1].split(",")[:3]) == (
        0,
        ['"sum of b', ' on a"', "5"],
    )
    listed = CliRunner().invoke(
        main, ["rows", "calls.csv", "--columns", '"x=y", own', "--format", "csv"]
    )
    assert listed.output.splitlines()[0] == "x=y,own"
