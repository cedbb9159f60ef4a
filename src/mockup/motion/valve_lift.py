"""Valve lift over the crank: a lobe on its centreline, times ratio, less lash.

L(t) = ratio x lobe(t - centreline) - lash, never below 0. Source: definition of rocker ratio and lash, any text.
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import ArrayLike

from mockup.engine.valves import Side
from mockup.motion.lobes import Curve, Lobe

CYCLE_DEG = 720.0


@dataclass(frozen=True, slots=True, kw_only=True)
class ValveTrain:
    """One side's lobe, signed centreline about overlap TDC [deg], ratio [1], lash [mm]."""

    side: Side
    lobe: Lobe
    centreline_deg: float
    ratio: float = 1.0
    lash_mm: float = 0.0

    def lift_mm(self, crank_deg: ArrayLike) -> Curve:
        """Return the lift at the valve [mm], any shape [deg] about overlap TDC in, the same out."""
        return np.asarray(np.clip(self.ratio * self.lobe.lift_mm(self._away(crank_deg)) - self.lash_mm, 0.0, None))

    def modes_mm(self, crank_deg: Curve) -> Curve:
        """Return the lift of each open mode at the valve: shape (n,) [deg] in, (n, modes) [mm] out."""
        return self.ratio * self.lobe.modes_mm(self._away(crank_deg))

    def open_lift_mm(self, crank_deg: Curve, modes: Curve) -> Curve:
        """Return the lift with ``modes`` (modes,) of the open modes: (n,) [deg] in, (n,) [mm] out."""
        if not modes.any():
            return self.lift_mm(crank_deg)
        lobe = self.lobe.lift_mm(self._away(crank_deg))
        return np.asarray(
            np.clip(
                self.ratio * np.clip(lobe + self.lobe.modes_mm(self._away(crank_deg)) @ modes, 0.0, None)
                - self.lash_mm,
                0.0,
                None,
            )
        )

    def _away(self, crank_deg: ArrayLike) -> Curve:
        away = np.asarray(crank_deg, dtype=float) - self.centreline_deg
        return np.asarray((away + CYCLE_DEG / 2) % CYCLE_DEG - CYCLE_DEG / 2)

    @property
    def lift_max_mm(self) -> float:
        """Maximum lift at the valve [mm]."""
        return max(self.ratio * self.lobe.lift_max_mm - self.lash_mm, 0.0)

    def events_deg(self, at_lobe_mm: float) -> tuple[float, float]:
        """Return opening and closing at a checking lift at the lobe [mm], signed angles [deg]."""
        opens, closes = self.lobe.flanks_deg(at_lobe_mm)
        return self.centreline_deg + opens, self.centreline_deg + closes

    def advanced(self, crank_deg: float) -> "ValveTrain":
        """Return the train with its cam advanced [deg]: everything happens that much earlier."""
        return replace(self, centreline_deg=self.centreline_deg - crank_deg)
