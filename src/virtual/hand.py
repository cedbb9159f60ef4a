"""What a person would write of a virtual engine: readings with noise, cards, a job.

Everything goes through the core's data classes, like a typed reading. The person's repeatability, the wheel's error and
the true gasket are not revealed.
"""

import math
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from mockup.engine.cam import CamCard, Duration, LobeCard, LobeTable
from mockup.engine.gasket import FinalGasket, GasketState
from mockup.engine.mockup import Bolts, DialTurns, Lifters, MockUp, Overlap, Springs
from mockup.engine.valves import Place, Relief, Side
from mockup.job import Job
from mockup.limits.limit_set import Edit, LimitName
from mockup.limits.schools import READY_MADE
from mockup.quantity.value import Unit
from mockup.readings.cam_timing import DegreeReading
from mockup.readings.clay import ClayReading
from mockup.readings.deck import CrownSpot, DeckReading, Pushed
from mockup.readings.instruments import BRIDGE, CALIPER, INDICATOR
from mockup.readings.sweep import SweepReading
from mockup.readings.tdc import TdcReading
from mockup.readings.volumes import VolumePart, VolumeReading
from virtual.engine import TrainSetting, TrueEngine, TrueValve
from virtual.lobes import THOU, TrueLobe


@dataclass
class Hand:
    """The person reading: each instrument's repeatability [mm] and error, the wheel's [deg]."""

    rng: np.random.Generator
    repeats_mm: float
    wheel_deg: float = 0.0
    indicator_off_mm: float = 0.0
    bridge_off_mm: float = 0.0
    caliper_off_mm: float = 0.0
    tilt_deg: float = 0.0
    slack_deg: float = 0.0

    def dial(self, true_mm: float) -> float:
        """Read a dial of half a thou; if tilted, its plunger travels further than the valve."""
        shown = true_mm / math.cos(math.radians(self.tilt_deg))
        return max(self._read(shown + self.indicator_off_mm, self.repeats_mm, 0.5 * THOU), 0.0)

    def bridge(self, true_mm: float, repeats_mm: float = 0.5 * THOU) -> float:
        """Read an indicator on a bridge."""
        return self._read(true_mm + self.bridge_off_mm, repeats_mm, 0.5 * THOU)

    def caliper(self, true_mm: float, repeats_mm: float) -> float:
        """Measure a slice of clay with a caliper."""
        return max(self._read(true_mm + self.caliper_off_mm, repeats_mm, 1.0 * THOU), 0.0)

    def _read(self, true_mm: float, repeats_mm: float, step_mm: float) -> float:
        return round((true_mm + float(self.rng.normal(0, repeats_mm))) / step_mm) * step_mm


def a_hand(rng: np.random.Generator, repeats_thou: float | None = None, wheel_deg: float = 1.0) -> Hand:
    """Return a hand; its repeatability is given or drawn from 0.2 to 0.8 thou."""
    thou = repeats_thou or float(np.exp(rng.uniform(np.log(0.2), np.log(0.8))))
    off = rng.uniform(-1, 1, 3) * np.array([0.5, 0.5, 1.0]) * THOU
    return Hand(rng, thou * THOU, rng.uniform(-wheel_deg, wheel_deg), *off.tolist())


CAREFUL: dict[str, Any] = {
    "bolts": Bolts.TORQUED,
    "lifters": Lifters.SOLID,
    "springs": Springs.CHECKING,
    "two_turns": True,
    "overlap": Overlap.MOVING,
    "dial_turns": DialTurns.COUNTER,
}
"""What a careful builder does and states."""


@dataclass(frozen=True)
class Mocked:
    """A mock-up as stated, and as it really is."""

    told: MockUp
    true: TrainSetting


