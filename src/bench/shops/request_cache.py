"""What is read once for each request and kept until its answer: rows that several parts of one answer need.

Outside a request nothing is kept. Code that changes such rows forgets them.
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any, TypeVar

T = TypeVar("T")

_kept: ContextVar[dict[str, Any] | None] = ContextVar("_kept", default=None)


@contextmanager
def opened() -> Iterator[None]:
    """Keep what is read in here until the end of it."""
    token = _kept.set({})
    try:
        yield
    finally:
        _kept.reset(token)


def kept(name: str, make: Callable[[], T]) -> T:
    """Return what is kept under a name, made by ``make`` the first time."""
    found = _kept.get()
    if found is None:
        return make()
    if name not in found:
        found[name] = make()
    value: T = found[name]
    return value


def forget(name: str) -> None:
    """Have a name read again when it is next asked for."""
    found = _kept.get()
    if found is not None:
        found.pop(name, None)
