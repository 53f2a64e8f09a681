"""What files were like when they were read, and whether they are so still."""

from collections.abc import Sequence
from pathlib import Path


class States:
    """What files were like when they were read."""

    def __init__(self, paths: Sequence[Path]) -> None:
        self._paths = paths
        self.renew()

    def renew(self) -> None:
        """Take note of what they are like now."""
        self._known = [_about(path) for path in self._paths]

    def changed(self) -> bool:
        """Tell whether they are different since."""
        return [_about(path) for path in self._paths] != self._known


def _about(path: Path) -> tuple[int, int] | None:
    try:
        stat = path.stat()
    except OSError:
        return None
    return stat.st_size, stat.st_mtime_ns