def mocked(rng: np.random.Generator, engine: TrueEngine, state: GasketState, **told: Any) -> Mocked:
    """Return a head mocked up on its own gasket, with statements as true as its state allows.

    Nobody continues where a valve is felt to touch: such a head gets a gasket that separates them, the thickest
    available.
    """
    found = _mocked(rng, engine, state, told)
    nearest = min(valve.closest(engine.crank, found.true)[0] for valve in engine.valves.values())
    return found if nearest > TOUCHES_MM else _mocked(rng, engine, GasketState.COMPRESSED, told, THICKEST_MM)


TOUCHES_MM = 3 * THOU
THICKEST_MM = 2.0


def _mocked(
    rng: np.random.Generator,
    engine: TrueEngine,
    state: GasketState,
    told: dict[str, Any],
    stated_mm: float | None = None,
) -> Mocked:
    drawn = stated_mm or round(float(rng.choice([0.7, 1.0, 1.2, 1.5])), 2)
    # Half the builders know the free thickness of a new gasket that was only snugged.
    knows_it = state is GasketState.COMPRESSED or (state is GasketState.SNUGGED and bool(rng.integers(2)))
    stated = drawn if knows_it else 0.0
    off = rng.normal(0, 0.037) if state is GasketState.SNUGGED else rng.uniform(-0.0254, 0.0254)
    stood = {
        GasketState.NONE: 0.0,
        GasketState.FINAL: engine.gasket_mm,
        GasketState.SAME_USED: engine.gasket_mm + 2 * THOU * rng.uniform(-1, 1),
        GasketState.SNUGGED: engine.gasket_mm + 10 * THOU * rng.uniform(),
        GasketState.UNKNOWN: THOU * rng.uniform(20, 75),
    }
    stood_mm = stated + off if knows_it else stood[state]
    conditions = MockUp(key="A", gasket_state=state, gasket_mm=stated, **CAREFUL | told)
    return Mocked(conditions, TrainSetting(raised_mm=stood_mm - engine.gasket_mm))


def on_the_final_gasket(engine: TrueEngine) -> Mocked:
    """Return a mock-up on the final gasket: its thickness has one error on both sides."""
    told = MockUp(
        key="A",
        gasket_state=GasketState.COMPRESSED,
        gasket_mm=engine.gasket_stated_mm,
        **CAREFUL,
        gasket_known_to_mm=SURELY_MM,
    )
    return Mocked(told, TrainSetting())


SURELY_MM = 0.0005
"""The accuracy of a gasket measured with a micrometer."""


def printed_card(lobe: TrueLobe, *, third: bool = False, tdc_at: float | None = None) -> LobeCard:
    """Return the card its maker prints: whole degrees and thou, from 0.006 or 0.020 in."""
    low = (6 if lobe.hydraulic else 20) * THOU
    lifts = [low, 50 * THOU, *([200 * THOU] if third and lobe.lift_mm.max() > 250 * THOU else [])]
    spans = [lobe.flanks(at) for at in lifts]
    return LobeCard(
        lift_mm=round(float(lobe.lift_mm.max()) / THOU) * THOU,
        durations=tuple(
            Duration(float(round(closes - opens)), at) for at, (opens, closes) in zip(lifts, spans, strict=True)
        ),
        tdc_lift_mm=None if tdc_at is None else round(float(lobe.at(np.array([tdc_at]))[0]) / THOU) * THOU,
    )


def cam_card(rng: np.random.Generator, engine: TrueEngine, off_deg: float = 1.0, **of: bool) -> CamCard:
    """Return the card of both lobes, with the cam up to ``off_deg`` away from it."""
    intake, exhaust = (engine.valves[1, side] for side in Side)
    late = rng.uniform(-off_deg, off_deg)
    icl = round(intake.centreline_deg - late)
    ecl = round(-exhaust.centreline_deg + late)
    tdc = of.pop("tdc", False)
    return CamCard(
        intake=printed_card(intake.lobe, tdc_at=-float(icl) if tdc else None, **of),
        exhaust=printed_card(exhaust.lobe, tdc_at=float(ecl) if tdc else None, **of),
        icl_deg=float(icl),
        lsa_deg=(icl + ecl) / 2,
    )


