"""Deck readings: how far each crown stands below or above the deck face at TDC."""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np

from mockup.faults import Fault, refuse
from mockup.quantity.value import Value
from mockup.readings.instruments import BRIDGE, Instrument
from mockup.readings.record import Reading, standing

DEEPEST_MM = 50.0
SURPRISING_MM = 2.0


@dataclass(frozen=True, slots=True, kw_only=True)
class DeckReading(Reading):
    """One reading at the centre of one crown: ``clearance_mm`` [mm], positive in the hole, within +-50."""

    cylinder: int
    clearance_mm: float
    instrument: str = BRIDGE

    def __post_init__(self) -> None:
        if not abs(self.clearance_mm) <= DEEPEST_MM:
            refuse(
                [Fault("clearance_mm", f"A crown within {DEEPEST_MM:.0f} mm (1.97 in) of the deck. Is the unit right?")]
            )

    @property
    def surprising(self) -> bool:
        """Possible, but so far from the deck that the figure is asked about."""
        return abs(self.clearance_mm) > SURPRISING_MM


@dataclass(frozen=True, slots=True)
class DeckFigure:
    """What one cylinder's deck readings amount to: clearance [mm], positive in the hole, and its readings."""

    clearance: Value
    instrument: Instrument
    readings: tuple[DeckReading, ...]


def deck_figures(readings: Iterable[DeckReading], instruments: Mapping[str, Instrument]) -> dict[int, DeckFigure]:
    """Mean deck clearance of each cylinder that was read, by cylinder number.

    u is the least sure instrument used, with the standard deviation of the mean of repeats (GUM 4.2.3).
    """
    per_cylinder: dict[int, list[DeckReading]] = {}
    for reading in standing(readings):
        per_cylinder.setdefault(reading.cylinder, []).append(reading)
    return {cylinder: _figure(found, instruments) for cylinder, found in sorted(per_cylinder.items())}


def _figure(readings: list[DeckReading], instruments: Mapping[str, Instrument]) -> DeckFigure:
    used = max((instruments[reading.instrument] for reading in readings), key=lambda instrument: instrument.u_mm)
    values = np.array([reading.clearance_mm for reading in readings])
    scatter = float(values.std(ddof=1)) / math.sqrt(len(values)) if len(values) > 1 else 0.0
    return DeckFigure(Value(float(values.mean()), math.hypot(used.u_mm, scatter)), used, tuple(readings))
