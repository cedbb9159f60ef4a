"""Wren: a twin-cam four with sixteen valves for a hill-climb special, in millimetres.

Completely read, and short on one exhaust by a tenth, so it needs a remedy.
"""

from mockup.changes.change import Change
from mockup.changes.pistons import RELIEF_DEEPENED
from mockup.changes.train import CAM_MOVED
from mockup.checks.compression import RATIO_HIGH_LIMIT, RATIO_LOW_LIMIT
from mockup.checks.quench import QUENCH_HIGH_LIMIT, QUENCH_LOW_LIMIT
from mockup.checks.valve_limits import FACE_EXHAUST_LIMIT, FACE_INTAKE_LIMIT
from mockup.engine.block import Engine
from mockup.engine.cam import LiftAt, LobeTable
from mockup.engine.gasket import FinalGasket, GasketState
from mockup.engine.mockup import MockUp
from mockup.engine.valves import Place, Side, ValveRow
from mockup.plans.what_if import WhatIf
from mockup.quantity.typed import parse_firing_order
from mockup.quantity.value import DeckSign, Unit
from web.builds import services
from web.builds.careful_answers import CAREFUL
from web.builds.entry_kinds import CamSteps, LimitEdit
from web.builds.models import Build
from web.demo.typing import Typist
from web.shops.models import Person

LIMITS = {
    FACE_INTAKE_LIMIT: 1.5,
    FACE_EXHAUST_LIMIT: 1.8,
    QUENCH_LOW_LIMIT: 0.95,
    QUENCH_HIGH_LIMIT: 1.30,
    RATIO_LOW_LIMIT: 10.6,
    RATIO_HIGH_LIMIT: 11.6,
}
CLAY = {
    (1, Side.INTAKE): ("", "2.44"),
    (1, Side.EXHAUST): ("", "2.08"),
    (2, Side.INTAKE): ("2.46", "2.43"),
    (2, Side.EXHAUST): ("2.09", "2.07"),
    (3, Side.INTAKE): ("2.47", "2.45"),
    (3, Side.EXHAUST): ("2.12", "2.10"),
    (4, Side.INTAKE): ("2.44", "2.46"),
    (4, Side.EXHAUST): ("2.08", "2.10"),
}
"""Face clearances of both valves of a side, front first; empty ones were swept."""


def wren(by: Person, other: Person) -> None:
    """Enter the build: ``by`` reads the short block, ``other`` the valves."""
    build = services.save_build(
        Build(),
        by,
        name="Wren",
        subtitle="hill-climb special",
        unit=Unit.MILLIMETRE,
        deck_sign=DeckSign.OUT_POSITIVE,
        limits="makers",
        engine=Engine(
            cylinders=4,
            bore_mm=86.0,
            stroke_mm=77.4,
            rod_length_mm=139.5,
            rocker_ratio=1.0,
            firing_order=parse_firing_order("1-3-4-2"),
            intake=ValveRow(count=2, angle_deg=15.5, diameter_mm=33.5),
            exhaust=ValveRow(count=2, angle_deg=16.5, diameter_mm=29.0),
        ),
    )
    types = Typist(build, by)
    types.sits_down(by, 15, 8, 50)
    _short_block(types)
    types.sits_down(other, 14, 10, 15)
    for side, lift, half_width in ((Side.INTAKE, 9.6, 128.0), (Side.EXHAUST, 9.1, 126.0)):
        types.put(_measured(side, lift, half_width), "pasted from the lobe measurer")
    types.put(CamSteps(steps_deg=(1.0, 2.0, 5.0)), "1, 2, 5")
    types.degree(Side.INTAKE, "5", "48 ATDC", "168 ATDC")
    types.degree(Side.EXHAUST, "5", "10 ABDC", "52 BTDC")
    types.put(FinalGasket(name="composite, 86 bore", compressed_mm=0.95, bore_mm=87.0), "0.95, bore 87")
    for limit, value in LIMITS.items():
        types.put(LimitEdit(limit=limit, value=value, reason="cam and piston makers"), f"{value:g}")
    _valves(types, other)
    types.dated()


def _valves(types: Typist, by: Person) -> None:
    """Read the valves of number 1 by indicator and the others by clay, and draft a remedy."""
    stood = MockUp(
        key="",
        gasket_state=GasketState.COMPRESSED,
        gasket_mm=0.95,
        **CAREFUL,
    )
    types.sits_down(by, 13, 9, 0)
    mockup = types.mockup(stood)
    types.sweep(mockup, Place(1, Side.INTAKE), 0, "2.43", "2.36", "2.56", "3.03", "3.78")
    types.sweep(mockup, Place(1, Side.EXHAUST), -20, "3.38", "2.58", "2.03", "1.75", "1.76")
    for (cylinder, side), typed in CLAY.items():
        for number, text in enumerate(typed, start=1):
            if text:
                types.clayed(mockup, Place(cylinder, side, number), text)
    thought_of = (
        Change(key="cam", kind=CAM_MOVED, amount=2.0),
        Change(key="relief", kind=RELIEF_DEEPENED, side=Side.EXHAUST, amount=0.1),
    )
    types.put(WhatIf(name="a little of both", changes=thought_of), "a little of both")


def _short_block(types: Typist) -> None:
    types.tdc((42.0, 41.5), (42.0, 41.5))
    for cylinder, typed in enumerate(("0.21 down", "0.20 down", "0.22 down", "0.21 down"), start=1):
        types.deck(cylinder, typed)
    for cylinder, fill in enumerate(("34.4", "34.3", "34.5", "34.4"), start=1):
        types.chamber(cylinder, fill)
    types.piston(None, "dish 3.0 cc")


def _measured(side: Side, lift_mm: float, half_width_deg: float) -> LobeTable:
    """Return a made-up lobe for this build, five degrees a step, as if measured at the valve."""
    angles = tuple(float(angle) for angle in range(-130, 131, 5))
    shares = [max(1 - abs((angle + 4) / half_width_deg) ** 2.3, 0.0) for angle in angles]
    # The closing side comes down a little slower, like a real one; to the hundredth, as a dial reads.
    lifts = tuple(
        round(lift_mm * share ** (2.9 if angle > 0 else 3.1), 2) for angle, share in zip(angles, shares, strict=True)
    )
    return LobeTable(side=side, angles_deg=angles, lifts_mm=lifts, at=LiftAt.VALVE, u_mm=0.005)
