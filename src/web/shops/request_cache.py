"""A cache for one request: rows that several parts of its answer need.

Outside a request nothing is cached. Code that changes such rows calls ``forget``.
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any, TypeVar

T = TypeVar("T")

_kept: ContextVar[dict[str, Any] | None] = ContextVar("_kept", default=None)


@contextmanager
def opened() -> Iterator[None]:
    """Cache what is read inside, until its end."""
    token = _kept.set({})
    try:
        yield
    finally:
        _kept.reset(token)


def kept(name: str, make: Callable[[], T]) -> T:
    """Return the value cached under a name, made by ``make`` the first time."""
    found = _kept.get()
    if found is None:
        return make()
    if name not in found:
        found[name] = make()
    value: T = found[name]
    return value


def forget(name: str) -> None:
    """Remove a name from the cache."""
    found = _kept.get()
    if found is not None:
        found.pop(name, None)
