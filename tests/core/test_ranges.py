"""Ends of every range are taken, and a hair beyond is refused.

The bounds are our own: wider than any engine on a bench, narrow enough that a slip of the unit is seen.
"""

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Any

import pytest

from mockup.base.faults import FaultsError
from mockup.changes.change import Change
from mockup.changes.crown import CROWN_MILLED
from mockup.changes.cuts import DECK_CUT, HEAD_CUT
from mockup.changes.pistons import PISTONS_CHANGED, RELIEF_DEEPENED, RELIEF_WIDENED
from mockup.changes.stack import GASKET_CHANGED, SHIMS_CHANGED
from mockup.changes.train import CAM_MOVED, LASH_CHANGED, PUSHRODS_CHANGED, ROCKERS_CHANGED
from mockup.changes.valves import VALVES_CHANGED, VALVES_SUNK
from mockup.checks.compression import RATIO_HIGH_LIMIT, RATIO_LOW_LIMIT
from mockup.checks.quench import QUENCH_HIGH_LIMIT, QUENCH_LOW_LIMIT
from mockup.checks.valve_limits import FACE_INTAKE_LIMIT
from mockup.engine.block import Layout, Numbering
from mockup.engine.cam import CamCard, Duration, Events, LobeCard, LobeTable
from mockup.engine.gasket import BaseShims, FinalGasket, GasketState
from mockup.engine.mockup import MockUp
from mockup.engine.pushrods import PushrodChoice
from mockup.engine.running import Running
from mockup.engine.valves import Place, Side, ValveRow
from mockup.limits.limit_set import Edit, LimitName
from mockup.limits.schools import READY_MADE
from mockup.plans.levers import ShopLimits
from mockup.readings.cam_timing import DegreeReading, LiftReading
from mockup.readings.clay import ClayReading, Gap
from mockup.readings.deck import DeckReading
from mockup.readings.instruments import Instrument
from mockup.readings.pushrods import PushrodReading, WipeReading
from mockup.readings.sweep import SweepReading
from mockup.readings.tdc import TdcReading
from mockup.readings.valve_gap import ValveGapReading
from mockup.readings.volumes import VolumePart, VolumeReading
from tests.making import CARD, engine

PLACE = Place(1, Side.INTAKE)
GAP = partial(ValveGapReading, key="g", mockup="A", cylinder=1)
ENGINE = partial(engine, bore_mm=60.0, stroke_mm=60.0, rod_length_mm=120.0)
DEGREE = partial(DegreeReading, key="d", side=Side.INTAKE, lift_mm=1.0)
EVENTS = partial(
    Events, at_mm=1.0, intake_opens_deg=-20, intake_closes_deg=220, exhaust_opens_deg=-220, exhaust_closes_deg=20
)
PUSHROD = partial(PushrodReading, key="p", mockup="A", place=PLACE, closed_mm=170.0, turns=2.0, pitch_mm=1.0)
CHOICE = partial(PushrodChoice, low_mm=0.5, aim_mm=1.0, high_mm=2.0)
SWEPT = partial(SweepReading, key="s", mockup="A", place=PLACE, crank_deg=10.0, clearance_mm=2.0)
VOLUME = partial(VolumeReading, key="v", part=VolumePart.CHAMBER, cc=60.0)
WIPE = partial(WipeReading, key="w", mockup="A", place=PLACE, start_mm=1.0, end_mm=1.5, tip_mm=9.0)


def card(**changes: float) -> CamCard:
    return CamCard(intake=CARD.intake, exhaust=CARD.exhaust, **({"icl_deg": 106.0, "lsa_deg": 110.0} | changes))


def lobe(**changes: Any) -> LobeCard:
    return LobeCard(**({"lift_mm": 8.0, "durations": (Duration(250.0, 1.27),)} | changes))


def edited(name: LimitName) -> Callable[..., Any]:
    return lambda value: READY_MADE["makers"].edited({name: Edit(value)})


def table(points: int) -> LobeTable:
    angles = [-100 + 200 * at / (points - 1) for at in range(points)]
    lifts = [8 * (1 - (angle / 100) ** 2) ** 2 for angle in angles]
    return LobeTable(side=Side.INTAKE, angles_deg=tuple(angles), lifts_mm=tuple(lifts))


