"""Packed files (zip), looked at before anything is unpacked."""

from io import BytesIO
from zipfile import BadZipFile, ZipFile

from even_sieve.core.errors import SourceError
from even_sieve.sources.options import Limits


def open_packed(content: bytes, source: str, limits: Limits) -> ZipFile:
    """Return the archive. Raises `SourceError` for a broken one, or one beyond the limits."""
    try:
        archive = ZipFile(BytesIO(content))
    except BadZipFile:
        raise SourceError(
            source, "this is no workbook: the archive is broken", "Save it again"
        ) from None
    unpacked = sum(entry.file_size for entry in archive.infolist())
    packed = max(sum(entry.compress_size for entry in archive.infolist()), 1)
    if unpacked > limits.unpacked or (unpacked > 1 << 26 and unpacked > limits.ratio * packed):
        raise SourceError(
            source,
            f"the file unpacks to {unpacked:,} bytes, {unpacked // packed:,} times its size",
            f"At most {limits.unpacked:,} bytes and {limits.ratio} times are read",
        )
    for entry in archive.infolist():
        if entry.flag_bits & 1:
            raise SourceError(source, "the workbook is locked with a password", "Save it without")
    return archive
