"""The scale of a picture, from two edges a known length apart or four corners.

Four corners give a homography (Hartley and Zisserman, Multiple View Geometry, 2.3), and with it the tilt of the camera;
two edges give one scale, valid along their own direction and beside them.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from mockup.camera.scan import Edge, Floats, Pixels, find_edge, strip

SIDE_SEEN = (0.1, 0.9)
"""The part of a rectangle's side on which its edge is searched, since corners are round."""
NEAR_SIDE = 0.07
"""How far its edge may be from a marked side, as a share of the side."""
LINE_WITHIN = 3.0


@dataclass(frozen=True, slots=True)
class Line:
    """A straight edge: a point on it and its unit direction, both shape (2,) [px].

    ``scatter_px``: standard deviation of its points about it [px]. ``kept``: share of them that fit it [1].
    """

    at: Floats
    way: Floats
    scatter_px: float
    kept: float
    edge: Edge

    @property
    def normal(self) -> Floats:
        """The unit normal, shape (2,)."""
        return np.array([-self.way[1], self.way[0]])


@dataclass(frozen=True, slots=True)
class Plane:
    """From picture to plane of the cut: ``matrix`` (3, 3) takes x, y, 1 [px] to millimetres.

    ``turned``: the same with each of its edges moved by its own u, for their effect on U; shape (any, 3, 3). ``along``:
    the direction of the reference in the picture, shape (2,), None where it has both directions. ``middle``: of the
    reference [px].
    """

    matrix: Floats
    turned: Floats
    along: Floats | None
    middle: Floats
    lines: tuple[Line, ...]

    def mm(self, points: Floats, matrix: Floats | None = None) -> Floats:
        """Return points of the picture [px], shape (count, 2), in the plane [mm]."""
        used = self.matrix if matrix is None else matrix
        whole = np.column_stack([points, np.ones(len(points))]) @ used.T
        found: Floats = whole[:, :2] / whole[:, 2:]
        return found

    def px(self, points_mm: Floats) -> Floats:
        """Return points of the plane, shape (count, 2) [mm], in the picture [px]."""
        return self.mm(points_mm, np.asarray(np.linalg.inv(self.matrix), float))

    def px_per_mm(self, at: Floats) -> tuple[float, float]:
        """Return the largest and the smallest scale at a place of the picture [px/mm], by direction."""
        step = np.asarray(at, float) + np.array([(0.0, 0.0), (1.0, 0.0), (0.0, 1.0)])
        mm = self.mm(step)
        sizes = np.linalg.svd(np.stack([mm[1] - mm[0], mm[2] - mm[0]]), compute_uv=False)
        return 1 / float(sizes[1]), 1 / float(sizes[0])

    def tilt_deg(self, at: Floats) -> float:
        """Return the camera's tilt to the plane, off square [deg], from the foreshortening."""
        largest, smallest = self.px_per_mm(at)
        return math.degrees(math.acos(min(smallest / largest, 1.0)))


def straight(edge: Edge) -> Line:
    """Return a line through the points of an edge, without the outliers."""
    points = edge.points
    kept = np.ones(len(points), bool)
    for _ in range(6):
        middle = points[kept].mean(axis=0)
        way = np.linalg.svd(points[kept] - middle, full_matrices=False)[2][0]
        off = (points - middle) @ np.array([-way[1], way[0]])
        scatter = max(1.4826 * float(np.median(np.abs(off[kept]))), 0.02)
        kept = np.abs(off) <= LINE_WITHIN * scatter
    return Line(middle, way, float(np.std(off[kept])), float(kept.mean()), edge)


