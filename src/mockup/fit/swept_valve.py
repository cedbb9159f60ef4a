"""What the indicator readings of one valve in one mock-up amount to."""

from dataclasses import dataclass

from mockup.engine.valves import Place
from mockup.fit.closest_point import Closest
from mockup.fit.valve_model import Sweep
from mockup.quantity.value import Value
from mockup.readings.instruments import Instrument
from mockup.readings.sweep import (
    SweepReading,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class SweepFigure:
    """What the readings of one valve, mock-up and instrument give, as mocked up.

    ``closest`` is None while there are too few. ``readings`` with their true angles [deg] and clearances along the
    valve [mm], and as the fitted ``sweep``. ``shut``: they follow the piston alone, as at firing TDC. ``drop``: C0
    where it was read [mm]. ``by_turning``: the smallest found by turning, without an angle. ``modelled``: fitted with
    the mock-up's lobe, measured or from its card. ``tells_tdc``: the readings themselves show that they were taken
    about overlap.
    """

    place: Place
    mockup: str
    instrument: Instrument
    closest: Closest | None
    readings: tuple[SweepReading, ...]
    angles_deg: tuple[float, ...]
    along: tuple[Value, ...]
    sweep: Sweep
    shut: bool
    drop: Value | None
    by_turning: bool = False
    modelled: bool = False
    tells_tdc: bool = False

    @property
    def after(self) -> int:
        """The order of the last change before its first reading."""
        return min(reading.after for reading in self.readings)

    @property
    def settled(self) -> bool:
        """Whether there is a figure: enough readings, and a fit that explains them."""
        return self.closest is not None and not self.closest.doubtful
