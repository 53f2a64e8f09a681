"""Documents: answers laid out once, for every format to render."""

from even_sieve.core.answer import Answer
from even_sieve.core.table import Profile
from even_sieve.core.tally import (
    Breakdown,
    Bridge,
    Explanations,
    Funnel,
    LineSet,
    Listing,
    Rechecks,
    Tallies,
)
from even_sieve.documents.breakdown import BreakdownDocument
from even_sieve.documents.bridge import BridgeDocument
from even_sieve.documents.defence import ExplanationsDocument, RechecksDocument
from even_sieve.documents.document import Document
from even_sieve.documents.funnel import FunnelDocument
from even_sieve.documents.lines import LinesDocument
from even_sieve.documents.listing import ListingDocument
from even_sieve.documents.profile import ProfileDocument
from even_sieve.documents.since import Since, SinceDocument
from even_sieve.documents.tallies import TalliesDocument

#: How each kind of answer is laid out.
DOCUMENTS: dict[type[Answer], type[Document]] = {
    Tallies: TalliesDocument,
    Breakdown: BreakdownDocument,
    LineSet: LinesDocument,
    Bridge: BridgeDocument,
    Funnel: FunnelDocument,
    Listing: ListingDocument,
    Profile: ProfileDocument,
    Explanations: ExplanationsDocument,
    Rechecks: RechecksDocument,
    Since: SinceDocument,
}

__all__ = ["DOCUMENTS", "Document", "document_of"]


def document_of(answer: Answer) -> Document:
    """Return an answer laid out.

    >>> from even_sieve import table_from
    >>> document_of(table_from({"dues": [120, 80]}).tally("rows")).plain()["measures"][0]["value"]
    2
    """
    return DOCUMENTS[type(answer)](answer)
