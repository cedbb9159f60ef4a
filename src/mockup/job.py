"""One job: everything known of a build, as plain frozen data. What goes into ``evaluate``."""

from collections import Counter
from collections.abc import Container, Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Annotated, Any, TypeVar

from mockup.changes.change import Change, as_changed, cam_swaps
from mockup.engine.block import Engine
from mockup.engine.cam import CamCard, LobeTable
from mockup.engine.camshaft import Camshaft
from mockup.engine.gasket import BaseShims, FinalGasket
from mockup.engine.mockup import MockUp
from mockup.engine.parts import PartsDiffer
from mockup.engine.pushrods import PushrodChoice
from mockup.engine.running import Running
from mockup.faults import Fault, refuse
from mockup.instruments import DEFAULT_INSTRUMENTS, Instrument
from mockup.limits.margins import MarginSheet
from mockup.limits.sign_off import SignOff
from mockup.quantity.fields import Most, Text
from mockup.quantity.value import DeckSign, Unit
from mockup.reading_kinds import READING_KINDS
from mockup.record import Reading
from mockup.topics import Topic, topics_of

R = TypeVar("R", bound=Reading)


def misplaced(item: object, engine: Engine) -> list[Fault]:
    """Where a reading, a choice or a change stands at a cylinder, a valve or a bank that ``engine`` does not have."""
    found = []
    place = getattr(item, "place", None)
    cylinder = place.cylinder if place else getattr(item, "cylinder", None)
    if cylinder is not None and cylinder not in engine.cylinder_numbers:
        found.append(Fault("cylinder", f"There is no cylinder {cylinder}; this engine has {engine.cylinders}."))
    if place and not 1 <= place.number <= engine.row(place.side).count:
        found.append(Fault("valve", f"There is no {place.side} valve number {place.number}."))
    bank = getattr(item, "bank", None)
    if bank is not None and not 0 <= bank < len(engine.banks):
        found.append(Fault("bank", "This engine has no such bank."))
    return found


def points_at_nothing(reading: Reading, letters: Container[str], instruments: Container[str]) -> list[Fault]:
    """Whether a reading names a mock-up or an instrument that there is none of: a fault for each."""
    kind, found = READING_KINDS.of(type(reading)), []
    for name, words, there, is_asked in (
        ("instrument", "instrument", instruments, kind.has_instrument),
        ("mockup", "mock-up", letters, kind.in_a_mockup),
    ):
        named = getattr(reading, name, "")
        if is_asked and named not in there:
            found.append(Fault(name, f"No {words} is called {named}."))
    return found


