"""Which slice of clay counts, and how well its thickness is known."""

from collections.abc import Mapping, Sequence
from typing import TypeVar

from mockup.quantity.corrections import Correction
from mockup.readings.clay import Pressed
from mockup.readings.instruments import Instrument, mean_correction

P = TypeVar("P", bound=Pressed)

DOUGH_U_MM = 0.10
"""Uncertainty added to readings in soft dough: common practice, no source."""


def thinnest_of(readings: Sequence[P]) -> P:
    """Return the thinnest touched reading, by the mean of each place; else the thickest."""
    touched = [reading for reading in readings if reading.touched]
    places: dict[str, list[float]] = {}
    for reading in touched:
        if where := reading.where:
            places.setdefault(where, []).append(reading.thickness_mm)
    if not places:
        return touched[0] if touched else readings[-1]
    mean = {where: sum(found) / len(found) for where, found in places.items()}
    return min(touched, key=lambda reading: mean.get(reading.where, reading.thickness_mm))


def thinnest_correction(readings: Sequence[Pressed], instruments: Mapping[str, Instrument]) -> Correction:
    """Return the thinnest place [mm] as the first correction; repeats count with their mean."""
    thinnest = thinnest_of(readings)
    again = [r for r in readings if r.touched == thinnest.touched and r.where and r.where == thinnest.where]
    instrument = instruments[thinnest.instrument]
    read = [reading.thickness_mm for reading in again] or [thinnest.thickness_mm]
    # A picture's uncertainty is mostly shared by the next picture, so more of them do not reduce it.
    own = max((reading.u_mm for reading in again or [thinnest]), default=0.0) or instrument.own_mm
    return mean_correction("", read, instrument.noise_mm, own)
