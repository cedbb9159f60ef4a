"""Bittern: an inline six with pushrods for a vintage race boat, in inches.

One exhaust too close to call.

Its deck runs out of square toward the rear, and number 5 stands proud of its bank.
"""

from pathlib import Path

from mockup.camera.marks import Marks
from mockup.checks.compression import RATIO_HIGH_LIMIT, RATIO_LOW_LIMIT
from mockup.engine.block import Engine
from mockup.engine.cam import CamCard, Duration, LobeCard
from mockup.engine.gasket import FinalGasket, GasketState
from mockup.engine.mockup import MockUp as CoreMockUp
from mockup.engine.mockup import PistonsIn
from mockup.engine.pushrods import Lifter, PushrodChoice
from mockup.engine.running import Running
from mockup.engine.valves import Place, Side, ValveRow
from mockup.quantity.typed import parse_bench_length, parse_dimension, parse_firing_order
from mockup.quantity.typed_train import Checker
from mockup.quantity.value import DeckSign, Unit
from web.builds import services
from web.builds.careful_answers import CAREFUL
from web.builds.entry_kinds import CamSteps, LimitEdit
from web.builds.models import Build, MockUp
from web.demo.typing import Typist
from web.shops.models import Person


def _thou(text: str) -> float:
    return parse_bench_length(text, Unit.INCH)


def _inch(text: str) -> float:
    return parse_dimension(text, Unit.INCH)


CLAY = {
    (1, Side.INTAKE): (("98", "97.5", "99"), ("54",)),
    (1, Side.EXHAUST): (("112.5", "111", "114"), ("41",)),
    (6, Side.INTAKE): (("98", "99"), ("52",)),
    (6, Side.EXHAUST): (("107", "105.5", "106"), ("38",)),
}


DROPS = ((1, Side.INTAKE, "185"), (1, Side.EXHAUST, "190"), (6, Side.INTAKE, "191"), (6, Side.EXHAUST, "197"))
"""Read shut, at firing TDC: other cams are judged by them."""


CUT_CLAY = Path(__file__).with_name("cut_clay.jpg")
MARKS = Marks(
    reference=((157, 134), (688, 162), (664, 690), (137, 671)),
    ends=((856, 415), (1419, 329)),
    reach_px=75,
    length_mm=20,
)
"""The marks in that picture: the corners of a printed square of 20 mm, and the slice."""


def bittern(by: Person, other: Person) -> None:
    """Enter the build: ``by`` reads block and indicator, ``other`` cam, train and clay."""
    build = services.save_build(
        Build(),
        by,
        name="Bittern",
        subtitle="hull 31",
        unit=Unit.INCH,
        deck_sign=DeckSign.DOWN_POSITIVE,
        limits="street-floor",
        engine=Engine(
            cylinders=6,
            bore_mm=_inch("3.750"),
            stroke_mm=_inch("3.875"),
            rod_length_mm=_inch("6.800"),
            pin_offset_mm=_thou("0.060"),
            rocker_ratio=1.55,
            firing_order=parse_firing_order("1-5-3-6-2-4"),
            bore_spacing_mm=_inch("4.375"),
            intake=ValveRow(angle_deg=12.0, diameter_mm=_inch("1.780")),
            exhaust=ValveRow(angle_deg=12.0, diameter_mm=_inch("1.500")),
        ),
    )
    types = Typist(build, by)
    types.sits_down(by, 25, 8, 40)
    _short_block(types)
    types.sits_down(other, 24, 13, 10)
    _cam(types)
    types.sits_down(other, 22, 9, 25)
    mockup = types.mockup(_stood("39"))
    _train(types, mockup)
    _clay(types, mockup)
    types.sits_down(by, 18, 10, 5)
    _indicator(types)
    types.dated()


def _stood(gasket: str) -> CoreMockUp:
    """Return both mock-ups except for their gasket, compressed, as typed in thou."""
    return CoreMockUp(
        key="",
        gasket_state=GasketState.COMPRESSED,
        gasket_mm=_thou(gasket),
        **CAREFUL,
        wheel_checked=True,
        pistons=PistonsIn.RIGHT,
    )


