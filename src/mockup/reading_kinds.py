"""Kinds of reading: what the whole program needs to know of each, declared beside its class in ``readings/``.

The book of a build, the job and its file, importing, staleness, the history and the pages take all they know of a kind
from its declaration. A new kind is a new module in ``readings/``: it is found there, and listed nowhere.
"""

from collections.abc import Callable, Hashable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, fields
from typing import Any, TypeVar

from mockup.changes.change import Change, age_of
from mockup.changes.kind import Touched
from mockup.engine.block import Engine
from mockup.engine.valves import Place, Side
from mockup.quantity.echo import Asked
from mockup.quantity.value import Unit
from mockup.record import Reading, standing
from mockup.stations import Station

R = TypeVar("R", bound=Reading)


@dataclass(frozen=True, slots=True)
class ReadAt:
    """Where and under what a reading is taken: a cylinder, a valve of it where it is of one, a mock-up's letter."""

    cylinder: int
    place: Place | None = None
    mockup: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class OneField:
    """How a reading is taken that is typed into one field a place: its station's page offers it by this alone.

    ``label`` names what is read, ``help_text`` how. ``of_a_valve``: one field a valve, else one a cylinder.
    ``read`` makes the reading of what was typed, in the unit of the build; it raises LengthError or FaultsError.
    ``shown`` gives it back in words.
    """

    label: str
    help_text: str = ""
    of_a_valve: bool = False
    read: Callable[[str, Unit, ReadAt], Any]
    shown: Callable[[Any, Unit], str]


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadingKind:
    """One kind of reading.

    ``name``: in the book and in the keys of its lines, up to 12 letters. ``listed``: its list in a job file. ``words``:
    what the history calls it. ``of``: what a reading is of; readings that share it replace one another once the engine
    was changed. ``reads``: what of the engine it is read of, so that a change of that makes it stale; None where no
    change does. ``what``: how a line of the history puts it, from the reading, what was typed, and the unit. ``echo``:
    how typing is understood before it is saved, by the name of the field. ``one_field`` where its station's page needs
    no sheet of its own for it.
    """

    core: type[Any]
    name: str
    listed: str
    words: str
    station: Station
    of: Callable[[Any], Hashable]
    reads: Callable[[Any], Touched | None]
    what: Callable[[Any, str, Unit], str] | None = None
    echo: Mapping[str, Callable[[Asked], str]]
    one_field: OneField | None = None

    @property
    def in_a_mockup(self) -> bool:
        """Whether a reading belongs to a mock-up."""
        return self._has("mockup")

    @property
    def has_place(self) -> bool:
        """Whether it stands at a cylinder, a valve or a bank."""
        return any(self._has(name) for name in ("place", "cylinder", "bank"))

    @property
    def has_instrument(self) -> bool:
        """Whether it says what it was read with."""
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
        """The kind a class of readings was declared as; KeyError where it was not."""
        return self._found[core]

    def named(self, name: str) -> ReadingKind | None:
        """The kind of that name in the book, None where there is none."""
        return next((kind for kind in self._found.values() if kind.name == name), None)

    def add(self, kind: ReadingKind) -> None:
        """Declare a kind. Raises ValueError where its name or its list is another's already."""
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
    reads: Callable[[Any], Touched | None],
    what: Callable[[Any, str, Unit], str] | None = None,
    echo: Mapping[str, Callable[[Asked], str]] | None = None,
    one_field: OneField | None = None,
) -> Callable[[type[R]], type[R]]:
    """Declare a class of readings as a kind; the words of the parameters are ReadingKind's."""

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
            )
        )
        return core

    return declare


def of_the_newest_engine(
    readings: Iterable[R], engine: Engine, changes: Iterable[Change], cylinder: int | None = None
) -> Sequence[R]:
    """Of the standing readings of one kind that are of the same thing, those of the engine as it was read last.

    What was read before its engine was changed, and read again since, was of another engine. ``cylinder``: whose
    changes count for readings that stand for every cylinder.
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
    reading: Reading, what: Touched | None, engine: Engine, changes: Sequence[Change], cylinder: int | None
) -> int:
    if what is None:
        return 0
    place: Place | None = getattr(reading, "place", None)
    at = place.cylinder if place else getattr(reading, "cylinder", None)
    side: Side | None = place.side if place else getattr(reading, "side", None)
    return age_of(changes, reading.after, at if at is not None else cylinder, engine, what, side)