RANGES: list[tuple[Callable[..., Any], str, float | None, float | None]] = [
    (ENGINE, "bore_mm", 20.0, 300.0),
    (partial(ENGINE, rod_length_mm=700.0), "stroke_mm", 15.0, 400.0),
    (partial(ENGINE, stroke_mm=50.0), "rod_length_mm", 30.0, 800.0),
    (ENGINE, "pin_offset_mm", -10.0, 10.0),
    (ENGINE, "rocker_ratio", 1.0, 3.0),
    (ENGINE, "bore_spacing_mm", 60.0, 600.0),
    (partial(ENGINE, bore_mm=20.0), "bore_spacing_mm", 20.0, None),
    (ENGINE, "bore_known_to_mm", 0.0, 1.0),
    (partial(FinalGasket, bore_mm=97.0), "compressed_mm", 0.05, 6.0),
    (partial(FinalGasket, compressed_mm=1.0), "bore_mm", 20.0, 320.0),
    (partial(FinalGasket, compressed_mm=1.0, bore_mm=97.0), "known_to_mm", 0.0, 1.0),
    (BaseShims, "total_mm", 0.0, 10.0),
    (partial(MockUp, key="A", gasket_state=GasketState.COMPRESSED), "gasket_mm", 0.05, 6.0),
    *(
        (partial(MockUp, key="A", gasket_state=GasketState.NONE), name, low, high)
        for name, low, high in (
            ("gasket_known_to_mm", 0.0, 1.0),
            ("lash_mm", 0.0, 3.0),
            ("lash_exhaust_mm", 0.0, 3.0),
            ("rocker_ratio", 1.0, 3.0),
            ("cam_advance_deg", -30.0, 30.0),
            ("shims_mm", 0.0, 10.0),
        )
    ),
    (CHOICE, "low_mm", 0.0, 1.0),
    (CHOICE, "high_mm", 1.0, 6.0),
    (CHOICE, "step_mm", 0.0, 30.0),
    (CHOICE, "lean_deg", 0.0, 40.0),
    (lobe, "lift_mm", 1.2701, 30.0),
    (partial(lobe, durations=(Duration(250.0, 0.1),)), "lift_mm", 0.5, 30.0),
    (lobe, "tdc_lift_mm", 0.0, None),
    (card, "icl_deg", 70.0, 150.0),
    (card, "lsa_deg", 80.0, 140.0),
    (card, "intake_lash_mm", 0.0, 3.0),
    (EVENTS, "intake_opens_deg", -360.0, None),
    (EVENTS, "intake_closes_deg", None, 360.0),
    (EVENTS, "at_mm", None, 29.9999),
    (partial(DeckReading, key="d", cylinder=1), "clearance_mm", -50.0, 50.0),
    (partial(DeckReading, key="d", cylinder=1, clearance_mm=0.1), "half_width_mm", 0.0, 1.0),
    (partial(DeckReading, key="d", cylinder=1, clearance_mm=0.1), "shims_mm", 0.0, 10.0),
    (partial(ClayReading, key="c", mockup="A", place=PLACE, gap=Gap.FACE), "thickness_mm", 0.0, 40.0),
    (SWEPT, "crank_deg", -90.0, 90.0),
    (SWEPT, "clearance_mm", 0.0, 40.0),
    (SWEPT, "tilt_deg", 0.0, 40.0),
    (SWEPT, "drift_mm", 0.0, 1.0),
    (SWEPT, "half_width_mm", 0.0, 1.0),
    (partial(TdcReading, key="t", after_deg=20.0), "before_deg", 1.0, 120.0),
    (partial(TdcReading, key="t", before_deg=20.0, after_deg=20.0), "wheel_known_to_deg", 0.0, 5.0),
    (GAP, "gap_mm", 0.0, 20.0),
    (partial(GAP, gap_mm=2.0), "half_width_mm", 0.0, 1.0),
    (VOLUME, "depth_mm", 0.0, 100.0),
    (VOLUME, "cc", 0.1, 1500.0),
    (partial(VOLUME, part=VolumePart.PISTON), "cc", -500.0, 500.0),
    (partial(VOLUME, depth_mm=5.0), "cc", 0.1, 3000.0),
    (VOLUME, "known_to_cc", 0.0, 50.0),
    (partial(DEGREE, opening_deg=-20.0), "closing_deg", 100.0, 360.0),
    (partial(DEGREE, closing_deg=220.0), "opening_deg", -140.0, 140.0),
    (partial(LiftReading, key="l", mockup="A", place=PLACE), "lift_mm", None, 60.0),
    (PUSHROD, "turns", 0.0, 60.0),
    (PUSHROD, "pitch_mm", 0.2, 3.0),
    (WIPE, "tip_mm", 2.0, 20.0),
    (WIPE, "end_mm", 1.0001, 9.0),
    *(
        (lambda value, name=name: ENGINE(intake=ValveRow(**{name: value})), "value", 0.0, most)
        for name, most in (("angle_deg", 60.0), ("cant_deg", 60.0), ("diameter_mm", 120.0))
    ),
    (edited(FACE_INTAKE_LIMIT), "value", 0.0, 20.0),
    (edited(RATIO_LOW_LIMIT), "value", 2.0, 30.0),
    *(
        (partial(Change, key="c", kind=kind, side=Side.INTAKE if kind.of_a_side else None), "amount", low, high)
        for kind, low, high in (
            (RELIEF_DEEPENED, 0.0, 10.0),
            (RELIEF_WIDENED, 0.0, 10.0),
            (VALVES_SUNK, 0.0, 5.0),
            (VALVES_CHANGED, -20.0, 20.0),
            (CAM_MOVED, -30.0, 30.0),
            (ROCKERS_CHANGED, -1.0, 1.0),
            (LASH_CHANGED, -3.0, 3.0),
            (PUSHRODS_CHANGED, -20.0, 20.0),
            (PISTONS_CHANGED, -200.0, 200.0),
            (CROWN_MILLED, 0.0, 5.0),
        )
    ),
    *(
        (partial(Change, key="c", kind=kind, rear_mm=0.1), "front_mm", low, 10.0)
        for kind, low in (
            (DECK_CUT, 0.0),
            (HEAD_CUT, 0.0),
            (GASKET_CHANGED, -10.0),
            (SHIMS_CHANGED, -10.0),
            (PISTONS_CHANGED, -10.0),
        )
    ),
    (ShopLimits, "pushrod_step_mm", 0.0, 30.0),
    (lambda ratios: ShopLimits(ratios=(ratios,)), "ratios", 1.0, 3.0),
    (lambda cam_deg: ShopLimits(cam_deg=(cam_deg,)), "cam_deg", -30.0, 30.0),
    (lambda shims_mm: ShopLimits(shims_mm=(shims_mm,)), "shims_mm", -10.0, 10.0),
    (lambda cut: ShopLimits(cuts_mm={RELIEF_DEEPENED: cut}), "cut", 0.0, 10.0),
    (lambda own: Instrument(key="i", name="i", resolution_mm=0.01, accuracy_mm=own, repeats_mm=0.01), "own", 0.0, 1.0),
    (partial(Running, compression_height_mm=40.0), "rpm", 0.0, 20000.0),
]


