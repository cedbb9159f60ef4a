"""Toward a target ratio: what any one volume would be, and the effect of one unit.

Source: V_c = V_swept / (CR - 1), solved for one part at a time; dCR/dV = -V_swept / V_c^2 (closed forms).
"""

import math
from dataclasses import dataclass
from enum import StrEnum

from mockup.checks.compression import sealed_bore
from mockup.engine.block import cylinder_volume
from mockup.report import Report


class Unknown(StrEnum):
    """What may be changed to reach a ratio."""

    GASKET = "gasket, compressed"
    CHAMBER = "chamber"
    PISTON = "piston"
    DECK = "deck"
    SHIMS = "base shims"


@dataclass(frozen=True, slots=True, kw_only=True)
class Solved:
    """What one part would have to be: a length [mm] or a volume [cm3] as ``is_length`` says.

    ``now``: its present value. ``gain``: change of the ratio for one more [mm or cm3]. ``refused`` says why it is
    impossible.
    """

    unknown: Unknown
    value: float
    now: float
    gain: float
    is_length: bool
    refused: str = ""


def solve_ratio(report: Report, cylinder: int, target: float) -> tuple[Solved, ...]:
    """Return every part that alone would bring ``cylinder`` to ``target``, a ratio over 1.

    Empty where its volumes are not all known. Raises ValueError for a target of 1 or less.
    """
    if not (math.isfinite(target) and target > 1):
        raise ValueError("A compression ratio is more than 1.")
    volumes, final = report.volumes.get(cylinder), report.job.final_gasket
    if volumes is None or final is None or volumes.clearance_cc <= 0:
        return ()
    swept = volumes.swept.value
    more_cc = swept / (target - 1) - volumes.clearance_cc
    per_cc = -swept / volumes.clearance_cc**2
    bore = report.job.engine.sizes.bore_mm
    area = cylinder_volume(bore, 1.0)
    deck = report.context.known_decks[cylinder]
    sizes = {
        Unknown.GASKET: (final.compressed_mm, cylinder_volume(sealed_bore(final, report.job.engine).value, 1.0), True),
        Unknown.CHAMBER: (volumes.chamber.value, 1.0, False),
        Unknown.PISTON: (volumes.piston.value, 1.0, False),
        Unknown.DECK: (deck.clearance.value, area, True),
    }
    if report.job.engine.separate_barrels:
        sizes[Unknown.SHIMS] = (deck.shims_mm, area, True)
        del sizes[Unknown.DECK]
    return tuple(
        Solved(
            unknown=unknown,
            value=now + more_cc / cc_each,
            now=now,
            gain=per_cc * cc_each,
            is_length=is_length,
            refused=_refused(unknown, now + more_cc / cc_each),
        )
        for unknown, (now, cc_each, is_length) in sizes.items()
    )


def _refused(unknown: Unknown, value: float) -> str:
    if unknown in (Unknown.GASKET, Unknown.CHAMBER) and value <= 0:
        return f"A {unknown.partition(',')[0]} cannot be that small."
    if unknown is Unknown.SHIMS and value < 0:
        return "There cannot be fewer shims than none."
    return ""


def ratio_from_intake_closing(report: Report, cylinder: int, closes_abdc_deg: float) -> float | None:
    """Return the ratio from intake closing, V(IVC) / V_c [1]; None where not known.

    ``closes_abdc_deg``: intake closing after the wheel's BDC, scalar [deg], 0 to 120. Raises ValueError outside.
    """
    if not 0 <= closes_abdc_deg <= 120:
        raise ValueError("The intake closes 0 to 120 degrees after BDC.")
    volumes = report.volumes.get(cylinder)
    if volumes is None or volumes.clearance_cc <= 0:
        return None
    travel = float(report.crank.travel_mm(180.0 + closes_abdc_deg))
    above = cylinder_volume(report.job.engine.sizes.bore_mm, travel)
    return (volumes.clearance_cc + above) / volumes.clearance_cc
