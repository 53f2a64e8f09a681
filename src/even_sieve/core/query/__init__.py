"""What is asked of a table besides the measures: one record, made ready against a table."""

from even_sieve.core.query.marking import FOUND, Marking
from even_sieve.core.query.query import MARK_NAMES, Asked, LookUp, Query

__all__ = ["FOUND", "MARK_NAMES", "Asked", "LookUp", "Marking", "Query"]
