"""Trying criteria on a terminal: what is typed, and the figures that move with it."""

from even_sieve.screen.app import TrialApp

__all__ = ["TrialApp"]
