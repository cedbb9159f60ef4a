"""The kinds of reading, each declared beside its class in ``readings/``.

The log of a build, the job and its file, importing, staleness, the history and the pages take what they need from the
declaration. A new kind is a new module in ``readings/``, which is found without being listed.
"""

from collections.abc import Callable, Hashable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, fields
from typing import Any, TypeVar

from mockup.base.stations import Station
from mockup.changes.change import Affected, Change
from mockup.changes.since import age_of
from mockup.engine.block import Engine
from mockup.engine.valves import Place, Side
from mockup.quantity.echo import Asked
from mockup.quantity.value import Unit
from mockup.readings.record import Reading, standing

R = TypeVar("R", bound=Reading)


@dataclass(frozen=True, slots=True)
class ReadAt:
    """Where a reading is taken: its cylinder, its valve if any, its mock-up's letter."""

    cylinder: int
    place: Place | None = None
    mockup: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class OneField:
    """How to take a reading that needs one field a place; its station shows it from this.

    ``label``: what is read, ``help_text``: how. ``of_a_valve``: one field for each valve, else for each cylinder.
    ``read`` makes the reading from typing in the build's unit and raises LengthError or FaultsError. ``shown`` puts it
    back into words.
    """

    label: str
    help_text: str = ""
    of_a_valve: bool = False
    read: Callable[[str, Unit, ReadAt], Any]
    shown: Callable[[Any, Unit], str]


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadingKind:
    """One kind of reading.

    ``name``: its name in the log and in entry keys, up to 12 letters. ``listed``: its list in a job file. ``words``:
    its name in the history. ``of``: the identity of what is read; readings that share it replace one another once the
    engine was changed. ``reads``: the quantity read, whose change makes the reading stale; None where no change does.
    ``what``: its text in the history, from the reading, what was typed, and the unit. ``echo``: how typing is
    understood before saving, by field name. ``one_field``: set where its station's page needs no form of its own for
    it. ``of_the_block``: it stays true with another cam and head, so the next build on this block keeps it.
    """

    core: type[Any]
    name: str
    listed: str
    words: str
    station: Station
    of: Callable[[Any], Hashable]
    reads: Callable[[Any], Affected | None]
    what: Callable[[Any, str, Unit], str] | None = None
    echo: Mapping[str, Callable[[Asked], str]]
    one_field: OneField | None = None
    of_the_block: bool = False

    @property
    def in_a_mockup(self) -> bool:
        """Whether readings of this kind belong to a mock-up."""
        return self._has("mockup")

    @property
    def has_place(self) -> bool:
        """Whether readings of this kind belong to a cylinder, a valve or a bank."""
        return any(self._has(name) for name in ("place", "cylinder", "bank"))

    @property
    def has_instrument(self) -> bool:
        """Whether readings of this kind name their instrument."""
        return self._has("instrument")

    def _has(self, name: str) -> bool:
        return any(field.name == name for field in fields(self.core))


class _Kinds:
    """All kinds of reading, in bench order."""

    def __init__(self) -> None:
        self._found: dict[type[Any], ReadingKind] = {}

    def __iter__(self) -> Iterator[ReadingKind]:
        in_order = list(Station)
        return iter(sorted(self._found.values(), key=lambda kind: in_order.index(kind.station)))

    def of(self, core: type[Any]) -> ReadingKind:
        """Return the kind a class of readings was declared as. Raises KeyError."""
        return self._found[core]

    def named(self, name: str) -> ReadingKind | None:
        """Return the kind with that name in the log, or None."""
        return next((kind for kind in self._found.values() if kind.name == name), None)

    def add(self, kind: ReadingKind) -> None:
        """Declare a kind. Raises ValueError where its name or its list is already used."""
        for other in self._found.values():
            if other.name == kind.name or other.listed == kind.listed:
                raise ValueError(f"{kind.core.__name__} and {other.core.__name__} have the same name or list.")
        self._found[kind.core] = kind

    def drop(self, core: type[Any]) -> None:
        """Forget a kind that a test declared."""
        del self._found[core]


READING_KINDS = _Kinds()


def reading_kind(
    *,
    name: str,
    listed: str,
    words: str,
    station: Station,
    of: Callable[[Any], Hashable],
    reads: Callable[[Any], Affected | None],
    what: Callable[[Any, str, Unit], str] | None = None,
    echo: Mapping[str, Callable[[Asked], str]] | None = None,
    one_field: OneField | None = None,
    of_the_block: bool = False,
) -> Callable[[type[R]], type[R]]:
    """Declare a class of readings as a kind; the parameters are the fields of ReadingKind."""

    def declare(core: type[R]) -> type[R]:
        READING_KINDS.add(
            ReadingKind(
                core=core,
                name=name,
                listed=listed,
                words=words,
                station=station,
                of=of,
                reads=reads,
                what=what,
                echo=echo or {},
                one_field=one_field,
                of_the_block=of_the_block,
            )
        )
        return core

    return declare


def of_the_newest_engine(
    readings: Iterable[R], engine: Engine, changes: Iterable[Change], cylinder: int | None = None
) -> Sequence[R]:
    """Return the readings of the newest engine, without those replaced after a change.

    A reading of the same thing taken before a change, and repeated since, was of another engine. ``cylinder``: whose
    changes count for readings that hold for every cylinder.
    """
    done = [change for change in changes if change.order is not None]
    if not done:
        return standing(readings)
    aged = []
    for reading in standing(readings):
        kind = READING_KINDS.of(type(reading))
        aged.append((reading, kind.of(reading), _age(reading, kind.reads(reading), engine, done, cylinder)))
    latest: dict[Hashable, int] = {}
    for _, what, age in aged:
        latest[what] = max(latest.get(what, 0), age)
    return [reading for reading, what, age in aged if age == latest[what]]


def _age(
    reading: Reading, what: Affected | None, engine: Engine, changes: Sequence[Change], cylinder: int | None
) -> int:
    if what is None:
        return 0
    place: Place | None = getattr(reading, "place", None)
    at = place.cylinder if place else getattr(reading, "cylinder", None)
    side: Side | None = place.side if place else getattr(reading, "side", None)
    return age_of(changes, reading.after, at if at is not None else cylinder, engine, what, side)