def measured_table(rng: np.random.Generator, valve: TrueValve, noise_mm: float) -> LobeTable:
    """Return the lobe read every three degrees, each lift with its noise."""
    angles = np.arange(-160.0, 160.1, 3.0)
    lifts = valve.lobe.at(angles)
    open_at = np.flatnonzero(lifts > 0.002)
    kept = slice(max(open_at[0] - 2, 0), min(open_at[-1] + 3, len(angles)))
    read = np.maximum(lifts[kept] + rng.normal(0, noise_mm, len(lifts[kept])), 0.0)
    read[[0, -1]] = np.minimum(read[[0, -1]], 0.04)
    return LobeTable(
        side=valve.side, angles_deg=tuple(angles[kept].tolist()), lifts_mm=tuple(read.tolist()), u_mm=round(noise_mm, 4)
    )


def degreed(hand: Hand, valve: TrueValve) -> DegreeReading:
    """Return the lobe degreed at 0.050 in on both sides of its nose, with the same wheel error."""
    lift = 50 * THOU
    opens, closes = valve.lobe.flanks(lift)
    angles = [round((valve.centreline_deg + flank + hand.wheel_deg) * 2) / 2 for flank in (opens, closes)]
    return DegreeReading(key="degree", side=valve.side, lift_mm=lift, opening_deg=angles[0], closing_deg=angles[1])


