"""What every kind of block has in common: its model, and how it is run."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated, Any

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field

from even_sieve.core.answer import Answer
from even_sieve.core.query import Query
from even_sieve.core.table import Table

Text = Annotated[str, Field(min_length=1)]


def _several(given: Any) -> Any:
    return [given] if isinstance(given, str) else given


#: Texts; one stands for a list of it.
Texts = Annotated[list[Text], BeforeValidator(_several, json_schema_input_type=str | list[str])]
Measures = Annotated[Texts, Field(min_length=1)]


class Strict(BaseModel):
    """A model that takes no other keys, and no values of other types."""

    model_config = ConfigDict(extra="forbid", strict=True)


def with_ending(*endings: str) -> AfterValidator:
    """Return a check that a file's name ends so."""

    def check(name: str | None) -> str | None:
        if name is not None and Path(name).suffix.lower() not in endings:
            raise ValueError(f"a name that ends in {' or '.join(endings)} is needed")
        return name

    return AfterValidator(check)


#: The name of a chart's file.
Chart = Annotated[Text | None, with_ending(".png", ".svg")]


class Block(Strict):
    """What a block of any kind can say."""

    title: str = ""
    where: str | None = None


@dataclass(frozen=True)
class Place:
    """Where a block is run: the report's table, its query, and the block's own criteria.

    `query` holds both criteria; `shared` those of the report alone.
    """

    table: Table
    query: Query
    shared: Query


@dataclass(frozen=True)
class BlockKind:
    """A kind of block: what may stand in it, and what comes of it.

    How the answer is laid out is the answer's own: see `even_sieve.documents`.
    """

    name: str
    model: type[Block]
    run: Callable[[Any, Place], Answer]
