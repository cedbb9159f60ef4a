"""How thick a cut slice is along its length, as it was measured in a picture; and its edges over that picture."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from mockup.quantity.shown import format_bench
from mockup.quantity.value import Unit

LEFT, RIGHT, TOP, LOW = 46.0, 410.0, 16.0, 112.0
EVERY = 3


@dataclass(frozen=True, slots=True)
class Profile:
    """The curve of thickness over the slice, its thinnest place, and the two thicknesses its scale says."""

    curve: str
    low_x: float
    low_y: float
    low: str
    ticks: tuple[tuple[float, str], ...]
    long: str
    label: str


def slice_profile(x_mm: Sequence[float], thickness_mm: Sequence[float], unit: Unit) -> Profile:
    """The profile of a slice: thickness [mm] at places along it [mm], at least two."""
    least, most = min(thickness_mm), max(thickness_mm)
    room = max(most - least, 0.2)
    first, length = x_mm[0], max(x_mm[-1] - x_mm[0], 1e-9)

    def at(x: float, thick: float) -> tuple[float, float]:
        across = LEFT + (RIGHT - LEFT) * (x - first) / length
        return round(across, 1), round(LOW - (LOW - TOP) * (thick - least) / room, 1)

    points = [at(x, thick) for x, thick in zip(x_mm, thickness_mm, strict=True)]
    place = thickness_mm.index(least) if isinstance(thickness_mm, list) else list(thickness_mm).index(least)
    low = format_bench(least, unit)
    long = f"{length / 25.4:.2f} in" if unit is Unit.INCH else f"{length:.1f} mm"
    top = format_bench(least + room, unit)
    return Profile(
        curve=polyline(points[::EVERY] + points[-1:]),
        low_x=points[place][0],
        low_y=points[place][1],
        low=low,
        ticks=((TOP, top), (LOW, low)),
        long=long,
        label=f"Thickness along the slice: from {low} to {format_bench(most, unit)} over {long}",
    )


def polyline(points: Iterable[Any]) -> str:
    """Points as the marks of SVG have them."""
    return " ".join(f"{x:g},{y:g}" for x, y in points)
