"""Derived columns: worked out from others, row by row, and columns like any other."""

from even_sieve.core.derive.derived_columns import derive

__all__ = ["derive"]
