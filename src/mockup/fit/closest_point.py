"""The closest point of one valve by its readings, and the parameters of its fit."""

from dataclasses import dataclass

from mockup.fit.valve_model import Curve
from mockup.quantity.corrections import Part
from mockup.quantity.value import Value

ENOUGH_MM = 0.005
"""Once the state is plain, another reading that shrinks U by less than this (0.2 thou) does not matter."""
NOTHING_MM = 0.0025
"""A reading that shrinks U by less than this (0.1 thou) never matters."""
ENOUGH_READINGS, SCATTERED_READINGS, SCATTERED = 5, 7, 1.2
"""Readings needed before a sweep's noise counts as known: usually, when scattered, and how scattered is."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Fitted:
    """The parameters of a fit with a lobe: drop [mm], wheel and phase [deg], open modes [1].

    ``theta`` (3 + modes,) in that order with its ``covariance``; ``noise``: the part due to the readings' noise, with
    ``freedom`` degrees of freedom. ``drop``: the first parameter with its full uncertainty, ``drop_parts`` its parts
    [mm].
    """

    theta: Curve
    covariance: Curve
    noise: Curve
    freedom: float
    drop: Value
    drop_parts: tuple[Part, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Closest:
    """The result of fitting the readings of one valve.

    ``minimum`` [mm] and ``angle`` [deg] with their u, ``parts`` of U. ``bracketed``: it lies between the readings.
    ``residuals_mm``, ``leverage`` and ``outlier`` have one entry for each reading. ``noise``: of one reading, from the
    residuals [mm]; ``scatter``: relative to the stated noise [1]. ``next_deg``: where to read next [deg], None where
    nothing is gained; ``gain_mm``: what that takes off U [mm]. ``grid_deg``, ``curve_mm``, ``band_mm``: the curve with
    its standard uncertainty, each shape (m,). ``fitted``: a lobe was known or estimated; ``lift_known``: it was
    measured. ``doubtful``: the fit did not converge, or its figure is further below the smallest reading than its curve
    explains; then it is a question, not a figure. ``cam_off``: how far the readings show the cam to be from its assumed
    position [deg], retarded positive, or None. ``suspect``: index of the reading without which the others fit, or None.
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
        """Whether there is a curve to draw, not only a figure."""
        return len(self.grid_deg) > 0

    def enough(self, *, undecided: bool) -> bool:
        """Return whether another reading would matter; ``undecided``: only U keeps it too close.

        Readings that repeat worse than the instrument's statement are continued longer before their noise counts as
        known.
        """
        least = ENOUGH_READINGS if self.scatter < SCATTERED else SCATTERED_READINGS
        if self.next_deg is None or self.lift_known:
            least = 0
        settled = self.bracketed and len(self.residuals_mm) >= least
        return self.next_deg is None or (settled and self.gain_mm < (NOTHING_MM if undecided else ENOUGH_MM))
