"""The closest point of one valve as its readings tell it, and what a fit with a lobe found everything at."""

from dataclasses import dataclass

from mockup.quantity.ladder import Part
from mockup.quantity.value import Value
from mockup.readings.valve_model import Curve

ENOUGH_MM = 0.005
"""Another reading that would shrink U by less than this (0.2 thou) matters to nobody once the state is plain."""
NOTHING_MM = 0.0025
"""By less than this (0.1 thou), nothing whatever the state."""
ENOUGH_READINGS, SCATTERED_READINGS, SCATTERED = 5, 7, 1.2
"""Readings a sweep wants before its noise is known, more where they scatter so many times more than said."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Fitted:
    """Where a fit with a lobe found everything: drop [mm], wheel and phase [deg], open modes [1]; and how surely.

    ``theta`` (3 + modes,) in that order, ``covariance`` of it; ``noise``: the part of it that the readings' noise
    makes, which is known by ``freedom`` degrees. ``drop``: the first of them with all that is not known of it, and
    ``drop_parts`` what that is made of [mm].
    """

    theta: Curve
    covariance: Curve
    noise: Curve
    freedom: float
    drop: Value
    drop_parts: tuple[Part, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Closest:
    """What the readings say.

    ``minimum`` [mm] and ``angle`` [deg] with their u, ``parts`` what U is made of; ``bracketed``: it lies between the
    readings. ``residuals_mm``, ``leverage`` and ``outlier`` have one entry a reading. ``noise``: of one reading, as the
    residuals have it [mm]; ``scatter``: over what was supposed [1]. ``next_deg``: where to read next [deg], None where
    nothing is gained; ``gain_mm``: what that would take off U [mm]. ``grid_deg``, ``curve_mm``, ``band_mm``: the curve
    with its standard uncertainty, each shape (m,). ``fitted`` where a lobe was known or estimated; ``lift_known`` where
    it was measured. ``doubtful``: the fit did not settle, or its figure lies further below the smallest reading than
    its curve explains: a question, never a figure. ``cam_off``: how far the readings show the cam to stand from where
    it was supposed to [deg], retarded positive; None where they show no such thing. ``suspect``: the reading without
    which the others fit, by its place in the sweep; None where all fit, or no single one is to blame.
    """

    minimum: Value
    angle: Value
    parts: tuple[Part, ...]
    bracketed: bool
    residuals_mm: tuple[float, ...]
    leverage: tuple[float, ...]
    outlier: tuple[bool, ...]
    noise: Value
    scatter: float
    next_deg: float | None
    gain_mm: float
    lift_known: bool
    grid_deg: Curve
    curve_mm: Curve
    band_mm: Curve
    fitted: Fitted | None = None
    doubtful: bool = False
    cam_off: Value | None = None
    suspect: int | None = None

    @property
    def has_curve(self) -> bool:
        """Whether there is a curve to draw, and not just a figure."""
        return len(self.grid_deg) > 0

    def enough(self, *, undecided: bool) -> bool:
        """Whether another reading changes nothing that matters; ``undecided``: U is what keeps it too close to call.

        A sheet that repeats worse than its instrument is said to is read further before its noise is taken for known.
        """
        least = ENOUGH_READINGS if self.scatter < SCATTERED else SCATTERED_READINGS
        if self.next_deg is None or self.lift_known:
            least = 0
        settled = self.bracketed and len(self.residuals_mm) >= least
        return self.next_deg is None or (settled and self.gain_mm < (NOTHING_MM if undecided else ENOUGH_MM))
