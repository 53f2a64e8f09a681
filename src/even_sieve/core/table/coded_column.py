"""A column of values that are given once, and of their places."""

from dataclasses import replace

import numpy as np

from even_sieve.core.cells import Kind
from even_sieve.core.table.build import assemble
from even_sieve.core.table.columns import Column
from even_sieve.core.table.lanes import Array


def column_of_places(values: Column, places: Array) -> Column:
    """Return the column of the values at these places, int, shape (n,); below 0 is a blank.

    Texts that no cell has are left out.

    >>> from even_sieve.core.table import column_from
    >>> zones = column_of_places(column_from("zone", ["Inner", "Mole", "Outer"]), np.array([2, -1]))
    >>> list(zones.cells()), zones.lanes[Kind.TEXT].spellings
    (['Outer', None], ('Outer',))
    """
    gone = places < 0
    if not gone.any():
        return values.take(places)
    if gone.all():
        states = np.full(len(places), Kind.BLANK, dtype=np.uint8)
        return assemble(values.name, len(places), {}, states, values.notices)
    some = places[np.argmin(gone)]  # what stands in a blank's place is one that others have
    found = values.take(np.where(gone, some, places))
    states = np.full(len(places), found.only_kind) if found.states is None else found.states.copy()
    states[gone] = Kind.BLANK
    return replace(found, states=states.astype(np.uint8))