def two_edges(picture: Pixels, marks: Sequence[Floats], length_mm: float) -> Plane:
    """Return the scale from two edges, each marked by a point near it [px], ``length_mm`` apart.

    Raises ValueError where they are too close to each other.
    """
    first, second = (np.asarray(one, float) for one in marks)
    apart = float(np.hypot(*(second - first)))
    way = (second - first) / max(apart, 1e-9)
    reach = max(0.16 * apart, 8.0)
    half = float(np.clip(0.3 * apart, 16.0, 400.0))
    lines = []
    for at in (first, second):
        across = np.array([way[1], -way[0]])
        found = straight(find_edge(strip(picture, at - half * across, at + half * across, -reach, reach)))
        # Searched again square to the edge, since a slanting edge looks blurred.
        across = found.way if found.way @ across > 0 else -found.way
        near = at + ((found.at - at) @ found.normal) * found.normal
        lines.append(straight(find_edge(strip(picture, near - half * across, near + half * across, -reach, reach))))
    normal = lines[0].normal + lines[1].normal * np.sign(lines[0].normal @ lines[1].normal)
    normal = normal / np.hypot(*normal)
    between = abs(float((lines[1].at - lines[0].at) @ normal))
    off = math.hypot(*(_edge_u(line) for line in lines))
    scales = np.array([length_mm / max(between + more, 1e-9) for more in (0.0, off)])
    matrices = np.array([np.diag([one, one, 1.0]) for one in scales])
    return Plane(matrices[0], matrices[1:], normal, (lines[0].at + lines[1].at) / 2, tuple(lines))


def four_corners(picture: Pixels, marks: Sequence[Floats], length_mm: float, across_mm: float) -> Plane:
    """Return the plane from four corners of a rectangle [px]; the first side is ``length_mm``.

    Raises ValueError where a side is too short, or two of them do not meet.
    """
    corners = np.array([np.asarray(one, float) for one in marks])
    lines = []
    for at in range(4):
        start, end = corners[at], corners[(at + 1) % 4]
        way = end - start
        reach = max(NEAR_SIDE * float(np.hypot(*way)), 6.0)
        low, high = (start + share * way for share in SIDE_SEEN)
        lines.append(straight(find_edge(strip(picture, low, high, -reach, reach))))
    known = np.array([(0, 0), (length_mm, 0), (length_mm, across_mm), (0, across_mm)], float)
    matrix = _homography(_meeting(lines), known)
    turned = []
    for at in range(4):
        moved = (_shifted(lines[at]), _rotated(lines[at]))
        turned += [_homography(_meeting([*lines[:at], one, *lines[at + 1 :]]), known) for one in moved]
    return Plane(matrix, np.array(turned), None, corners.mean(axis=0), tuple(lines))


def _edge_u(line: Line) -> float:
    """Return the standard uncertainty of a line's position [px].

    Its points are correlated and count as a quarter of their number.
    """
    return line.scatter_px / math.sqrt(max(len(line.edge.points) * line.kept / 4, 1.0)) + 0.02


def _shifted(line: Line) -> Line:
    return Line(line.at + _edge_u(line) * line.normal, line.way, line.scatter_px, line.kept, line.edge)


def _rotated(line: Line) -> Line:
    span = float(np.ptp(line.edge.points @ line.way))
    turn = _edge_u(line) * math.sqrt(12) / max(span, 1.0)
    way = line.way + turn * line.normal
    return Line(line.at, way / np.hypot(*way), line.scatter_px, line.kept, line.edge)


def _meeting(lines: Sequence[Line]) -> Floats:
    """Return where each side meets the one before it: the corners, shape (4, 2) [px].

    Raises ValueError.
    """
    found = []
    for at in range(4):
        one, other = lines[at - 1], lines[at]
        both = np.array([one.way, -other.way]).T
        if abs(np.linalg.det(both)) < 0.2:
            raise ValueError("two sides do not meet")
        found.append(one.at + np.linalg.solve(both, other.at - one.at)[0] * one.way)
    return np.array(found)


def _homography(seen: Floats, known: Floats) -> Floats:
    """Return the matrix that takes four points [px] to four known ones [mm]."""
    rows, right = [], []
    for (x, y), (u, v) in zip(seen, known, strict=True):
        rows += [[x, y, 1, 0, 0, 0, -u * x, -u * y], [0, 0, 0, x, y, 1, -v * x, -v * y]]
        right += [u, v]
    found: Floats = np.append(np.linalg.solve(np.array(rows), np.array(right)), 1.0).reshape(3, 3)
    return found
