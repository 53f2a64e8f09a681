"""Bytes as they come, taken as words for a grammar or as a file of a format: see `guided`."""

from even_sieve.core.errors import AccountError, RecheckError, SieveError
from even_sieve.sources.files import read_content
from even_sieve.sources.source_options import SourceOptions

_ENDINGS = ("csv", "jsonl", "xlsx", "ods", "parquet", "arrow", "csv.gz")
_ASKED = ("where", "by", "derive", "hidden", "measure", "cell")
WAYS = len(_ENDINGS) + len(_ASKED)


def check(seed):
    """Raise what is not the product's own error; the seed is the bytes in hexadecimal."""
    data = bytes.fromhex(seed)
    if not data:
        return
    ways = (*_ENDINGS, *_ASKED)
    way, rest = ways[data[0] % len(ways)], data[1:]
    try:
        if way in _ENDINGS:
            table = read_content(rest, f"calls.{way}", SourceOptions())
            assert len(table.names) == len(table.columns)
        else:
            _ask(way, rest.decode("utf-8", errors="surrogateescape"))
    except (RecheckError, AccountError):
        raise
    except SieveError:
        return


def _ask(way, text):
    from asked import TABLE

    if way == "measure":
        TABLE.recheck(TABLE.tally(text))
    elif way == "cell":
        TABLE.tally("rows", where={"zone": text, "dues": text})
    else:
        TABLE.recheck(TABLE.tally("sum of dues", **{way: text}))
