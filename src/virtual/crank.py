"""The position of a piston by closing the linkage numerically, not by core formulas.

The rod's length is a constraint between crankpin and pin; Newton's method finds the pin's height. TDC is the highest
position found, the stroke from there to the lowest. Source: loop closure, any text on mechanisms.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq, minimize_scalar

Curve = NDArray[np.float64]


@dataclass(frozen=True)
class TrueCrank:
    """A crank throw, a rod, and the pin line's offset [mm]."""

    throw_mm: float
    rod_mm: float
    offset_mm: float

    def pin_mm(self, angle_deg: Curve) -> Curve:
        """Return the pin's height over the crank [mm] at angles from its vertical [deg]."""
        angle = np.radians(angle_deg)
        across, up = self.throw_mm * np.sin(angle), self.throw_mm * np.cos(angle)
        height = up + self.rod_mm
        for _ in range(30):
            missed = (across + self.offset_mm) ** 2 + (height - up) ** 2 - self.rod_mm**2
            step = missed / (2 * (height - up))
            height = height - step
            if np.abs(step).max() < 1e-12:
                break
        return np.asarray(height)

    @cached_property
    def tdc_deg(self) -> float:
        """The crank angle at the piston's own TDC [deg]."""
        found = minimize_scalar(
            lambda a: -float(self.pin_mm(np.array(a))), bounds=(-20, 20), method="bounded", options={"xatol": 1e-10}
        )
        return float(found.x)

    @cached_property
    def highest_mm(self) -> float:
        """The pin's height at TDC [mm]."""
        return float(self.pin_mm(np.array(self.tdc_deg)))

    def down_mm(self, after_tdc_deg: Curve) -> Curve:
        """Return how far the piston is down at angles after its TDC, any shape [deg]; [mm]."""
        return self.highest_mm - self.pin_mm(np.asarray(after_tdc_deg, dtype=float) + self.tdc_deg)


def crank_of(stroke_mm: float, rod_mm: float, offset_mm: float) -> TrueCrank:
    """Return the crank that gives a stroke [mm]."""

    def over(throw: float) -> float:
        one = TrueCrank(throw, rod_mm, offset_mm)
        lowest = minimize_scalar(
            lambda a: float(one.pin_mm(np.array(a))), bounds=(160, 200), method="bounded", options={"xatol": 1e-9}
        )
        return one.highest_mm - float(lowest.fun) - stroke_mm

    if not offset_mm:
        return TrueCrank(stroke_mm / 2, rod_mm, 0.0)
    return TrueCrank(float(brentq(over, stroke_mm * 0.45, stroke_mm * 0.5001, xtol=1e-9)), rod_mm, offset_mm)
