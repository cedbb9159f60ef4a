"""The degree wheel: both readings, its own TDC, and the true TDC."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from mockup.quantity.shown import format_degrees
from mockup.readings.tdc import TdcFigure

RIM = 150.0


@dataclass(frozen=True, slots=True)
class WheelMark:
    """A graduation of the wheel; every thirtieth degree has its number."""

    x1: float
    y1: float
    x2: float
    y2: float
    tx: float
    ty: float
    words: str


@dataclass(frozen=True, slots=True)
class Ray:
    """A pointer from the hub: a reading, or true TDC."""

    kind: str
    x: float
    y: float
    tx: float
    ty: float
    words: str
    side: str


@dataclass(frozen=True, slots=True)
class DegreeWheel:
    """The whole drawing about its hub, wheel zero at the top, after TDC to the right."""

    marks: tuple[WheelMark, ...]
    rays: tuple[Ray, ...]
    span: str


def degree_wheel(figure: TdcFigure) -> DegreeWheel:
    """Return the drawing of the last pair and of the mean error."""
    last = figure.readings[-1]
    error = figure.error_deg.value
    rays = (
        _ray("reading", -last.before_deg, f"{format_degrees(last.before_deg)} before"),
        _ray("reading", last.after_deg, f"{format_degrees(last.after_deg)} after"),
        _ray("true", error, "true TDC"),
    )
    (x1, y1), (x2, y2) = _at(-last.before_deg, 96), _at(last.after_deg, 96)
    taken = (-last.before_deg, last.after_deg, error)
    marks = tuple(_mark(degrees, taken) for degrees in range(0, 360, 10))
    return DegreeWheel(marks, rays, f"M{x1},{y1} A96,96 0 0 1 {x2},{y2}")


def _at(degrees: float, radius: float) -> tuple[float, float]:
    angle = math.radians(degrees)
    return round(radius * math.sin(angle), 1), round(-radius * math.cos(angle), 1)


CLEAR_OF_RAYS_DEG = 9.0


def _mark(degrees: int, taken: Sequence[float]) -> WheelMark:
    numbered = degrees % 30 == 0
    (x1, y1), (x2, y2) = _at(degrees, RIM), _at(degrees, RIM - (12 if numbered else 6))
    covered = any(abs((degrees - ray + 180) % 360 - 180) < CLEAR_OF_RAYS_DEG for ray in taken)
    words = "" if not numbered or covered else ("TDC" if degrees == 0 else str(min(degrees, 360 - degrees)))
    return WheelMark(x1, y1, x2, y2, *_at(degrees, RIM - 26), words)


def _ray(kind: str, degrees: float, words: str) -> Ray:
    """Return a pointer with its label, on the left before TDC and on the right after it."""
    tip = _at(degrees, RIM if kind == "reading" else RIM + 4)
    x, y = _at(degrees, 52 if kind == "true" else 118)
    before = kind == "reading" and degrees < 0
    return Ray(kind, *tip, x + (-8 if before else 8), y, words, "before" if before else "after")
