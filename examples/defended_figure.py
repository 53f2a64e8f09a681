"""A figure defended: what it is, where every row went, how it comes from the bare total."""

from even_sieve import read_table
from even_sieve.demo.make import demo_path

calls = read_table(demo_path("harbour.ods"))  # hidden rows and subtotals come marked
question = "zone = Outer and arrived in 2031-Q1"

dues = calls.tally("sum of dues", where=question)[0]
print(calls.explain(dues)[0])
print("rows that hold no number:", calls.rows(dues, "not a number"))
print(calls.recheck(dues)[0])

bridge = calls.bridge("sum of dues", where=question)
print(bridge)
naive, defended = bridge.steps[0].amount, bridge.steps[-1].amount
print(f"from {float(naive):,.2f} to {float(defended):,.2f}, exactly {naive - defended} apart")
