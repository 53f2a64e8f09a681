"""Criteria built in Python are the same as criteria written as text."""

from even_sieve import describe, field, parameter, parse_criteria, table_from, write_criteria

calls = table_from(
    {
        "vessel": ["Bold Curlew", "Eider", "Barnacle", "Dunlin"],
        "zone": ["Outer", "Inner", "Outer", "North"],
        "dues": [640.5, 80, "waived", 512],
    }
)

built = (field("zone") == "Outer") & (field("dues") > 500) | field("vessel").like("D*")
written = parse_criteria("zone = Outer and dues > 500 or vessel = D*")
print("the same:", built == written)
print("as text: ", write_criteria(built))
print("in words:", describe(built))
print(calls.tally("rows", "sum of dues", where=built))

floor = field("dues") >= parameter("floor")
for amount in (100, 600):
    found = calls.tally("rows", where=floor, parameters={"floor": amount})
    print(f"dues of at least {amount}: {found['rows'].value} rows")
