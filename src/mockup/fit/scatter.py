"""The scatter of readings about their curve, or about their own mean."""

from dataclasses import dataclass

import numpy as np

from mockup.fit.valve_model import Sweep
from mockup.quantity.value import Value
from mockup.readings.instruments import noise_after


@dataclass(frozen=True, slots=True)
class Scatter:
    """The scatter of readings about their curve: squares over stated noise, and freedom [1]."""

    squares: float = 0.0
    freedom: float = 0.0

    def __add__(self, other: "Scatter") -> "Scatter":
        """Combine the scatter of readings taken by the same person with the same instrument."""
        return Scatter(self.squares + other.squares, self.freedom + other.freedom)

    @property
    def noise(self) -> Value:
        """The noise relative to the stated one [1], with its degrees of freedom."""
        return noise_after(1.0, self.squares, self.freedom)


def repeats_within_sweep(sweep: Sweep) -> Scatter:
    """Return the scatter of repeats at one angle about their mean."""
    usual, squares, freedom = float(np.median(sweep.u_mm)), 0.0, 0
    for angle in np.unique(sweep.t_deg):
        here = sweep.c_mm[sweep.t_deg == angle]
        squares += float(((here - here.mean()) ** 2).sum())
        freedom += len(here) - 1
    return Scatter(squares / usual**2, freedom)
