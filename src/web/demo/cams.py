"""Cams on the demo's shelf: clear, clear after a relief, clear if moved, never clear.

The fifth is a pair of measured lobes for Wren. All are invented.
"""

import math

from mockup.engine.cam import CamCard, Duration, LobeCard, LobeTable
from mockup.engine.camshaft import Camshaft
from mockup.engine.valves import Side
from mockup.quantity.value import MM_PER_THOU
from web.shelf.services import put_cam_on
from web.shops.models import Person

LOW_THOU, CHECKED_THOU, HIGH_THOU = 20, 50, 200

Lobe = tuple[float, float, float, float, float]
"""Lift in thou, durations above 20, 50 and 200 thou, lift at TDC in thou."""

CARDS: tuple[tuple[str, Lobe, Lobe, float, float, str, str], ...] = (
    ("Tidewater 28", (285, 252, 214, 120, 53), (288, 256, 218, 124, 41), 106, 110, "240", "for towing, good vacuum"),
    (
        "Tidewater 32",
        (312, 264, 228, 138, 62),
        (318, 272, 236, 144, 58),
        104,
        108,
        "265",
        "wants springs of 95 on the seat",
    ),
    ("Early bird", (306, 258, 222, 132, 74), (282, 252, 214, 118, 26), 99, 110, "250", "ground 11 in advance"),
    ("Sprint 36", (362, 292, 256, 172, 142), (366, 296, 260, 176, 130), 101, 105, "410", "for the lake record"),
)
"""Name, intake, exhaust, intake centreline, separation, price, note."""


def cams_of_the_shelf(by: Person) -> None:
    """Put them on the shelf."""
    for name, intake, exhaust, icl, lsa, price, note in CARDS:
        card = CamCard(intake=_lobe(intake), exhaust=_lobe(exhaust), icl_deg=icl, lsa_deg=lsa)
        put_cam_on(Camshaft(name=name, card=card), by, had=name == "Tidewater 28", price=price, note=note)
    tables = (_measured(Side.INTAKE, 9.9, 128.0), _measured(Side.EXHAUST, 9.6, 126.0))
    pair = Camshaft(name="Twin 40, measured", tables=tables, icl_deg=106.0, ecl_deg=110.0)
    put_cam_on(pair, by, had=True, price="", note="on the bench, lobes measured every 5 degrees")


def _lobe(of: Lobe) -> LobeCard:
    lift, *spans, at_tdc = of
    lifts = (LOW_THOU, CHECKED_THOU, HIGH_THOU)
    return LobeCard(
        lift_mm=lift * MM_PER_THOU,
        durations=tuple(Duration(span, at * MM_PER_THOU) for span, at in zip(spans, lifts, strict=True)),
        tdc_lift_mm=at_tdc * MM_PER_THOU,
    )


def _measured(side: Side, lift_mm: float, half_width_deg: float) -> LobeTable:
    """Return a smooth made-up lobe, to a hundredth of a millimetre."""
    last = math.floor(half_width_deg / 5) * 5 + 10
    angles = tuple(float(angle) for angle in range(-last, last + 1, 5))
    lifts = tuple(round(lift_mm * max(1 - abs(angle / half_width_deg) ** 2.4, 0.0) ** 3, 2) for angle in angles)
    return LobeTable(side=side, angles_deg=angles, lifts_mm=lifts)
