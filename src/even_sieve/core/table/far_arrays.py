"""Arrays whose rows stand elsewhere: here is what binds to them; cells come when they are asked."""

from collections.abc import Callable
from threading import Lock
from typing import Any, cast

import numpy as np
from numpy.lib.mixins import NDArrayOperatorsMixin
from numpy.typing import DTypeLike, NDArray

#: So many rows are fetched by themselves; for more of them the whole array is.
_MOST_FETCHED = 10_000


def worked_out(
    make: Callable[..., NDArray[Any]], dtype: DTypeLike, *given: NDArray[Any]
) -> NDArray[Any]:
    """Return what `make` makes of arrays of a value a row: a value of a type for each row.

    Of far rows it is made where they are.

    >>> worked_out(lambda codes: codes + 1, np.int64, np.array([4, 5])).tolist()
    [5, 6]
    """
    far = next((each for each in given if isinstance(each, FarArray)), None)
    if far is None:
        return make(*given)
    found = FarArray(len(far), dtype, lambda: make(*map(_here, given)))
    found.made = make, given
    return cast(NDArray[Any], found)


def _here(array: Any) -> NDArray[Any]:
    return array.here() if isinstance(array, FarArray) else array


class FarArray(NDArrayOperatorsMixin):
    """An array of so many rows that stand elsewhere.

    What is asked of it that its type and length do not answer is answered by the array itself,
    which `whole` brings here, once; `some` brings the values of a few rows. Whoever goes through
    the rows where they are (see `Elsewhere`) finds there by `key` what it stands for; one that is
    `made` of others is made there.

    >>> far = FarArray(3, np.uint8, lambda: np.array([4, 5, 6], np.uint8))
    >>> len(far), far.dtype, far.is_here, int(far[1]), far.is_here, (far > 4).tolist()
    (3, dtype('uint8'), False, 5, True, [False, True, True])
    """

    def __init__(
        self,
        length: int,
        dtype: DTypeLike,
        whole: Callable[[], NDArray[Any]],
        some: Callable[[NDArray[Any]], NDArray[Any]] | None = None,
        key: tuple[Any, ...] = (),
    ) -> None:
        self._length, self.dtype, self._whole, self._some = length, np.dtype(dtype), whole, some
        self.key = key
        self.held: object = None  # what its rows need as long as it is there
        self.made: tuple[Callable[..., NDArray[Any]], tuple[Any, ...]] | None = None
        self._found: NDArray[Any] | None = None
        self._lock = Lock()

    ndim = 1

    @property
    def shape(self) -> tuple[int]:
        """How long it is."""
        return (self._length,)

    @property
    def is_here(self) -> bool:
        """Whether its rows were brought here."""
        return self._found is not None

    def here(self) -> NDArray[Any]:
        """Return the array itself, brought here once."""
        with self._lock:
            if self._found is None:
                self._found = self._whole()
            return self._found

    @property
    def nbytes(self) -> int:
        """How many bytes are here."""
        return 0 if self._found is None else int(self._found.nbytes)

    @property
    def there(self) -> Any:
        """Who has the rows."""
        if self.made is None:
            return self.key[0] if self.key else None
        return next(each.there for each in self.made[1] if isinstance(each, FarArray))

    def __len__(self) -> int:
        return self._length

    def __array__(self, dtype: Any = None, copy: bool | None = None) -> NDArray[Any]:
        return np.array(self.here(), dtype=dtype, copy=copy)

    def __getitem__(self, at: Any) -> Any:
        if self._some is not None and self._found is None:
            if isinstance(at, int | np.integer):
                return self._some(np.array([range(self._length)[at]]))[0]
            if isinstance(at, np.ndarray) and at.dtype.kind in "iu" and len(at) <= _MOST_FETCHED:
                return self._some(at)
        return self.here()[at]

    def __array_ufunc__(self, ufunc: np.ufunc, method: str, *given: Any, **named: Any) -> Any:
        own = [each.here() if isinstance(each, FarArray) else each for each in given]
        return getattr(ufunc, method)(*own, **named)

    def __getattr__(self, name: str) -> Any:
        if name.startswith("_"):
            raise AttributeError(name)
        return getattr(self.here(), name)

    def __reduce__(self) -> tuple[Any, ...]:
        """Travel with the rows."""
        return np.asarray, (self.here(),)
