"""The passes in C, where there was a compiler when Even Sieve was installed; None elsewhere."""

from types import ModuleType

compiled: ModuleType | None
try:
    from even_sieve.sources import _cells as compiled
except ImportError:
    compiled = None
