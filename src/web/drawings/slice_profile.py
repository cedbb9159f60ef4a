"""The thickness of a cut slice along its length, and its edges over the picture."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from mockup.quantity.shown import format_bench, format_large
from mockup.quantity.value import BENCH_UNIT, Unit

LEFT, RIGHT, TOP, LOW = 46.0, 410.0, 16.0, 112.0
EVERY = 3
SHOWN_POINTS = 90
"""How many points of an edge are drawn over its picture."""


@dataclass(frozen=True, slots=True)
class Profile:
    """The curve of thickness over the slice, its thinnest place, and both scale values.

    ``below``: the caption, with both units.
    """

    curve: str
    low_x: float
    low_y: float
    low: str
    ticks: tuple[tuple[float, str], ...]
    below: str
    label: str


def slice_profile(x_mm: list[float], thickness_mm: list[float], unit: Unit) -> Profile:
    """Return the profile of a slice: thickness [mm] at places along it [mm], at least two."""
    least, most = min(thickness_mm), max(thickness_mm)
    room = max(most - least, 0.2)
    first, length = x_mm[0], max(x_mm[-1] - x_mm[0], 1e-9)

    def at(x: float, thick: float) -> tuple[float, float]:
        across = LEFT + (RIGHT - LEFT) * (x - first) / length
        return round(across, 1), round(LOW - (LOW - TOP) * (thick - least) / room, 1)

    points = [at(x, thick) for x, thick in zip(x_mm, thickness_mm, strict=True)]
    low_x, low_y = points[thickness_mm.index(least)]
    low, top, long = format_bench(least, unit), format_bench(least + room, unit), format_large(length, unit)
    said = f"{low} to {format_bench(most, unit)} {BENCH_UNIT[unit]}"
    return Profile(
        curve=polyline(points[::EVERY] + points[-1:]),
        low_x=low_x,
        low_y=low_y,
        low=low,
        ticks=((TOP, top), (LOW, low)),
        below=f"thickness, {BENCH_UNIT[unit]}, along {long} of the slice",
        label=f"Thickness along the slice: from {said} over {long}",
    )


def few(points: Any) -> list[list[int]]:
    """Return points of an edge for drawing over its picture: not all, in whole pixels."""
    found: Sequence[Sequence[float]] = points[:: max(len(points) // SHOWN_POINTS, 1)]
    return [[round(float(x)), round(float(y))] for x, y in found]


def polyline(points: Iterable[Any]) -> str:
    """Return points in SVG notation."""
    return " ".join(f"{x:g},{y:g}" for x, y in points)
