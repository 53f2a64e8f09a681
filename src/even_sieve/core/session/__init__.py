"""Trying criteria: a draft under edit, what comes of it, and what moved; without any screen."""

from even_sieve.core.session.completions import Completion, Completions
from even_sieve.core.session.draft import Draft, Fault, first_draft
from even_sieve.core.session.outcome import Move, Outcome, usual_measures, work_out
from even_sieve.core.session.session import Session

__all__ = [
    "Completion",
    "Completions",
    "Draft",
    "Fault",
    "Move",
    "Outcome",
    "Session",
    "first_draft",
    "usual_measures",
    "work_out",
]
