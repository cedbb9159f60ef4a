"""One job: everything known about a build, as plain frozen data.

It is the input of ``evaluate``.
"""

from collections import Counter
from collections.abc import Container, Iterable, Mapping
from dataclasses import dataclass, field
from typing import Annotated, Any, TypeVar

from mockup.base.faults import Fault, refuse
from mockup.base.topics import Topic, topics_of
from mockup.changes.change import Change
from mockup.changes.since import as_changed, cam_swaps
from mockup.engine.block import Engine
from mockup.engine.cam import CamCard, LobeTable
from mockup.engine.camshaft import Camshaft
from mockup.engine.gasket import BaseShims, FinalGasket
from mockup.engine.makers_chart import MakersChart
from mockup.engine.mockup import MockUp
from mockup.engine.parts import PartsDiffer
from mockup.engine.pushrods import PushrodChoice
from mockup.engine.running import HotGrowth, Running
from mockup.limits.limit_set import LimitSet
from mockup.limits.sign_off import SignOff
from mockup.quantity.fields import Most, Text
from mockup.quantity.value import DeckSign, Unit
from mockup.readings.instruments import DEFAULT_INSTRUMENTS, Instrument
from mockup.readings.kinds import READING_KINDS
from mockup.readings.record import Reading

R = TypeVar("R", bound=Reading)


def misplaced(item: object, engine: Engine) -> list[Fault]:
    """Return a fault for each place that ``item`` names and ``engine`` does not have."""
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
    """Return a fault for each mock-up or instrument that a reading names and the job lacks."""
    kind, found = READING_KINDS.of(type(reading)), []
    for name, words, there, is_asked in (
        ("instrument", "instrument", instruments, kind.has_instrument),
        ("mockup", "mock-up", letters, kind.in_a_mockup),
    ):
        named = getattr(reading, name, "")
        if is_asked and named not in there:
            found.append(Fault(name, f"There is no {words} called {named}."))
    return found


@dataclass(frozen=True, slots=True, kw_only=True)
class Job:
    """Everything known about a build.

    Raises FaultsError where a reading refers to something that does not exist.

    ``checking``: the topics it is checked for; empty means all. Other checks are not required, but are judged if
    measured. ``unit`` and ``deck_sign`` only affect how figures are typed and shown. ``changes`` holds done changes in
    order, and those only decided. ``running`` is needed for the thermal estimate only; ``hot_growth`` is the
    builder's own figure beside it. ``makers_chart``: of separate barrels. ``lobe_tables`` has at most one
    table a side. ``cam_steps_deg``: the steps the cam can be moved by [deg]. ``readings`` holds all kinds in any order;
    ``of`` returns those of one kind.
    """

    name: Annotated[str, Text(120, least=1)]
    unit: Unit
    deck_sign: DeckSign = DeckSign.DOWN_POSITIVE
    engine: Engine
    limits: LimitSet
    final_gasket: FinalGasket | None = None
    final_shims: Annotated[tuple[BaseShims, ...], Most(20)] = ()
    changes: Annotated[tuple[Change, ...], Most(200)] = ()
    running: Running | None = None
    hot_growth: HotGrowth | None = None
    makers_chart: MakersChart | None = None
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
        # Sort by kind, so that two jobs with the same readings are equal however the readings were collected.
        by_kind = {kind.core: tuple(r for r in self.readings if type(r) is kind.core) for kind in READING_KINDS}
        object.__setattr__(self, "_by_kind", by_kind)
        object.__setattr__(self, "readings", tuple(reading for found in by_kind.values() for reading in found))
        as_changed(self.engine, self.changes)
        if self.final_gasket and not self.final_gasket.compressed_mm and not self.engine.separate_barrels:
            refuse([Fault("final_gasket.compressed_mm", "Only separate barrels may run without a head gasket.")])
        refuse([*self._key_faults(), *self._place_faults(), *self._reference_faults()])

    def of(self, kind: type[R]) -> tuple[R, ...]:
        """Return the readings of one kind, struck out or not, in the order they were taken."""
        found: tuple[Any, ...] = self._by_kind.get(kind, ())
        return found

    def of_this_cam(self, kind: type[R]) -> tuple[R, ...]:
        """Return the readings of one kind taken since the present cam went in."""
        swaps = cam_swaps(self.changes)
        begun = (swaps[-1].order or 0) if swaps else 0
        return tuple(reading for reading in self.of(kind) if reading.after >= begun)

    @property
    def topics(self) -> frozenset[Topic]:
        """The topics this build is checked for."""
        return topics_of(self.checking)

    @property
    def camshaft(self) -> Camshaft | None:
        """The cam now in the engine, with all that is known of it, or None."""
        swaps = cam_swaps(self.changes)
        return Camshaft.of_an_engine(self.cam_card, self.lobe_tables, swaps[-1].cam if swaps else None)

    @property
    def may_have_two_cams(self) -> bool:
        """Whether intake and exhaust may have separate cams: by the card, else True."""
        return self.cam_card is None or self.cam_card.two_cams

    @property
    def pushrods_chosen(self) -> PushrodChoice | None:
        """The pushrod choice once a length is chosen, else None."""
        return self.pushrod_choice if self.pushrod_choice and self.pushrod_choice.chosen_mm is not None else None

    def mockup(self, key: str) -> MockUp:
        """Return the mock-up with that letter. Raises KeyError."""
        return {mockup.key: mockup for mockup in self.mockups}[key]

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
