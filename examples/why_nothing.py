"""Why does nothing match? The funnel names the condition, the notices name the cause."""

from even_sieve import read_table
from even_sieve.demo.make import demo_path

calls = read_table(demo_path("calls.csv"))

print(calls.tally("rows", where="zone = Outr and dues > 500"))
print(calls.funnel("zone = Outer and dues > 500 and tonnage < 1000 and class = tanker"))

listing = calls.listing("zone = Outer and dues > 500", every_row=True)
for number, verdict in list(zip(listing.numbers, listing.verdicts or (), strict=True))[:5]:
    print(f"row {number}: {verdict or 'matches'}")
