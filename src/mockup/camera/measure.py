"""The thickness of a cut slice from a picture, its uncertainty, and reasons to refuse it.

Source of the budget: GUM, JCGM 100:2008, 5.1 and 4.3.7. What a picture cannot show about itself (how far reference and
cut are out of one plane, the effect of lens and camera on an edge) gets an allowance, common practice, no source, and
is tested on pictures rendered separately (docs/camera.md).
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from mockup.camera.curves import Apart, Curve, apart, through
from mockup.camera.marks import Marks
from mockup.camera.reference import Line, Plane, four_corners, two_edges
from mockup.camera.scan import Edge, Floats, Pixels, find_edge, inside, longest_run, strip
from mockup.quantity.value import MM_PER_THOU, Value, rectangular

OUT_OF_PLANE = 0.005
"""The effect on the scale of a reference 1 mm nearer to a camera 200 mm away than the cut, half-width."""
LENS = 0.003
"""The distortion a phone's lens leaves between two places of a picture: of the scale, half-width."""
EDGE_OF_BLUR = 0.15
"""The error of an edge as a share of its blur, since cameras sharpen and bend the tones, half-width."""
SQUARE = 0.005
"""For a square measured one way only: the printer's error the other way, half-width as a share of it."""
TILT_DEG = 10.0
CAMERA_MM = 150.0
"""The camera assumed where two edges cannot show it: its tilt off square, and its least distance."""

MOST_TILT_DEG = 15.0
MOST_SLANT_DEG = 25.0
MOST_TWIST_DEG = 2.0
MOST_BLUR_PX, MOST_BLUR_MM = 4.0, 0.12
LEAST_STRENGTH = 6.0
LEAST_KEPT = 0.75
MOST_HIDDEN = 0.08
"""The longest stretch of a slice in which an edge may be hidden."""
MOST_SCATTER_MM = 0.08
MOST_RIVAL = 0.75
UNLIKE_BLUR, UNLIKE_BLUR_PX = 1.9, 1.2
LEAST_PX_PER_MM = 12.0
MOST_U_MM = 0.13
"""The largest U accepted, 5 thou: a caliper on soft clay does as well."""
ENDS = 0.02


class Cause(StrEnum):
    """The sources of the u of a thickness from a picture."""

    ROUGH = "how rough the edges are"
    SHARP = "how sharp the edges of the clay are"
    REFERENCE = "the reference"
    PLANES = "camera and planes"


@dataclass(frozen=True, slots=True)
class Share:
    """One part of that u: its source, and its standard uncertainty [mm]."""

    of: Cause
    u: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Seen:
    """The result of measuring a picture.

    ``thickness`` [mm] is None where it cannot be measured honestly.

    ``refused``: the reason, in words. ``cautions``: what a person must know about it. ``parts``: of its u [mm].
    ``edges``: its two edges as found, each shape (lines, 2) [px]; ``sides``: those of the reference. ``thinnest``: the
    two ends of the thinnest place, shape (2, 2) [px]. ``apart``: thickness along the slice.
    """

    thickness: Value | None = None
    refused: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    parts: tuple[Share, ...] = ()
    edges: tuple[Floats, ...] = ()
    sides: tuple[Floats, ...] = ()
    thinnest: Floats | None = None
    apart: Apart | None = None
    px_per_mm: float = 0.0
    tilt_deg: float | None = None
    blur_px: float = 0.0