@pytest.mark.parametrize(("made", "name", "low", "high"), RANGES, ids=lambda one: one if isinstance(one, str) else "")
def test_the_ends_of_a_range_are_taken_and_a_hair_beyond_is_refused(made, name, low, high):
    for end, way in ((low, -1), (high, 1)):
        if end is not None:
            assert made(**{name: end}) is not None
            with pytest.raises(FaultsError):
                made(**{name: end + way * max(abs(end), 1e-2) * 1e-3})


@pytest.mark.parametrize("count", range(18))
def test_counts_are_refused_one_beyond_their_range(count):
    def taken(make: Callable[[], Any]) -> bool:
        try:
            make()
        except FaultsError:
            return False
        return True

    assert taken(lambda: ENGINE(cylinders=count)) == (1 <= count <= 16)
    assert taken(lambda: ENGINE(cylinders=count, layout=Layout.VEE)) == (count in range(2, 17, 2))
    assert taken(lambda: ENGINE(intake=ValveRow(count=count))) == (1 <= count <= 3)
    shorter = tuple(Duration(280.0 - 20 * at, 0.2 * 2.1**at) for at in range(count))
    assert taken(lambda: lobe(lift_mm=20.0, durations=shorter[:5])) == (1 <= min(count, 5) <= 3)
    assert taken(lambda: table(1490 + count)) == (count <= 10)


@pytest.mark.parametrize("make", [EVENTS, partial(LiftReading, key="l", mockup="A", place=PLACE)])
def test_what_is_read_at_no_lift_is_refused(make):
    with pytest.raises(FaultsError):
        make(**{"at_mm" if make is EVENTS else "lift_mm": 0.0})


def test_a_firing_order_is_any_order_of_every_cylinder_and_no_other():
    for order in ((1, 3, 4, 2), (1, 2, 4, 3), ()):
        assert ENGINE(cylinders=4, firing_order=order).firing_order == order
    for order in ((1, 3, 4), (1, 3, 4, 4), (0, 1, 2, 3), (1, 3, 4, 2, 5)):
        with pytest.raises(FaultsError, match="Every cylinder once"):
            ENGINE(cylinders=4, firing_order=order)


def test_banks_are_numbered_as_they_are_said_to_be():
    vee = partial(ENGINE, cylinders=8, layout=Layout.VEE)
    assert vee().banks == ((1, 3, 5, 7), (2, 4, 6, 8))
    assert vee(numbering=Numbering.BY_BANK).banks == ((1, 2, 3, 4), (5, 6, 7, 8))
    assert ENGINE(cylinders=4).banks == ((1, 2, 3, 4),)


@pytest.mark.parametrize("low", [QUENCH_LOW_LIMIT, RATIO_LOW_LIMIT])
def test_an_upper_limit_below_the_lower_one_is_refused(low):
    high = {QUENCH_LOW_LIMIT: QUENCH_HIGH_LIMIT, RATIO_LOW_LIMIT: RATIO_HIGH_LIMIT}[low]
    READY_MADE["makers"].edited({low: Edit(9.0), high: Edit(9.0)})
    with pytest.raises(FaultsError, match="below the lower one"):
        READY_MADE["makers"].edited({low: Edit(9.0), high: Edit(8.9)})


def test_a_table_of_angles_beyond_two_turns_is_refused():
    far = LobeTable(
        side=Side.INTAKE, angles_deg=tuple(range(660, 721, 5)), lifts_mm=(0, 1, 2, 3, 4, 5, 6, 5, 4, 3, 2, 1, 0)
    )
    with pytest.raises(FaultsError):
        replace(far, angles_deg=tuple(one + 1 for one in far.angles_deg))
