"""What every reading carries: who took it, when, what was typed, whether struck out."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Annotated, Protocol, TypeVar

from mockup.quantity.fields import Key, Within, Words


@dataclass(frozen=True, slots=True, kw_only=True)
class Record:
    """The bookkeeping of one reading: text for people and files, never computed with.

    ``at`` is an ISO 8601 date and time; ``struck`` the reason it was struck out, empty while it is valid.
    """

    typed: Words = ""
    by: Words = ""
    at: Words = ""
    struck: Words = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """Any reading: a key by which reports refer to it, and its record.

    ``after``: the order of the last change to the engine before it was taken, 0 before any.
    """

    key: Key = ""
    after: Annotated[int, Within(0, 1e9, "0 before any change.")] = 0
    record: Record = field(default_factory=Record)


class _Recorded(Protocol):
    @property
    def record(self) -> Record: ...


R = TypeVar("R", bound=_Recorded)


def standing(readings: Iterable[R]) -> Sequence[R]:
    """Return the readings that were not struck out, in order."""
    return [reading for reading in readings if not reading.record.struck]
