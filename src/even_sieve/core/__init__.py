"""The computing core: tables, criteria, measures and tallies, on NumPy alone."""
