from typing import Any

def tell(
    data: Any,
    ends: Any,
    mark: int,
    order: int,
    states: Any,
    values: Any,
    places: Any,
    summary: Any,
    offsets: Any,
) -> None: ...
def near(
    data: Any,
    ends: Any,
    far: bool,
    rows: Any,
    mark: int,
    values: Any,
    whole: Any,
    places: Any,
    done: Any,
) -> None: ...
def see(data: Any, seen: Any) -> None: ...
def liken(data: Any, ends: Any, what: int, pairs: Any, names: Any, found: Any) -> None: ...
def match(
    data: Any,
    ends: Any,
    wanted: Any,
    wanted_ends: Any,
    how: int,
    slots: Any,
    found: Any,
    there: Any,
) -> None: ...
def hold(data: Any, part: Any) -> bool: ...
def case(data: Any) -> int: ...
