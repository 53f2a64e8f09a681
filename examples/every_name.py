"""Every name that the package exports, used once: checked by mypy, and run."""

import tempfile
from datetime import date
from pathlib import Path

import even_sieve as es


def tables(folder: Path) -> es.Table:
    """Return a table that was read, joined, looked up in, and made ready."""
    calls = es.table_from({
        "zone": ["Outer", "Inner", "Outer"], "dues": [120.5, 80, es.CellError("#N/A")],
        "arrived": [date(2031, 1, 5), date(2031, 2, 9), None],
    })  # fmt: skip
    calls.write(folder / "calls.csv")
    read: es.Table = es.read_table(folder / "calls.csv")
    both = es.combine([read, calls], origin="source")
    tariff = es.table_from({"zone": ["Outer", "Inner"], "rate": [1.5, 2]})
    look_up = es.LookUp.of(tariff, on="zone")
    made = both.look_up(tariff, on="zone").derive("due = dues * rate")
    query = es.Query.of(where="zone = Outer", look_ups=[look_up])
    asked: es.Asked = {"where": "zone = Outer", "keep": "hidden"}
    profile: es.Profile = made.profile()
    print(len(made), query.strict, made.tally("rows", **asked)[0].value, len(profile.columns))
    return calls


def criteria(folder: Path) -> None:
    """Write criteria down in every way."""
    built = (es.field("zone") == "Outer") & (es.field("dues") > es.parameter("floor"))
    text = es.write_criteria(built)
    print(es.parse_criteria(text) == built, es.describe(built), es.write_range(built))
    (folder / "wanted.csv").write_text("zone\nOuter\n")
    (folder / "values.csv").write_text("name,value\nfloor,100\n")
    wanted = es.read_criteria(folder / "wanted.csv")
    print(wanted.criteria, es.read_parameters(folder / "values.csv"))


def answers(calls: es.Table) -> None:
    """Ask for every kind of answer, and for what backs it."""
    tallies: es.Tallies = calls.tally("rows", "sum of dues")
    tally: es.Tally = tallies["sum of dues"]
    account: es.Account = tally.account
    broken: es.Breakdown = calls.tally("sum of dues", by="zone", across="arrived by month")
    line: es.Line = broken.lines[0]
    whole = broken["Outer", es.ALL_VALUES]
    print(account.words(), line.key, whole[0].value)
    entries: list[es.Heading | es.LineRows | es.Together] = [
        es.Heading("Zones"), es.LineRows("outer", "zone = Outer"), es.Together("all", ("outer",))
    ]  # fmt: skip
    lines: es.LineSet = calls.lines("sum of dues", entries=entries)
    for entry in lines:
        if isinstance(entry, es.Counted | es.Added):
            print(entry.label)
    bridge: es.Bridge = calls.bridge("sum of dues", where="zone = Outer")
    step: es.BridgeStep = bridge.steps[0]
    funnel: es.Funnel = calls.funnel("zone = Outer")
    first: es.FunnelStep = funnel.alternatives[0].steps[0]
    listing: es.Listing = calls.listing(choice=es.Choice(columns=("zone",), limit=2))
    print(step.label, first.condition, listing.rows)
    explanations: es.Explanations = calls.explain(tallies)
    explanation: es.Explanation = explanations[0]
    rechecks: es.Rechecks = calls.recheck(tallies)
    recheck: es.Recheck = rechecks[0]
    print(explanation.lines()[0], recheck.words())
    query = es.Query()
    print(len(es.explain(query, calls.core, tallies)), len(es.recheck(query, calls.core, tallies)))
    notices: tuple[es.Notice, ...] = calls.tally("rows", where="zone = Outr").notices
    print(notices[0].code is es.Code.VALUE_NOT_FOUND)
    with es.shown_as({"dues": "EUR"}, locale="de_DE"):
        print(tally)


def reports(folder: Path, calls: es.Table) -> None:
    """Run a report, and try criteria."""
    (folder / "report.toml").write_text(
        'title = "Dues"\n[source]\nfile = "calls.csv"\n[[blocks]]\nkind = "figures"\n'
        'measures = ["sum of dues"]\n'
    )
    report: es.Report = es.Report.from_file(folder / "report.toml")
    results: es.Results = report.run()
    session: es.Session = es.Session(calls.core, ["rows"])
    outcome: es.Outcome = session.work_out()
    print(results.figures(), outcome.faults)


def errors(calls: es.Table) -> None:
    """Catch each error by its class."""
    caught: tuple[type[es.SieveError], ...] = (
        es.AccountError, es.CallError, es.CriteriaError, es.DoubtError, es.DuplicateColumn,
        es.LengthMismatch, es.LookUpError, es.MarkError, es.MeasureError, es.MemoryShort,
        es.NoRows, es.NoSuchFigure, es.NotInstalled, es.NotOneValue, es.ParameterError,
        es.RecheckError, es.SourceError, es.SourceNotFound, es.UnknownColumn,
        es.UnlikeSources, es.UnsuitableColumn,
    )  # fmt: skip
    try:
        calls.tally("sum of due")
    except caught as error:
        print(error)


def main() -> None:
    """Use every name."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        calls = tables(folder)
        criteria(folder)
        answers(calls)
        reports(folder, calls)
        errors(calls)


if __name__ == "__main__":
    main()
