"""Derived columns: worked out from others, row by row, and columns like any other."""

from even_sieve.core.derive.columns import derive

__all__ = ["derive"]
