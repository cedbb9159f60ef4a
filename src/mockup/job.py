"""One job: everything known of a build, as plain frozen data. What goes into ``evaluate``."""

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from mockup.checks.margins import MarginSheet
from mockup.checks.sign_off import SignOff
from mockup.engine.block import Engine
from mockup.engine.cam import CamCard, LobeTable
from mockup.engine.changes import Change, as_changed
from mockup.engine.gasket import BaseShims, FinalGasket
from mockup.engine.mockup import MockUp
from mockup.engine.running import Running
from mockup.faults import Fault, refuse
from mockup.quantity.value import DeckSign, Unit
from mockup.readings.cam_timing import DegreeReading, LiftReading
from mockup.readings.clay import ClayReading, HeadReading
from mockup.readings.deck import DeckReading
from mockup.readings.instruments import DEFAULT_INSTRUMENTS, Instrument
from mockup.readings.pushrods import PushrodChoice, PushrodReading, WipeReading
from mockup.readings.record import Reading
from mockup.readings.sweep import SweepReading
from mockup.readings.tdc import TdcReading
from mockup.readings.volumes import VolumeReading


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


READING_LISTS = ("tdc", "deck", "clay", "heads", "sweeps", "volumes", "degrees", "lifts", "pushrods", "wipes")
OF_A_VALVE = ("clay", "sweeps", "lifts", "pushrods", "wipes")
"""Lists of readings; those of one valve in one mock-up."""
IN_A_MOCKUP = ("heads", *OF_A_VALVE)


@dataclass(frozen=True, slots=True, kw_only=True)
class Job:
    """A build and all that was read of it. Raises FaultsError where a reading points at nothing.

    ``unit`` and ``deck_sign`` are how the build is kept and shown; they never change a result.
    ``changes`` are those done (in order) and those only decided; ``running`` is wanted for the running estimate only;
    of ``lobe_tables`` there is at most one a side; ``cam_steps_deg``: what the cam can be moved by [deg].
    """

    name: str
    unit: Unit
    deck_sign: DeckSign = DeckSign.DOWN_POSITIVE
    engine: Engine
    sheet: MarginSheet
    final_gasket: FinalGasket | None = None
    final_shims: tuple[BaseShims, ...] = ()
    changes: tuple[Change, ...] = ()
    running: Running | None = None
    cam_card: CamCard | None = None
    lobe_tables: tuple[LobeTable, ...] = ()
    cam_steps_deg: tuple[float, ...] = ()
    pushrod_choice: PushrodChoice | None = None
    mockups: tuple[MockUp, ...] = ()
    tdc: tuple[TdcReading, ...] = ()
    deck: tuple[DeckReading, ...] = ()
    clay: tuple[ClayReading, ...] = ()
    heads: tuple[HeadReading, ...] = ()
    sweeps: tuple[SweepReading, ...] = ()
    volumes: tuple[VolumeReading, ...] = ()
    degrees: tuple[DegreeReading, ...] = ()
    lifts: tuple[LiftReading, ...] = ()
    pushrods: tuple[PushrodReading, ...] = ()
    wipes: tuple[WipeReading, ...] = ()
    sign_offs: tuple[SignOff, ...] = ()
    instruments: Mapping[str, Instrument] = field(default_factory=lambda: DEFAULT_INSTRUMENTS)

    def __post_init__(self) -> None:
        as_changed(self.engine, self.changes)
        if self.final_gasket and not self.final_gasket.compressed_mm and not self.engine.separate_barrels:
            refuse([Fault("final_gasket.compressed_mm", "Only separate barrels may run without a head gasket.")])
        refuse([*self._key_faults(), *self._place_faults(), *self._instrument_faults(), *self._mockup_faults()])

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

    def _key_faults(self) -> Iterable[Fault]:
        readings: list[Reading] = [reading for name in READING_LISTS for reading in getattr(self, name)]
        counts = Counter([*(reading.key for reading in readings), *(change.key for change in self.changes)])
        counts += Counter(f"mock-up {mockup.key}" for mockup in self.mockups)
        return [Fault("", f"Two entries are both called {key}.") for key, count in counts.items() if count > 1]

    def _place_faults(self) -> Iterable[Fault]:
        for name in ("deck", "heads", "volumes", "final_shims", "changes", *OF_A_VALVE):
            for at, entry in enumerate(getattr(self, name)):
                for fault in misplaced(entry, self.engine):
                    yield Fault(f"{name}.{at}.{fault.path}", fault.message)

    def _instrument_faults(self) -> Iterable[Fault]:
        for name in ("tdc", "deck", "clay", "heads", "sweeps"):
            for at, reading in enumerate(getattr(self, name)):
                if reading.instrument not in self.instruments:
                    yield Fault(f"{name}.{at}.instrument", f"No instrument is called {reading.instrument}.")

    def _mockup_faults(self) -> Iterable[Fault]:
        known = {mockup.key for mockup in self.mockups}
        for name in IN_A_MOCKUP:
            for at, reading in enumerate(getattr(self, name)):
                if reading.mockup not in known:
                    yield Fault(f"{name}.{at}.mockup", f"No mock-up is called {reading.mockup}.")
