"""What conditions ask of a cell, one kind of test a module."""

from even_sieve.core.criteria.conditions.any_of import OneOf, read_one_of
from even_sieve.core.criteria.conditions.asked import Test
from even_sieve.core.criteria.conditions.by_kind import Holding, Holds, read_holds
from even_sieve.core.criteria.conditions.comparison import Compared, read_compared
from even_sieve.core.criteria.conditions.met import Meets, read_meets
from even_sieve.core.criteria.conditions.value import more_values, read_value
from even_sieve.core.criteria.stored_range import Order

__all__ = [
    "Compared",
    "Holding",
    "Holds",
    "Meets",
    "OneOf",
    "Order",
    "Test",
    "more_values",
    "read_compared",
    "read_holds",
    "read_meets",
    "read_one_of",
    "read_value",
]