class VirtualBench:
    """One engine on the bench: its readings are taken here, and make a job."""

    def __init__(self, engine: TrueEngine, hand: Hand, mock: Mocked) -> None:
        self.engine, self.hand, self.mock = engine, hand, mock
        self.count = 0
        self.limits: dict[LimitName, float] = {}
        self.kept: dict[str, list[Any]] = {
            "sweeps": [],
            "clay": [],
            "deck": [],
            "volumes": [],
            "degrees": [],
            "tdc": [],
        }
        self.more: dict[str, Any] = {}

    def key(self) -> str:
        """Return a new key for a reading."""
        self.count += 1
        return f"reading-{self.count}"

    def find_tdc(self) -> None:
        """Turn to a stop on both sides, and read the wheel there to half a degree."""
        before, after = (round((60 - way * self.hand.wheel_deg) * 2) / 2 for way in (1, -1))
        self.kept["tdc"].append(TdcReading(key=self.key(), before_deg=before, after_deg=after))

    def sweep(self, cylinder: int, side: Side, wheel_deg: float) -> None:
        """Push the valve to the piston at wheel angles about overlap."""
        valve, how = self.engine.valves[cylinder, side], self.mock.true
        if self.hand.slack_deg:
            # The chain's slack is taken up half the time.
            aside = float(self.hand.rng.choice([-0.5, 0.5])) * self.hand.slack_deg
            how = replace(how, advanced_deg=how.advanced_deg + aside)
        true = valve.room_mm(np.array([wheel_deg - self.hand.wheel_deg]), self.engine.crank, how)
        self._write_sweep(
            cylinder, side, crank_deg=float(wheel_deg), clearance_mm=self.hand.dial(float(true[0])), wheel_set=False
        )

    def drop(self, cylinder: int, side: Side) -> None:
        """Push the shut valve to the piston at firing TDC."""
        valve = self.engine.valves[cylinder, side]
        shut = replace_lift(valve)
        true = float(shut.room_mm(np.zeros(1), self.engine.crank, self.mock.true)[0])
        self._write_sweep(cylinder, side, clearance_mm=self.hand.dial(true), drop=True)

    def turning(self, cylinder: int, side: Side) -> None:
        """Turn until pushing seems smallest, found to within three degrees, and read there."""
        valve = self.engine.valves[cylinder, side]
        at = valve.closest(self.engine.crank, self.mock.true)[1] + self.hand.rng.uniform(-3, 3)
        true = float(valve.room_mm(np.array([at]), self.engine.crank, self.mock.true)[0])
        self._write_sweep(cylinder, side, clearance_mm=self.hand.dial(true), by_turning=True, turned_step_deg=0.0)

    def _write_sweep(self, cylinder: int, side: Side, **read: Any) -> None:
        self.kept["sweeps"].append(
            SweepReading(key=self.key(), mockup="A", place=Place(cylinder, side), instrument=INDICATOR, **read)
        )

    def clay(self, cylinder: int, side: Side, slices: int, repeats_thou: float) -> None:
        """Slice the clay: one at the thinnest place, others thicker, each place named."""
        least = self.square_to_crown(side, cylinder)
        for at in range(slices):
            thicker = 0.0 if at == 0 else abs(self.hand.rng.normal(0, 6 * THOU))
            self.kept["clay"].append(
                ClayReading(
                    key=self.key(),
                    mockup="A",
                    place=Place(cylinder, side),
                    thickness_mm=self.hand.caliper(least + thicker, repeats_thou * THOU),
                    instrument=CALIPER,
                    spot=f"place {at + 1}",
                )
            )

    def square_to_crown(self, side: Side, cylinder: int = 1) -> float:
        """Return the smallest clearance as clay shows it [mm]; square to a flat crown."""
        valve = self.engine.valves[cylinder, side]
        least = valve.closest(self.engine.crank, self.mock.true)[0]
        if valve.row.relief is Relief.PARALLEL:
            return least
        slants = np.tan(np.radians([valve.row.angle_deg or 0.0, valve.row.cant_deg]))
        return least / float(np.sqrt(1 + slants @ slants))

    def deck(self, cylinder: int, times: int = 1) -> None:
        """Read a crown at its middle."""
        for _ in range(times):
            self.kept["deck"].append(
                DeckReading(
                    key=self.key(),
                    cylinder=cylinder,
                    clearance_mm=self.hand.bridge(self.engine.deck_mm[cylinder]),
                    instrument=BRIDGE,
                )
            )

    def rocked(self, cylinder: int) -> None:
        """Read an edge with the opposite one pushed down."""
        edge = self.engine.deck_mm[cylinder] - self.engine.rock_mm[cylinder]
        self.kept["deck"].append(
            DeckReading(
                key=self.key(),
                cylinder=cylinder,
                clearance_mm=self.hand.bridge(edge),
                instrument=BRIDGE,
                spot=CrownSpot.THRUST,
                pushed=Pushed.OTHER,
            )
        )

    def volumes(self, cylinder: int) -> None:
        """Fill chamber and piston with a burette."""
        true = {
            VolumePart.CHAMBER: self.engine.chamber_cc[cylinder],
            VolumePart.PISTON: self.engine.piston_cc[cylinder],
        }
        for part, cc in true.items():
            read = round((cc + self.hand.rng.uniform(-0.25, 0.25)) * 10) / 10
            self.kept["volumes"].append(VolumeReading(key=self.key(), part=part, cc=read, cylinder=cylinder))

    def job(self) -> Job:
        """Return everything read so far as a job."""
        limits = READY_MADE["street"].edited({name: Edit(value) for name, value in self.limits.items()})
        final = FinalGasket(
            compressed_mm=self.engine.gasket_stated_mm,
            bore_mm=round(self.engine.designed.sizes.bore_mm + 1.5, 2),
            known_to_mm=self.mock.told.gasket_known_to_mm,
        )
        return Job(
            name="virtual",
            unit=Unit.MILLIMETRE,
            engine=self.engine.designed,
            limits=limits,
            final_gasket=final,
            mockups=(self.mock.told,),
            readings=tuple(reading for found in self.kept.values() for reading in found),
            **self.more,
        )


def replace_lift(valve: TrueValve) -> TrueValve:
    """Return the same valve kept shut."""
    flat = TrueLobe(valve.lobe.x_deg, np.zeros_like(valve.lobe.lift_mm), valve.lobe.hydraulic)
    return replace(valve, lobe=flat)
