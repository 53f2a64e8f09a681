"""Criteria laid out as a table: across a row all must hold, the rows are alternatives."""

from even_sieve import read_criteria, read_table, write_criteria
from even_sieve.demo.make import demo_path

calls = read_table(demo_path("calls.csv")).mark(subtotal="vessel = Month total*")

wanted = read_criteria(demo_path("wanted.csv"))
print(write_criteria(wanted.criteria))
print(calls.tally("rows", "sum of dues", where=wanted))

# A blank row is passed over and told: it never turns into "everything".
gap = read_criteria([["zone", "status"], ["Roads", "late"], ["", ""], ["North", "late"]])
print(calls.tally("rows", where=gap))

# Mappings say the same; a list holds alternatives.
print(calls.tally("rows", where={"zone": ["Roads", "North"], "status": "late"})["rows"])
