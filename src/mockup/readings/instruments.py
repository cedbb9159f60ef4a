"""Instruments, and the uncertainty of their readings.

Defaults are common practice, no source; a job may replace them.

The u of a reading is its resolution and repeatability: sigma^2 = resolution^2 / 12 + s^2. s is not known beforehand.
The stated repeatability of an instrument counts as four readings, and repeats or residuals r of n further degrees of
freedom correct it: sigma_hat^2 = (4 sigma^2 + sum r^2) / (4 + n), with 4 + n degrees of freedom; fewer than four where
the readings contradict the statement. Source: scaled inverse chi-square prior of a normal variance, e.g. Gelman et al.,
Bayesian Data Analysis, 2.6; GUM, JCGM 100:2008, 4.2, G.3.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from mockup.base.faults import Fault, refuse
from mockup.quantity.corrections import Correction, Part, UncertaintySource
from mockup.quantity.fields import Mm, Name, Words
from mockup.quantity.solvers import f_exceeds
from mockup.quantity.value import MM_PER_INCH, Value, rectangular, resolution_u

DateText = Name
"""A date in ISO 8601."""
PRIOR_READINGS = 4.0
"""How many readings an instrument's stated repeatability counts as."""
CONTRADICTED, LEAST_KEPT, FEWEST_FREEDOM = 0.3, 0.2, 0.3
REPEATS_MM = round(0.0004 * MM_PER_INCH, 6)
"""Standard deviation of pushing a valve on an indicator again: common practice, no source."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Calibration:
    """One calibration: ``on`` and ``until`` are dates such as 2026-11-02, ``by`` is who did it.

    Raises FaultsError for an invalid date, or an end before the start.
    """

    on: DateText
    until: DateText
    by: Words = ""

    def __post_init__(self) -> None:
        wrong = [name for name in ("on", "until") if not is_date(getattr(self, name))]
        found = [Fault(name, "A date, as 2026-11-02.") for name in wrong]
        found += [Fault("until", "It ends before it began.")] if not wrong and self.until < self.on else []
        refuse(found)


def is_date(text: str) -> bool:
    """Return whether a text is a calendar date in ISO 8601."""
    try:
        return date.fromisoformat(text).isoformat() == text
    except ValueError:
        return False


@dataclass(frozen=True, slots=True, kw_only=True)
class Instrument:
    """One instrument: its reading step [mm] and its accuracy as a half-width [mm], both >= 0.

    ``repeats_mm``: standard deviation of repeated readings, as stated [mm]. ``calibrated``: its calibrations, empty
    where no record is kept. Raises FaultsError on a negative figure or one over 1 mm.
    """

    key: Name
    name: Name
    resolution_mm: Mm
    accuracy_mm: Mm
    repeats_mm: Mm = REPEATS_MM
    calibrated: tuple[Calibration, ...] = ()

    def __post_init__(self) -> None:
        figures = {"resolution_mm": self.resolution_mm, "accuracy_mm": self.accuracy_mm}
        figures["repeats_mm"] = self.repeats_mm
        refuse(Fault(name, "From 0 to 1 mm.") for name, figure in figures.items() if not 0 <= figure <= 1)

    @property
    def noise_mm(self) -> float:
        """Standard uncertainty against a repeat [mm]: resolution / sqrt 12 and repeatability."""
        return math.hypot(resolution_u(self.resolution_mm), self.repeats_mm)

    @property
    def own_mm(self) -> float:
        """Standard uncertainty common to all its readings [mm]: accuracy / sqrt 3."""
        return rectangular(self.accuracy_mm)

    def lapsed_on(self, day: str) -> str:
        """Return when its calibration ended before ``day`` (ISO 8601), or "" if it was valid.

        A day before the first recorded calibration returns "": there may have been an earlier one.
        """
        begun = [one for one in self.calibrated if one.on <= day]
        last = max((one.until for one in begun), default="")
        return last if last and last < day else ""

    @property
    def u_mm(self) -> float:
        """Total standard uncertainty of one reading [mm]."""
        return math.hypot(self.noise_mm, self.own_mm)


def noise_after(sigma_mm: float, squares: float, freedom: float) -> Value:
    """Return the noise of readings [mm] by their residuals, with freedom; its value is 0.

    ``sigma_mm``: as stated [mm]; ``squares``: sum of squared residuals [mm2] with ``freedom`` degrees [1], >= 0.
    """
    prior = PRIOR_READINGS * _word_kept(squares / sigma_mm**2, freedom)
    known_by = prior + freedom
    return Value(0.0, math.sqrt((prior * sigma_mm**2 + squares) / known_by), known_by)


def _word_kept(squares: float, freedom: float) -> float:
    """Return how much an instrument's statement counts beside its readings, 0.2 to 1 [1].

    ``squares``: sum of squared residuals over the stated variance. Where chance would seldom make it so large (an F
    test under 0.3), the statement was not made about this bench and counts for less. Otherwise readings that repeat
    worse than stated would look better than they are (docs/proof.md).
    """
    if freedom < FEWEST_FREEDOM or squares <= freedom:
        return 1.0
    return min(max(f_exceeds(squares / freedom, freedom, PRIOR_READINGS) / CONTRADICTED, LEAST_KEPT), 1.0)


def mean_correction(text: str, readings: Sequence[float], sigma_mm: float, own_mm: float) -> Correction:
    """Return the mean of readings of one thing [mm], at least one, as a first correction.

    ``sigma_mm``: stated noise of one reading; ``own_mm``: what all share; standard uncertainties [mm].
    """
    # There are only a handful of numbers: making arrays would take longer than adding them.
    count = len(readings)
    middle = math.fsum(readings) / count
    squares = math.fsum((one - middle) ** 2 for one in readings)
    noise = noise_after(sigma_mm, squares, count - 1).scaled(1 / math.sqrt(count))
    mean = Value(middle, noise.u, noise.freedom) + Value(0.0, own_mm)
    return Correction(
        text, mean, parts=(Part(UncertaintySource.REPEATABILITY, noise.u), Part(UncertaintySource.INSTRUMENT, own_mm))
    )


def _inch(key: str, name: str, resolution: float, accuracy: float, repeats: float) -> Instrument:
    resolution_mm, accuracy_mm, repeats_mm = (one * MM_PER_INCH for one in (resolution, accuracy, repeats))
    return Instrument(
        key=key, name=name, resolution_mm=resolution_mm, accuracy_mm=accuracy_mm, repeats_mm=round(repeats_mm, 6)
    )


BRIDGE = "bridge"
INDICATOR = "indicator"
CALIPER = "caliper"
DEPTH_ROD = "depth-rod"
FEELERS = "feelers"
CAMERA = "camera"
RULE = "rule"

DEFAULT_INSTRUMENTS: Mapping[str, Instrument] = {
    instrument.key: instrument
    for instrument in (
        _inch(BRIDGE, "bridge and indicator", 0.0005, 0.0005, 0.0005),
        _inch(INDICATOR, "dial indicator", 0.0005, 0.0005, 0.0004),
        _inch(DEPTH_ROD, "caliper depth rod", 0.0005, 0.0015, 0.001),
        # Clay gives a little under the jaws, differently each time and independent of the caliper's accuracy.
        _inch(CALIPER, "caliper on a clay slice", 0.001, 0.001, 0.003),
        _inch(FEELERS, "feelers", 0.001, 0.001, 0.0005),
        # Half a millimetre is what an eye reads off a rule's edge.
        _inch(RULE, "steel rule", 0.020, 0.010, 0.008),
        # A reading with the u of its own picture (camera/measure.py) uses that instead of this accuracy.
        _inch(CAMERA, "picture of the cut", 0.0001, 0.0015, 0.0003),
    )
}
