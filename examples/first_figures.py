"""From a file to figures that can be defended.

The harbour's calls are read, month totals and withdrawn calls are marked, and every
figure comes with an account of all rows.
"""

from even_sieve import read_table
from even_sieve.demo.make import demo_path

calls = read_table(demo_path("calls.csv"))
calls = calls.mark(subtotal="vessel = Month total*", hidden="status = withdrawn")

figures = calls.tally(
    "rows",
    "sum of dues",
    "average of dues",
    "max of dues",
    where="zone = Outer and arrived in 2031-Q1",
)
print(figures)

total = figures["sum of dues"]
print(f"{total.name}: {total.value}, from {total.account.used} of {total.account.rows} rows")
print("exactly:", total.exact)
