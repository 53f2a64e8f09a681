"""Reports: blocks of figures written down in one file that can be reviewed and run again."""

from even_sieve.reports.report import Report
from even_sieve.reports.results import BlockResult, Results

__all__ = ["BlockResult", "Report", "Results"]
