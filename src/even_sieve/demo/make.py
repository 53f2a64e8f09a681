"""Makes the harbour's data: everything in it is made up, from one seed.

python -m even_sieve.demo.make FOLDER
"""

import csv
import random
import sys
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from decimal import ROUND_HALF_UP, Decimal
from importlib.resources import files
from io import StringIO
from pathlib import Path

SEED = 2031
YEAR = 2031
CALLS_A_MONTH = (30, 42)

HEADER = (
    "call", "berth", "zone", "vessel", "class", "arrived", "departed",
    "tonnage", "hours", "dues", "status", "remarks",
)  # fmt: skip
ZONES = {"Outer": "O", "Inner": "I", "North": "N", "Roads": "R"}
BERTHS_A_ZONE = 12
VESSELS = (
    "Amber Tern", "Barnacle", "Bold Curlew", "Brisk Heron", "Calm Plover", "Dunlin", "Eider",
    "Fair Gannet", "Grey Heron", "Hardy Skua", "Ivory Gull", "Jolly Puffin", "Kestrel Bay",
    "Long Reach", "Merganser", "Northern Diver", "Old Cormorant", "Petrel", "Quiet Avocet",
    "Red Knot", "Sandpiper", "Turnstone", "Wandering Tattler", "Bluethroat",
)  # fmt: skip


@dataclass(frozen=True)
class Tariff:
    """What a class of vessel pays: a ton, an hour alongside, and at the least."""

    name: str
    a_ton: Decimal
    an_hour: Decimal
    least: Decimal
    tons: tuple[int, int]


TARIFFS = (
    Tariff("coaster", Decimal("0.085"), Decimal("4.20"), Decimal("60.00"), (400, 4200)),
    Tariff("tanker", Decimal("0.110"), Decimal("7.50"), Decimal("180.00"), (2500, 18000)),
    Tariff("barge", Decimal("0.060"), Decimal("2.10"), Decimal("35.00"), (150, 1800)),
    Tariff("ferry", Decimal("0.045"), Decimal("3.00"), Decimal("40.00"), (900, 6500)),
    Tariff("trawler", Decimal("0.070"), Decimal("1.80"), Decimal("20.00"), (80, 900)),
)
REMARKS = (
    "pilot late", "fog", "crew change", "sand and gravel", "moved berth, twice", "engine repair",
    'waiting for "Red Knot"', "night arrival", "fresh water taken",
)  # fmt: skip

WANTED = [
    ["zone", "arrived", "arrived", "dues"],
    ["Outer", ">= 2031-01-01", "<= 2031-03-31", ">= 250"],
    ["North", "2031-Q1", "", ""],
]
WANTED_WITH_GAP = [
    ["zone", "status"],
    ["Outer | Inner", "late"],
    ["", ""],
    ["Roads", "not paid"],
]

WORKBOOKS = ("harbour.ods", "harbour.xlsx")
MONTHS_BOOK = "months.xlsx"
#: The folder of the months' files, and what the total at the foot of each is called.
MONTHS, TOTAL = "months", "Month total "
REPORT = "harbour.toml"

Row = list[str]


def make_calls() -> list[Row]:
    """Return the rows of the year's calls, with a total after each month's."""
    rng = random.Random(SEED)
    classes = {vessel: rng.choice(TARIFFS) for vessel in VESSELS}
    tons = {vessel: rng.randrange(*tariff.tons, 10) for vessel, tariff in classes.items()}
    rows: list[Row] = []
    number = 0
    for month in range(1, 13):
        first = len(rows)
        for arrived in _arrivals(rng, month):
            number += 1
            vessel = rng.choice(VESSELS)
            rows.append(_call(rng, number, arrived, vessel, classes[vessel], tons[vessel]))
        rows.append(_month_total(month, rows[first:]))
    return rows


