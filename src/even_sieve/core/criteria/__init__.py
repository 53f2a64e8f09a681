"""Criteria: read from text and ranges, made ready with settings, and bound to a table."""

from even_sieve.core.criteria.binding import Binder, mask_of
from even_sieve.core.criteria.blocks import Block, Probe, blocks
from even_sieve.core.criteria.builder import Field, field, parameter
from even_sieve.core.criteria.grammar import parse_cell, parse_criteria
from even_sieve.core.criteria.nodes import (
    EVERYTHING,
    Criteria,
    all_of,
    any_of,
    conditions,
    without_columns,
)
from even_sieve.core.criteria.ranges import (
    RangeCriteria,
    criteria_from_mapping,
    criteria_from_range,
    criteria_from_records,
    write_range,
)
from even_sieve.core.criteria.settings import (
    ParameterValue,
    PlainValue,
    Prepared,
    Settings,
    operand_of,
    parameter_from_text,
    prepare,
)
from even_sieve.core.criteria.where import OneCriteria, Where, read_where
from even_sieve.core.criteria.words import describe
from even_sieve.core.criteria.writing import write_criteria

__all__ = [
    "EVERYTHING",
    "Binder",
    "Block",
    "Criteria",
    "Field",
    "OneCriteria",
    "ParameterValue",
    "PlainValue",
    "Prepared",
    "Probe",
    "RangeCriteria",
    "Settings",
    "Where",
    "all_of",
    "any_of",
    "blocks",
    "conditions",
    "criteria_from_mapping",
    "criteria_from_range",
    "criteria_from_records",
    "describe",
    "field",
    "mask_of",
    "operand_of",
    "parameter",
    "parameter_from_text",
    "parse_cell",
    "parse_criteria",
    "prepare",
    "read_where",
    "without_columns",
    "write_criteria",
    "write_range",
]