def measure(picture: Pixels, marks: Marks) -> Seen:
    """Measure a picture, shape (height, width, 3) in 8 bits of sRGB, by its marks.

    Refusals are in the result.
    """
    reference, ends = np.array(marks.reference, float), np.array(marks.ends, float)
    if not inside(picture, np.vstack([reference, ends])):
        return Seen(refused=("A mark lies outside of the picture.",))
    try:
        plane = _plane(picture, reference, marks)
    except (ValueError, np.linalg.LinAlgError):
        return Seen(refused=("The marks of the reference lie too near each other, or in a line. Mark it again.",))
    sides = tuple(line.edge.points for line in plane.lines)
    not_found = tuple(_not_straight(plane.lines))
    if not_found:
        return Seen(refused=not_found, sides=sides)
    try:
        edges = _edges(picture, ends, marks.reach_px)
        curves, start, end, axes = _curves(plane, edges, ends)
    except ValueError:
        return Seen(refused=("The slice is marked too short: put its ends further apart.",), sides=sides)
    found = apart(curves[0], curves[1], start, end)
    thinnest_mm = np.array([found.first, found.second]) @ axes
    thinnest = plane.px(thinnest_mm)
    scale = plane.px_per_mm(thinnest.mean(axis=0))
    refused = [*_unclear(edges, curves, scale[1]), *_out_of_plane(plane, edges, thinnest)]
    parts = tuple(_parts(plane, marks, curves, edges, found, thinnest))
    u = math.sqrt(sum(part.u**2 for part in parts))
    if not refused and 2 * u > MOST_U_MM:
        refused.append(
            f"U would be {2 * u:.2f} mm ({2 * u / MM_PER_THOU:.0f} thou), mostly by "
            f"{max(parts, key=lambda part: part.u).of}: a caliper does as well."
        )
    ends_words = ("It is thinnest where the marks end: mark further if the slice goes on.",) if found.at_an_end else ()
    return Seen(
        thickness=None if refused else Value(found.thinnest_mm, u),
        refused=tuple(refused),
        cautions=ends_words,
        parts=parts,
        edges=tuple(edge.points for edge in edges),
        sides=sides,
        thinnest=thinnest,
        apart=found,
        px_per_mm=math.sqrt(scale[0] * scale[1]),
        tilt_deg=plane.tilt_deg(thinnest.mean(axis=0)) if plane.along is None else None,
        blur_px=max(edge.blur_px for edge in edges),
    )


def _plane(picture: Pixels, reference: Floats, marks: Marks) -> Plane:
    if len(reference) == 2:
        return two_edges(picture, list(reference), marks.length_mm)
    return four_corners(picture, list(reference), marks.length_mm, marks.across_mm or marks.length_mm)


def _edges(picture: Pixels, ends: Floats, reach_px: float) -> tuple[Edge, Edge]:
    """Return the edges on both sides of the middle of the slice."""
    return (
        find_edge(strip(picture, ends[0], ends[1], -reach_px, -1.0)),
        find_edge(strip(picture, ends[0], ends[1], 1.0, reach_px)),
    )


def _curves(plane: Plane, edges: Sequence[Edge], ends: Floats) -> tuple[tuple[Curve, Curve], float, float, Floats]:
    """Return both edges as curves over the slice's middle [mm], their range and their axes."""
    start, end = plane.mm(ends)
    along = (end - start) / max(float(np.hypot(*(end - start))), 1e-9)
    axes = np.array([along, (-along[1], along[0])])
    one, other = (through(plane.mm(edge.points) @ axes.T) for edge in edges)
    first, last = float(start @ along), float(end @ along)
    spare = ENDS * (last - first)
    return (one, other), first + spare, last - spare, axes


def _not_straight(lines: Sequence[Line]) -> Iterator[str]:
    for number, line in enumerate(lines, start=1):
        name = f"Edge {number} of the reference"
        if line.edge.strength < LEAST_STRENGTH:
            yield f"{name} does not stand out from what is behind it. Put it on a ground of another colour."
        elif line.kept < LEAST_KEPT or line.scatter_px > max(2.0, 0.8 * line.edge.blur_px):
            yield f"{name} was not found as one straight line near its mark. Mark it nearer, or clean it."
        elif line.edge.wide_px > MOST_BLUR_PX:
            yield f"{name} is blurred over {line.edge.wide_px:.0f} pixels. Hold still, or move back a little."
    if len(lines) == 2:
        twist = _between_deg(lines[0].way, lines[1].way)
        if twist > MOST_TWIST_DEG:
            yield f"The two edges of the reference are {twist:.0f}° off parallel: it lies askew, or is not one thing."


def _between_deg(one: Floats, other: Floats) -> float:
    """Return the angle between two directions regardless of their sense [deg], 0 to 90."""
    return math.degrees(math.acos(min(abs(float(one @ other)) / float(np.hypot(*one) * np.hypot(*other)), 1.0)))