def _arrivals(rng: random.Random, month: int) -> list[datetime]:
    first = datetime(YEAR, month, 1)
    days = (date(YEAR + month // 12, month % 12 + 1, 1) - date(YEAR, month, 1)).days
    count = rng.randint(*CALLS_A_MONTH)
    return sorted(first + timedelta(minutes=10 * rng.randrange(days * 144)) for _ in range(count))


def _call(
    rng: random.Random, number: int, arrived: datetime, vessel: str, tariff: Tariff, tons: int
) -> Row:
    zone = rng.choices(list(ZONES), (5, 4, 3, 2))[0]
    hours = Decimal(rng.randint(20, 900)) / 10
    departed = arrived + timedelta(minutes=int(hours * 60))
    dues = max(tons * tariff.a_ton + hours * tariff.an_hour, tariff.least)
    status = rng.choices(("paid", "open", "late", "withdrawn"), (70, 14, 10, 6))[0]
    if departed.year > YEAR:
        status = "open"
    return [
        f"C{number:04}",
        f"{ZONES[zone]}-{rng.randint(1, BERTHS_A_ZONE):02}",
        zone.upper() if rng.random() < 0.02 else zone,
        vessel,
        tariff.name,
        arrived.isoformat(timespec="minutes"),
        departed.isoformat(timespec="minutes") if departed.year == YEAR else "",
        str(tons),
        str(hours),
        _dues(rng, dues),
        status,
        rng.choice(REMARKS) if rng.random() < 0.22 else "",
    ]


def _dues(rng: random.Random, dues: Decimal) -> str:
    """Return the dues as the clerk left them: mostly a sum, sometimes a word, blank or error."""
    chance = rng.random()
    if chance < 0.04:
        return "waived"
    if chance < 0.06:
        return ""
    if chance < 0.07:
        return "#N/A"
    return str(dues.quantize(Decimal("0.01"), ROUND_HALF_UP))


def _month_total(month: int, rows: Sequence[Row]) -> Row:
    total = dict.fromkeys(HEADER, "")
    total["vessel"] = f"{TOTAL}{YEAR}-{month:02}"
    for name in ("tonnage", "hours", "dues"):
        position = HEADER.index(name)
        numbers = [row[position] for row in rows if row[position][:1].isdigit()]
        total[name] = str(sum(map(Decimal, numbers)))
    return list(total.values())


def make_months() -> Iterator[tuple[str, list[Row]]]:
    """Yield each month of the calls, its total last: `2031-01` and the rows."""
    rows: list[Row] = []
    for row in make_calls():
        rows.append(row)
        total = row[HEADER.index("vessel")]
        if total.startswith(TOTAL):
            yield total.removeprefix(TOTAL), rows
            rows = []


def make_month_files() -> Iterator[tuple[str, str]]:
    """Yield a file for each month: its name and its text.

    In the second half of the year another clerk wrote them, with the columns in an order of
    their own.
    """
    other = [name for name in HEADER if name not in ("status", "zone")]
    other[2:2] = ["status", "zone"]
    for month, rows in make_months():
        names = HEADER if month < f"{YEAR}-07" else other
        order = [HEADER.index(name) for name in names]
        kept = [[row[place] for place in order] for row in rows]
        yield f"{MONTHS}/{month}.csv", _csv([list(names), *kept])


def make_tariff() -> list[Row]:
    """Return the tariff table, its header first."""
    header = ["class", "a ton", "an hour", "least"]
    return [header, *([t.name, str(t.a_ton), str(t.an_hour), str(t.least)] for t in TARIFFS)]


def make_files() -> Iterator[tuple[str, str]]:
    """Yield each file of the demo: its name and its text."""
    yield "calls.csv", _csv([list(HEADER), *make_calls()])
    yield "tariff.csv", _csv(make_tariff())
    yield "wanted.csv", _csv(WANTED)
    yield "wanted-with-gap.csv", _csv(WANTED_WITH_GAP)


def _csv(rows: Sequence[Sequence[str]]) -> str:
    out = StringIO()
    csv.writer(out, lineterminator="\n").writerows(rows)
    return out.getvalue()


def write_files(folder: Path) -> list[Path]:
    """Write the demo's files into the folder, which is made if need be; return their paths.

    The workbooks and the report are copies of those that ship.
    """
    folder.mkdir(parents=True, exist_ok=True)
    contents = {name: text.encode() for name, text in (*make_files(), *make_month_files())}
    (folder / MONTHS).mkdir(exist_ok=True)
    contents |= {name: demo_path(name).read_bytes() for name in (*WORKBOOKS, MONTHS_BOOK, REPORT)}
    for name, content in contents.items():
        (folder / name).write_bytes(content)
    return [folder / name for name in contents]


def demo_path(name: str) -> Path:
    """Return the path of one of the demo's files as it ships."""
    return Path(str(files("even_sieve.demo").joinpath("data", name)))


if __name__ == "__main__":
    write_files(Path(sys.argv[1]))
