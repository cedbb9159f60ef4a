"""The slider-crank with pin offset: the piston's position at each crank angle.

Source: any engine text, e.g. Heywood, Internal Combustion Engine Fundamentals, ch. 2; the offset from the geometry.
Derived in docs/how-it-computes.md, "Slider-crank"; checked against numpy solving the loop closure.
"""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from mockup.engine.block import Engine
from mockup.quantity.solvers import root_between


@dataclass(frozen=True, slots=True)
class SliderCrank:
    """Crank radius r, rod l and offset e [mm]; e is positive toward the major thrust side.

    The crank turns where l > r + |e|.
    """

    radius_mm: float
    rod_mm: float
    offset_mm: float = 0.0

    @property
    def tdc_height_mm(self) -> float:
        """Height of the pin over the crank at the piston's own TDC [mm]: sqrt((l + r)^2 - e^2)."""
        return math.sqrt((self.rod_mm + self.radius_mm) ** 2 - self.offset_mm**2)

    @property
    def tdc_angle_deg(self) -> float:
        """Crank angle from vertical at the piston's own TDC [deg]: -asin(e / (l + r))."""
        return -math.degrees(math.asin(self.offset_mm / (self.rod_mm + self.radius_mm)))

    def travel_mm(self, crank_deg: ArrayLike) -> NDArray[np.float64]:
        """Piston travel down from its own TDC.

        ``crank_deg``: crank angle after that TDC, any shape [deg]; negative before it. Returns the same shape [mm].
        """
        angle = np.radians(np.asarray(crank_deg, dtype=float) + self.tdc_angle_deg)
        across = self.radius_mm * np.sin(angle) + self.offset_mm
        height = self.radius_mm * np.cos(angle) + np.sqrt(self.rod_mm**2 - across**2)
        return np.asarray(self.tdc_height_mm - height)

    def slope_mm_per_deg(self, crank_deg: float) -> float:
        """Return how fast the piston goes down at an angle after TDC [deg], [mm] per degree."""
        step = 1e-3
        before, after = self.travel_mm([crank_deg - step, crank_deg + step])
        return float((after - before) / (2 * step))

    def angle_at_deg(self, travel_mm: float) -> float:
        """Return the crank angle after TDC, 0 to 179 [deg], at which it is ``travel_mm`` down.

        Raises ValueError beyond the stroke.
        """
        if not 0 <= travel_mm < float(self.travel_mm(179.0)):
            raise ValueError("That is further than the piston travels.")
        return root_between(lambda angle: float(self.travel_mm(angle)) - travel_mm, 0.0, 179.0, xtol=1e-9)

    def dwell_deg(self, resolution_mm: float) -> float:
        """Return the degrees about TDC over which a needle of ``resolution_mm`` stands still [deg]."""
        return 2 * self.angle_at_deg(resolution_mm)


def slider_crank(engine: Engine) -> SliderCrank:
    """Return the slider-crank of an engine: the crank radius that gives its stroke.

    r = (S/2) sqrt((4 (l^2 - e^2) - S^2) / (4 l^2 - S^2)).
    """
    sizes = engine.sizes
    stroke, rod, offset = sizes.stroke_mm, sizes.rod_length_mm, engine.offset_mm
    radius = stroke / 2 * math.sqrt((4 * (rod**2 - offset**2) - stroke**2) / (4 * rod**2 - stroke**2))
    return SliderCrank(radius, rod, offset)