def _unclear(edges: Sequence[Edge], curves: Sequence[Curve], px_per_mm: float) -> Iterator[str]:
    if px_per_mm < LEAST_PX_PER_MM:
        yield f"{px_per_mm:.0f} pixels a millimetre are too few. Go nearer: {LEAST_PX_PER_MM:.0f} at least."
    for name, edge, curve in zip(("The one edge", "The other edge"), edges, curves, strict=True):
        if edge.strength < LEAST_STRENGTH:
            yield f"{name} of the clay does not stand out from what is behind it. Use a ground of another colour."
        elif curve.kept < LEAST_KEPT or curve.scatter_mm > MOST_SCATTER_MM or _hidden(edge, curve) > MOST_HIDDEN:
            yield f"{name} of the clay is not one line: something lies over it, or it crumbled. Cut it again."
        elif edge.rival > MOST_RIVAL:
            yield f"Beside {name.lower()} of the clay runs another, as strong: a shadow? Light it from both sides."
        if edge.wide_px > min(MOST_BLUR_PX, MOST_BLUR_MM * px_per_mm):
            yield f"{name} of the clay is blurred over {edge.wide_px:.0f} pixels. Hold still, or move back a little."


def _hidden(edge: Edge, curve: Curve) -> float:
    """Return the longest stretch in which an edge is hidden or off its curve, a share [1]."""
    return max(longest_run(edge.faint) / len(edge.faint), curve.left_out)


def _out_of_plane(plane: Plane, edges: Sequence[Edge], thinnest: Floats) -> Iterator[str]:
    sharp = max(float(np.median([line.edge.wide_px for line in plane.lines])), 0.3)
    clay = max(float(np.mean([edge.wide_px for edge in edges])), 0.3)
    if max(sharp, clay) > UNLIKE_BLUR * min(sharp, clay) and abs(sharp - clay) > UNLIKE_BLUR_PX:
        blurred = "reference" if sharp > clay else "clay"
        yield f"The {blurred} is out of focus and the other is not: they are not in one plane. Put them level."
    if plane.along is None:
        tilt = plane.tilt_deg(thinnest.mean(axis=0))
        if tilt > MOST_TILT_DEG:
            yield f"The camera looks {tilt:.0f}° off square, or the reference lies askew. Up to {MOST_TILT_DEG:.0f}°."
        return
    slant = _between_deg(plane.along, thinnest[1] - thinnest[0])
    if slant > MOST_SLANT_DEG:
        yield (
            f"The reference is measured {slant:.0f}° askew of the clay’s thickness. Turn it so that both are measured "
            "the same way, or use four corners."
        )


def _parts(
    plane: Plane, marks: Marks, curves: Sequence[Curve], edges: Sequence[Edge], found: Apart, thinnest: Floats
) -> Iterator[Share]:
    """Yield the parts of a thickness's u, standard uncertainties [mm]."""
    thick = found.thinnest_mm
    mm_per_px = 1 / plane.px_per_mm(thinnest.mean(axis=0))[1]
    yield Share(Cause.ROUGH, math.hypot(*(curve.u_mm() for curve in curves)))
    # Both edges have the same error, so it counts twice.
    off = sum(rectangular(EDGE_OF_BLUR * max(edge.blur_px, 0.7)) for edge in edges) * mm_per_px
    yield Share(Cause.SHARP, off)
    moved = [float(np.hypot(*np.diff(plane.mm(thinnest, one), axis=0)[0])) - thick for one in plane.turned]
    blurred = 2 * rectangular(EDGE_OF_BLUR * max(float(np.mean([line.edge.blur_px for line in plane.lines])), 0.7))
    own = math.hypot(marks.u_mm, blurred * mm_per_px) / min(marks.length_mm, marks.across_mm or marks.length_mm)
    other_way = rectangular(SQUARE) if plane.along is None and not marks.across_mm else 0.0
    yield Share(Cause.REFERENCE, math.hypot(*moved, own * thick, other_way * thick))
    planes = math.hypot(rectangular(OUT_OF_PLANE), rectangular(LENS), _seen_askew(plane, thinnest))
    yield Share(Cause.PLANES, thick * planes)


def _seen_askew(plane: Plane, thinnest: Floats) -> float:
    """Return the standard uncertainty of the scale by a tilt two edges cannot show [1]."""
    if plane.along is None:
        return 0.0
    slant = math.radians(_between_deg(plane.along, thinnest[1] - thinnest[0]))
    turned = (1 - math.cos(math.radians(TILT_DEG))) * math.sin(slant)
    away_mm = float(np.hypot(*(plane.mm(thinnest).mean(axis=0) - plane.mm(plane.middle[None])[0])))
    nearer = away_mm * math.sin(math.radians(TILT_DEG)) / CAMERA_MM
    return math.hypot(rectangular(turned), rectangular(nearer))
