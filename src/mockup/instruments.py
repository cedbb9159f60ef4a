"""Instruments, and how surely each reads. Defaults are common practice, no source; a job may replace them.

The u of a reading is its resolution and its repeatability: sigma^2 = resolution^2 / 12 + s^2. Nobody knows s
beforehand: what an instrument is said to repeat within is worth four readings, and repeats or residuals r of n further
degrees of freedom correct it: sigma_hat^2 = (4 sigma^2 + sum r^2) / (4 + n), known by 4 + n; less than four where they
contradict it. Source: scaled inverse chi-square prior of a normal variance, e.g. Gelman et al., Bayesian Data
Analysis, 2.6; GUM, JCGM 100:2008, 4.2, G.3.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from mockup.faults import Fault, refuse
from mockup.quantity.fields import Mm, Name, Words
from mockup.quantity.ladder import Doubt, Part, Rung
from mockup.quantity.solvers import f_exceeds
from mockup.quantity.value import MM_PER_INCH, Value, rectangular, resolution_u

DateText = Name
"""A day as ISO 8601 writes it."""
PRIOR_READINGS = 4.0
"""How many readings an instrument's word for its repeatability is worth."""
CONTRADICTED, LEAST_KEPT, FEWEST_FREEDOM = 0.3, 0.2, 0.3
REPEATS_MM = round(0.0004 * MM_PER_INCH, 6)
"""What pushing a valve on an indicator repeats within, a standard deviation: common practice, no source."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Calibration:
    """An instrument was calibrated: ``on`` and ``until`` are dates, as 2026-11-02, ``by`` says whose work it was.

    Raises FaultsError for what is no date, or ends before it began.
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
    """Whether a text is a day of the calendar, as ISO 8601 writes it."""
    try:
        return date.fromisoformat(text).isoformat() == text
    except ValueError:
        return False


@dataclass(frozen=True, slots=True, kw_only=True)
class Instrument:
    """One instrument: the step it is read to [mm], its accuracy as a half-width [mm], both >= 0.

    ``repeats_mm``: the standard deviation of reading the same thing again, before any was [mm]. ``calibrated``: when it
    was, nothing where nobody keeps that. Raises FaultsError on a negative figure or one over 1 mm.
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
        """Standard uncertainty of one reading as against the next [mm]: resolution / sqrt 12 with its repeatability."""
        return math.hypot(resolution_u(self.resolution_mm), self.repeats_mm)

    @property
    def own_mm(self) -> float:
        """Standard uncertainty common to all its readings [mm]: accuracy / sqrt 3."""
        return rectangular(self.accuracy_mm)

    def lapsed_on(self, day: str) -> str:
        """The date on which its calibration had ended on a ``day`` (ISO 8601); "" where it had not, or none is kept.

        Of a day before the first calibration nothing is said: it may have been calibrated before.
        """
        begun = [one for one in self.calibrated if one.on <= day]
        last = max((one.until for one in begun), default="")
        return last if last and last < day else ""

    @property
    def u_mm(self) -> float:
        """Standard uncertainty of one reading [mm], all told."""
        return math.hypot(self.noise_mm, self.own_mm)


def noise_after(sigma_mm: float, squares: float, freedom: float) -> Value:
    """The noise of readings [mm] as their residuals correct it, with its degrees of freedom; its value is 0.

    ``sigma_mm``: as supposed before [mm]; ``squares``: sum of squared residuals [mm2], of ``freedom`` degrees [1], >=
    0.
    """
    prior = PRIOR_READINGS * _word_kept(squares / sigma_mm**2, freedom)
    known_by = prior + freedom
    return Value(0.0, math.sqrt((prior * sigma_mm**2 + squares) / known_by), known_by)


def _word_kept(squares: float, freedom: float) -> float:
    """How much of an instrument's word is kept beside readings that contradict it, 0.2 to 1 [1].

    ``squares``: sum of squared residuals over the variance as supposed. Where they are so large that chance alone would
    seldom do it (an F test under 0.3), the word was not of this bench, and counts for less: without that, readings that
    repeat worse than said are taken for better than they are (docs/proof.md).
    """
    if freedom < FEWEST_FREEDOM or squares <= freedom:
        return 1.0
    return min(max(f_exceeds(squares / freedom, freedom, PRIOR_READINGS) / CONTRADICTED, LEAST_KEPT), 1.0)


def mean_rung(text: str, readings: Sequence[float], sigma_mm: float, own_mm: float) -> Rung:
    """The mean of readings of one thing with one instrument [mm], at least one; a ladder's first rung.

    ``sigma_mm``: noise of one reading as supposed before, ``own_mm``: what all share, standard uncertainties [mm].
    """
    # A handful of numbers: arrays would take longer to make than to add up.
    count = len(readings)
    middle = math.fsum(readings) / count
    squares = math.fsum((one - middle) ** 2 for one in readings)
    noise = noise_after(sigma_mm, squares, count - 1).scaled(1 / math.sqrt(count))
    mean = Value(middle, noise.u, noise.freedom) + Value(0.0, own_mm)
    return Rung(text, mean, parts=(Part(Doubt.REPEATABILITY, noise.u), Part(Doubt.INSTRUMENT, own_mm)))


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

DEFAULT_INSTRUMENTS: Mapping[str, Instrument] = {
    instrument.key: instrument
    for instrument in (
        _inch(BRIDGE, "bridge and indicator", 0.0005, 0.0005, 0.0005),
        _inch(INDICATOR, "dial indicator", 0.0005, 0.0005, 0.0004),
        _inch(DEPTH_ROD, "caliper depth rod", 0.0005, 0.0015, 0.001),
        # Clay gives a little under the jaws, each time otherwise, whatever the caliper's own accuracy.
        _inch(CALIPER, "caliper on a clay slice", 0.001, 0.001, 0.003),
        _inch(FEELERS, "feelers", 0.001, 0.001, 0.0005),
        # Where a reading brings the u of its own picture (camera/measure.py), that counts for its accuracy.
        _inch(CAMERA, "picture of the cut", 0.0001, 0.0015, 0.0003),
    )
}
