"""How the valves lean to the bore, and what a move along the bore does to clearance.

Source: plane geometry of an inclined valve; derived in docs/how-it-computes.md, section "Valve axis".
"""

import math
from dataclasses import dataclass
from enum import StrEnum

from mockup.base.faults import Fault
from mockup.quantity.fields import Mm
from mockup.quantity.shown import mm_text


class Side(StrEnum):
    """Intake or exhaust."""

    INTAKE = "intake"
    EXHAUST = "exhaust"


class Relief(StrEnum):
    """What the valve faces in the crown."""

    PARALLEL = "parallel"
    FLAT = "flat"


STEEPEST_DEG = 60.0
UNSTATED_DEG = 20.0
"""The largest lean of a valve whose angle is not stated: common practice, no source. It counts as upright."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ValveRow:
    """All valves of one side: how many a cylinder, their inclination and the relief they face.

    ``angle_deg`` and ``cant_deg`` are the two projected angles to the bore axis [deg], each 0 to 60; ``angle_deg`` is
    None where not stated. ``count`` is 1 to 3; ``diameter_mm`` of the heads [mm], up to 120, or 0 where not known.
    """

    count: int = 1
    angle_deg: float | None = None
    cant_deg: float = 0.0
    relief: Relief = Relief.PARALLEL
    diameter_mm: Mm = 0.0

    @property
    def inclination_deg(self) -> float:
        """True inclination of valve to bore [deg]: tan^2 = tan^2 a1 + tan^2 a2; upright if unstated."""
        tangents = (math.tan(math.radians(self.angle_deg or 0.0)), math.tan(math.radians(self.cant_deg)))
        return math.degrees(math.atan(math.hypot(*tangents)))

    @property
    def axial_factor(self) -> float:
        """k: change of clearance along the valve axis for one unit of change along the bore [1]."""
        floor_deg = self.inclination_deg if self.relief is Relief.PARALLEL else 0.0
        return axial_factor(self.inclination_deg, floor_deg)

    @property
    def axial_factor_u(self) -> float:
        """Standard uncertainty of k [1]: 0 where the angle is stated, else for UNSTATED_DEG."""
        if self.angle_deg is not None:
            return 0.0
        low, high = self.axial_factor_span
        return (high - low) / math.sqrt(3.0)

    @property
    def axial_factor_span(self) -> tuple[float, float]:
        """The range of k [1]: k itself, or from upright to UNSTATED_DEG if not stated."""
        if self.angle_deg is not None:
            return self.axial_factor, self.axial_factor
        leaning = axial_factor(UNSTATED_DEG, UNSTATED_DEG if self.relief is Relief.PARALLEL else 0.0)
        return min(leaning, 1.0), max(leaning, 1.0)

    @property
    def sideways(self) -> float:
        """Sideways move of a valve for one unit along the bore [1]: sin a; the most if unstated."""
        return math.sin(math.radians(UNSTATED_DEG if self.angle_deg is None else self.inclination_deg))

    def off_the_crown_mm(self, deeper_mm: float) -> float:
        """Return what a relief cut deeper along its valve takes off the crown: depth / cos a [mm]."""
        return deeper_mm / math.cos(math.radians(self.inclination_deg))

    def faults(self, prefix: str) -> list[Fault]:
        """Return the faults of this row, each path starting with ``prefix``."""
        found = []
        if not 1 <= self.count <= 3:
            found.append(Fault(f"{prefix}.count", "One to three valves a side."))
        if not 0 <= self.diameter_mm <= 120:
            found.append(Fault(f"{prefix}.diameter_mm", f"A valve of up to {mm_text(120)} across."))
        found.extend(
            Fault(f"{prefix}.{name}", f"An angle to the bore of 0 to {STEEPEST_DEG:.0f} degrees.")
            for name in ("angle_deg", "cant_deg")
            if not 0 <= (getattr(self, name) or 0.0) <= STEEPEST_DEG
        )
        return found


@dataclass(frozen=True, slots=True, order=True)
class Place:
    """One valve of one cylinder; ``number`` counts valves of that side from the front, from 1."""

    cylinder: int
    side: Side
    number: int = 1

    @property
    def bench_order(self) -> tuple[int, int, int]:
        """A sort key: cylinder by cylinder, intake before exhaust, from the front."""
        return self.cylinder, list(Side).index(self.side), self.number

    def label(self, count: int) -> str:
        """Return the valve's name: ``Intake 3``, or ``Intake 3b`` where its side has several."""
        letter = "abc"[self.number - 1] if count > 1 else ""
        return f"{self.side.capitalize()} {self.cylinder}{letter}"


def axial_factor(inclination_deg: float, floor_deg: float) -> float:
    """Return the clearance along the valve for one unit along the bore [1]: cos b / cos(a - b).

    ``inclination_deg`` a: valve axis to bore axis, scalar [deg], 0 to 60. ``floor_deg`` b: tilt of the relief's floor
    from the crown toward the valve, scalar [deg], 0 to a (b = a is a relief parallel to the valve face, giving cos a; b
    = 0 a flat crown, giving 1 / cos a).
    """
    floor = math.radians(floor_deg)
    return math.cos(floor) / math.cos(math.radians(inclination_deg) - floor)
