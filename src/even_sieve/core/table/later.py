"""Things that are made when more is asked of them than is known."""

from collections.abc import Callable
from typing import Any, Self


class MadeLater:
    """A thing whose fields are those of another one, which is made when first asked for.

    Several threads may ask at once, and each make one: these are alike.
    """

    @classmethod
    def waiting(cls, make: Callable[[], Self], **known: Any) -> Self:
        """Return a thing of which this is known, and the rest as `make` makes it."""
        made = object.__new__(cls)
        made.__dict__.update(known, _make=make, _known=known)
        return made

    def __getattr__(self, name: str) -> Any:
        """Make what was left for later; called only for what is not there yet."""
        if name.startswith("__") or self.is_made:
            raise AttributeError(f"a {type(self).__name__.lower()} has no '{name}'")
        self._finish()
        return getattr(self, name)

    def __getstate__(self) -> dict[str, Any]:
        """Travel as what is made."""
        self._finish()
        return dict(self.__dict__)

    def _finish(self) -> None:
        make, known = self.__dict__.get("_make"), self.__dict__.get("_known", {})
        if make is None:
            return
        made = make().__dict__
        self.__dict__.update(made)
        for each in ("_make", "_known", *(each for each in known if each not in made)):
            self.__dict__.pop(each, None)

    @property
    def is_made(self) -> bool:
        """Whether all is there, or would have to be made."""
        return "_make" not in self.__dict__
