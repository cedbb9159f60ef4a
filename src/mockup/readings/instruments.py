"""Instruments, and how surely each reads. Defaults are common practice, no source; a job may replace them."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from mockup.faults import Fault, refuse
from mockup.quantity.value import MM_PER_INCH, rectangular, resolution_u


@dataclass(frozen=True, slots=True, kw_only=True)
class Instrument:
    """One instrument: the step it is read to [mm] and its accuracy as a half-width [mm], both >= 0.

    Raises FaultsError on a negative figure or one over 1 mm.
    """

    key: str
    name: str
    resolution_mm: float
    accuracy_mm: float

    def __post_init__(self) -> None:
        figures = {"resolution_mm": self.resolution_mm, "accuracy_mm": self.accuracy_mm}
        refuse(Fault(name, "From 0 to 1 mm.") for name, figure in figures.items() if not 0 <= figure <= 1)

    @property
    def u_mm(self) -> float:
        """Standard uncertainty of one reading [mm]: resolution / sqrt 12 with accuracy / sqrt 3."""
        return math.hypot(resolution_u(self.resolution_mm), rectangular(self.accuracy_mm))


def _inch(key: str, name: str, resolution: float, accuracy: float) -> Instrument:
    return Instrument(key=key, name=name, resolution_mm=resolution * MM_PER_INCH, accuracy_mm=accuracy * MM_PER_INCH)


BRIDGE = "bridge"
INDICATOR = "indicator"
CALIPER = "caliper"
DEPTH_ROD = "depth-rod"
FEELERS = "feelers"

DEFAULT_INSTRUMENTS: Mapping[str, Instrument] = {
    instrument.key: instrument
    for instrument in (
        _inch(BRIDGE, "bridge and indicator", 0.0005, 0.0005),
        _inch(INDICATOR, "dial indicator", 0.0005, 0.0005),
        _inch(DEPTH_ROD, "caliper depth rod", 0.0005, 0.0015),
        # Clay gives a little under the jaws whatever the caliper's own accuracy.
        _inch(CALIPER, "caliper on a clay slice", 0.001, 0.003),
        _inch(FEELERS, "feelers", 0.001, 0.001),
    )
}
