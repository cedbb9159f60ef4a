"""Fits of one sweep alone, as the program fits it together with the others of its sheet."""

import numpy as np
from numpy.typing import ArrayLike

from mockup.fit.closest_approach import Fit
from mockup.fit.closest_point import Closest
from mockup.fit.valve_model import Sweep
from mockup.motion.slider_crank import SliderCrank
from mockup.motion.valve_lift import ValveTrain


def as_sweep(t_deg: ArrayLike, c_mm: ArrayLike, u_mm: ArrayLike, k: float) -> Sweep:
    """Return a sweep of sequences (n,): angles [deg], clearances [mm], noise [mm]."""
    t, c = np.asarray(t_deg, dtype=float), np.asarray(c_mm, dtype=float)
    return Sweep(t, c, np.broadcast_to(np.asarray(u_mm, dtype=float), t.shape).copy(), k)


def closest_approach(sweep: Sweep, crank: SliderCrank, train: ValveTrain | None) -> Closest | None:
    """Return the closest approach; ``train``: its lobe, measured or estimated from a card."""
    fit = Fit(sweep, crank, train)
    return fit.closest(fit.scatter)
