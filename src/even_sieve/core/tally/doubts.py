"""Notices of doubt: what stands between an answer and a pipeline that trusts it blindly."""

from collections.abc import Iterable

from even_sieve.core.errors import DoubtError
from even_sieve.core.notices import INFORMATION, Notice
from even_sieve.core.query import Query
from even_sieve.core.tally.answers import Tally


def refuse_doubts(query: Query, notices: Iterable[Notice], tallies: Iterable[Tally] = ()) -> None:
    """Raise `DoubtError` for any notice of doubt, if the query is strict."""
    if query.strict:
        every = [*notices, *(notice for tally in tallies for notice in tally.notices)]
        texts = dict.fromkeys(each.text for each in every if each.code not in INFORMATION)
        if texts:
            raise DoubtError(list(texts))