@dataclass(frozen=True, slots=True, kw_only=True)
class Job:
    """A build and all that was read of it. Raises FaultsError where a reading points at nothing.

    ``checking``: what it is checked for, nothing for everything; all else is asked of nobody, and judged where it was
    read. ``unit`` and ``deck_sign`` are how the build is kept and shown; they never change a result.
    ``changes`` are those done (in order) and those only decided; ``running`` is wanted for the running estimate only;
    of ``lobe_tables`` there is at most one a side; ``cam_steps_deg``: what the cam can be moved by [deg]. ``readings``
    of all kinds, in any order; ``of`` gives those of one.
    """

    name: Annotated[str, Text(120, least=1)]
    unit: Unit
    deck_sign: DeckSign = DeckSign.DOWN_POSITIVE
    engine: Engine
    sheet: MarginSheet
    final_gasket: FinalGasket | None = None
    final_shims: Annotated[tuple[BaseShims, ...], Most(20)] = ()
    changes: Annotated[tuple[Change, ...], Most(200)] = ()
    running: Running | None = None
    cam_card: CamCard | None = None
    lobe_tables: Annotated[tuple[LobeTable, ...], Most(2)] = ()
    cam_steps_deg: Annotated[tuple[float, ...], Most(20)] = ()
    pushrod_choice: PushrodChoice | None = None
    parts_differ: PartsDiffer | None = None
    mockups: Annotated[tuple[MockUp, ...], Most(100)] = ()
    readings: tuple[Reading, ...] = ()
    sign_offs: Annotated[tuple[SignOff, ...], Most(500)] = ()
    checking: Annotated[tuple[Topic, ...], Most(len(Topic))] = ()
    instruments: Mapping[str, Instrument] = field(default_factory=lambda: DEFAULT_INSTRUMENTS)
    _by_kind: Mapping[type[Reading], tuple[Reading, ...]] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        # Kind by kind, so that two jobs with the same readings are equal in whichever order they were gathered.
        by_kind = {kind.core: tuple(r for r in self.readings if type(r) is kind.core) for kind in READING_KINDS}
        object.__setattr__(self, "_by_kind", by_kind)
        object.__setattr__(self, "readings", tuple(reading for found in by_kind.values() for reading in found))
        as_changed(self.engine, self.changes)
        if self.final_gasket and not self.final_gasket.compressed_mm and not self.engine.separate_barrels:
            refuse([Fault("final_gasket.compressed_mm", "Only separate barrels may run without a head gasket.")])
        refuse([*self._key_faults(), *self._place_faults(), *self._reference_faults()])

    def of(self, kind: type[R]) -> tuple[R, ...]:
        """The readings of one kind, struck out or not, in the order they were taken."""
        found: tuple[Any, ...] = self._by_kind.get(kind, ())
        return found

    def of_this_cam(self, kind: type[R]) -> tuple[R, ...]:
        """Those of one kind that were taken with the cam in that is in now."""
        swaps = cam_swaps(self.changes)
        begun = (swaps[-1].order or 0) if swaps else 0
        return tuple(reading for reading in self.of(kind) if reading.after >= begun)

    def with_readings(self, **lists: Iterable[Reading]) -> "Job":
        """The job with other readings of some kinds, each by the name of its list in a job file."""
        others = {kind.listed: self.of(kind.core) for kind in READING_KINDS}
        unknown = set(lists) - set(others)
        if unknown:
            raise KeyError(f"No readings are listed as {', '.join(sorted(unknown))}.")
        return replace(self, readings=tuple(one for found in (others | lists).values() for one in found))

    @property
    def topics(self) -> frozenset[Topic]:
        """What it is checked for."""
        return topics_of(self.checking)

    @property
    def camshaft(self) -> Camshaft | None:
        """The cam that is in, by all that is known of it; None where nothing is."""
        swaps = cam_swaps(self.changes)
        return Camshaft.of_an_engine(self.cam_card, self.lobe_tables, swaps[-1].cam if swaps else None)

    @property
    def may_have_two_cams(self) -> bool:
        """Whether intake and exhaust may have a cam each: the card says so, or there is no card to say otherwise."""
        return self.cam_card is None or self.cam_card.two_cams

    @property
    def pushrods_chosen(self) -> PushrodChoice | None:
        """What the pushrods were chosen by, once their length is; None before."""
        return self.pushrod_choice if self.pushrod_choice and self.pushrod_choice.chosen_mm is not None else None

    def mockup(self, key: str) -> MockUp:
        """The mock-up of that letter; KeyError where there is none."""
        return {mockup.key: mockup for mockup in self.mockups}[key]

    def mockup_of(self, keys: Iterable[str]) -> MockUp | None:
        """The mock-up that readings, by their keys, were taken in; None where they belong to none."""
        wanted = set(keys)
        letters = (getattr(reading, "mockup", None) for reading in self.readings if reading.key in wanted)
        letter = next((letter for letter in letters if letter), None)
        return self.mockup(letter) if letter else None

    def _key_faults(self) -> Iterable[Fault]:
        counts = Counter([*(one.key for one in self.readings), *(change.key for change in self.changes)])
        counts += Counter(f"mock-up {mockup.key}" for mockup in self.mockups)
        return [Fault("", f"Two entries are both called {key}.") for key, count in counts.items() if count > 1]

    def _place_faults(self) -> Iterable[Fault]:
        lists: dict[str, tuple[Any, ...]] = {"final_shims": self.final_shims, "changes": self.changes}
        lists |= {kind.listed: self.of(kind.core) for kind in READING_KINDS if kind.has_place}
        for name, entries in lists.items():
            for at, entry in enumerate(entries):
                for fault in misplaced(entry, self.engine):
                    yield Fault(f"{name}.{at}.{fault.path}", fault.message)

    def _reference_faults(self) -> Iterable[Fault]:
        letters = {mockup.key for mockup in self.mockups}
        for kind in READING_KINDS:
            for at, reading in enumerate(self.of(kind.core)):
                for fault in points_at_nothing(reading, letters, self.instruments):
                    yield Fault(f"{kind.listed}.{at}.{fault.path}", fault.message)