def _clay(types: Typist, mockup: MockUp) -> None:
    """The first slice of number 6 was misread, struck out and read again."""
    beside = types.clayed(mockup, Place(6, Side.EXHAUST), "131")
    types.strikes(beside, "read beside the print, where the clay is thicker")
    types.clay(mockup, CLAY)
    types.by_picture(mockup, Place(6, Side.INTAKE), CUT_CLAY, MARKS, "intake 6, the slice across the print")


def _indicator(types: Typist) -> None:
    """Read the tight valves of number 1 again under a gasket thinner by 0.012 in."""
    mockup = types.mockup(_stood("30"))
    for cylinder, side, typed in DROPS:
        types.drop(mockup, Place(cylinder, side), typed)
    types.sweep(mockup, Place(1, Side.INTAKE), 0, "94", "85", "90.5", "110.5", "145")
    types.sweep(mockup, Place(1, Side.EXHAUST), -20, "172.5", "134", "110", "99.5", "103")


def _short_block(types: Typist) -> None:
    types.tdc((28.0, 31.0), (28.5, 31.0))
    for cylinder, typed in enumerate(("4 down", "4.5 down", "5.5 down", "6 down", "1 down", "7 down"), start=1):
        types.deck(cylinder, typed)
    types.rocked(1, thrust=("5.5 down", "3 down"), other=("3 down", "5 down"))
    types.rocked(6, thrust=("8.5 down", "6 down"), other=("5.5 down", "8 down"))
    gasket = FinalGasket(name="steel, three layers", compressed_mm=_thou("36"), bore_mm=_inch("3.825"))
    types.put(gasket, "36, bore 3.825")
    for cylinder, typed in enumerate(("63.6", "63.4", "63.8", "63.5", "64.6", "63.5"), start=1):
        types.chamber(cylinder, typed)
    types.chamber(1, "63.8", "63.7")
    types.piston(None, "dish 5.2 cc")
    for limit, value in ((RATIO_LOW_LIMIT, 9.6), (RATIO_HIGH_LIMIT, 10.3)):
        types.put(LimitEdit(limit=limit, value=value, reason="fuel sold at the lake"), str(value))
    running = Running(compression_height_mm=_inch("1.760"), rpm=5200.0, reciprocating_g=910.0, rod_area_mm2=165.0)
    types.put(running, "as weighed")


def _cam(types: Typist) -> None:
    """The card asks for 106 ATDC; degreed, the cam is two degrees late."""

    def lobe(lift: str, seat: float, at_fifty: float) -> LobeCard:
        return LobeCard(lift_mm=_thou(lift), durations=(Duration(seat, _thou("20")), Duration(at_fifty, _thou("50"))))

    card = CamCard(
        intake=lobe("300", 264.0, 226.0),
        exhaust=lobe("305", 272.0, 234.0),
        icl_deg=106.0,
        lsa_deg=110.0,
        intake_lash_mm=_thou("16"),
        exhaust_lash_mm=_thou("18"),
    )
    types.put(card, "")
    types.put(CamSteps(steps_deg=(2.0, 4.0, 8.0)), "2, 4, 8")
    types.degree(Side.INTAKE, "250", "70 ATDC", "146 ATDC")
    types.degree(Side.INTAKE, "150", "34 ATDC", "2.5 ABDC")
    types.degree(Side.EXHAUST, "250", "150 BTDC", "74 BTDC")
    types.degree(Side.EXHAUST, "150", "5.5 BBDC", "38.5 BTDC")


def _train(types: Typist, mockup: MockUp) -> None:
    checker = Checker(_inch("9.300"), _thou("50"))
    types.put(
        PushrodChoice(
            lifter=Lifter.SOLID,
            low_mm=_thou("2"),
            aim_mm=_thou("18"),
            high_mm=_thou("40"),
            lean_deg=3.0,
            chosen_mm=_inch("9.850"),
        ),
        "9.850",
    )
    types.valve(mockup, Place(1, Side.INTAKE), "463", "11.3 turns", checker, "120 to 208 of 342, square")
    types.valve(mockup, Place(1, Side.EXHAUST), "470", "11.4 turns", checker, "128 to 222 of 342, square")
    types.valve(mockup, Place(6, Side.INTAKE), "464", "11.3 turns", checker, "122 to 210 of 342, square")
    types.valve(mockup, Place(6, Side.EXHAUST), "469", "11.4 turns", checker, "126 to 221 of 342, square")
