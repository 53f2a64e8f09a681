"""Reference data with certified answers: every certified digit comes out.

The univariate sets of the NIST Statistical Reference Datasets that can be generated. They
are hard because the numbers differ only far behind their first digits: squaring them and
subtracting, as textbooks do, loses those digits in plain double arithmetic.
"""

import statistics

from even_sieve import table_from

# The name, the data, the certified average and standard deviation (of a sample).
sets: list[tuple[str, list[float], float, float]] = [
    ("NumAcc1", [10000001, 10000003, 10000002], 10000002, 1),
    ("NumAcc2", [1.2] + [1.1, 1.3] * 500, 1.2, 0.1),
    ("NumAcc3", [1000000.2] + [1000000.1, 1000000.3] * 500, 1000000.2, 0.1),
    ("NumAcc4", [10000000.2] + [10000000.1, 10000000.3] * 500, 10000000.2, 0.1),
]

for name, data, average, deviation in sets:
    found = table_from({"x": data}).tally("average of x", "deviation of x")
    assert found[0].value == average
    assert found[1].value == deviation
    mean = sum(data) / len(data)
    plain = (sum(x * x for x in data) / len(data) - mean * mean) * len(data) / (len(data) - 1)
    print(f"{name}: average {found[0].value}, deviation {found[1].value}; certified {deviation}")
    print(f"    by the textbook in plain doubles: variance {plain:.6g}, not {deviation**2:.6g}")

# Decimals count as the decimals that they are written as; recheck works with fractions.
hardest = table_from({"x": sets[3][1]})
print(hardest.recheck(hardest.tally("deviation of x"))[0])
print("statistics.stdev of the doubles gives", statistics.stdev(sets[3][1]))
