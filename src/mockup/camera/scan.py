"""Edges in a picture to a fraction of a pixel: the strongest path of steepest change.

Works on linear light: a camera codes its picture for the eye (sRGB, IEC 61966-2-1), and in the code the steepest place
of a blurred edge is shifted toward the dark side. Pixels are counted from the middle of the top left one, x right, y
down.
"""

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy import ndimage

Pixels = npt.NDArray[np.uint8]
"""A picture, shape (height, width, 3)."""
Floats = npt.NDArray[np.float64]
"""Numbers; for points shape (count, 2), each x, y [px]."""

SMOOTHED_PX = 1.5
"""Standard deviation of the smoothing along a scan line [px]."""
STEEPEST_STEP = 2
"""The most offsets an edge's path moves from one scan line to the next [1]."""
BENDS_COST = 0.12
"""The cost of a sideways step of a path, as a share of the strip's strongest change [1]."""
FAINT = 0.4
"""A scan line with less than this share of an edge's usual change hardly shows it [1]."""
CLEAR_OF, MOST_SPREAD_PX = 3.5, 20.0
"""An edge has no effect this many of its standard deviations away, and is never wider than this."""
LEAST_CLEAR, NEIGHBOURS = 0.2, 4
ALONG_LINES = 6.0
"""Standard deviation of the smoothing of an edge's path, for averaging its lines [1]."""
FULL_AT_HALF = 2.3548
"""Full width at half maximum of a Gaussian, in standard deviations [1]."""
MOST_LINES = 600
LEAST_LINES = 12
_CODE = np.arange(256) / 255
LINEAR = np.where(_CODE <= 0.04045, _CODE / 12.92, ((_CODE + 0.055) / 1.055) ** 2.4).astype(np.float32)
"""Light of each of 256 codes, 0 to 1 [1]: sRGB, IEC 61966-2-1."""


@dataclass(frozen=True, slots=True)
class Strip:
    """Scan lines across a straight line of a picture: ``light``, shape (lines, offsets, 3).

    Line i begins at ``begin`` + i ``along`` and its offset j is j ``across`` further, all shape (2,) [px].
    """

    light: Floats
    begin: Floats
    along: Floats
    across: Floats

    def points(self, offsets: Floats) -> Floats:
        """Return the places in the picture of offsets, one for each scan line [px]."""
        lines = np.arange(len(offsets))
        found: Floats = self.begin + lines[:, None] * self.along + offsets[:, None] * self.across
        return found


@dataclass(frozen=True, slots=True)
class Edge:
    """One edge as found: ``points`` [px], one for each scan line, shape (lines, 2).

    ``blur_px``: standard deviation of the blur across it [px], from its lines one by one; ``wide_px``: from all of them
    together, which noise cannot make look sharper than it is. ``strength``: its change relative to the noise of the
    picture [1]. ``rival``: the next best path's change as a share of its own, 0 to 1 [1]. ``faint``: which scan lines
    hardly show it, shape (lines,).
    """

    points: Floats
    blur_px: float
    wide_px: float
    strength: float
    rival: float
    faint: npt.NDArray[np.bool_]


def strip(picture: Pixels, start: Floats, end: Floats, first_px: float, last_px: float) -> Strip:
    """Return scan lines across ``start`` to ``end`` [px], offset ``first_px`` to ``last_px``.

    Offsets grow to the right of the direction from start to end, as seen on the screen. Raises ValueError where it is
    too short.
    """
    way = np.asarray(end, float) - start
    length = float(np.hypot(*way))
    if length < LEAST_LINES or last_px - first_px < LEAST_LINES / 2:
        raise ValueError("too short to look at")
    count = int(min(max(length, LEAST_LINES), MOST_LINES))
    across = np.array([-way[1], way[0]]) / length
    along = way / (count - 1)
    begin = np.asarray(start, float) + first_px * across
    offsets = np.arange(int(last_px - first_px) + 1)
    x = begin[0] + np.arange(count)[:, None] * along[0] + offsets * across[0]
    y = begin[1] + np.arange(count)[:, None] * along[1] + offsets * across[1]
    return Strip(_light_at(picture, x, y), begin, along, across)


def _light_at(picture: Pixels, x: Floats, y: Floats) -> Floats:
    height, width = picture.shape[:2]
    left, top = (int(np.clip(np.floor(one.min()) - 1, 0, most - 2)) for one, most in ((x, width), (y, height)))
    right, low = (int(np.clip(np.ceil(one.max()) + 2, 2, most)) for one, most in ((x, width), (y, height)))
    part = LINEAR[picture[top : max(low, top + 2), left : max(right, left + 2)]]
    at = np.stack([y - top, x - left])
    channels = [ndimage.map_coordinates(part[..., one], at, order=1, mode="nearest") for one in range(3)]
    return np.stack(channels, axis=-1).astype(float)


def inside(picture: Pixels, points: Floats) -> bool:
    """Return whether points, shape (count, 2) [px], are in the picture."""
    height, width = picture.shape[:2]
    return bool(np.all((points >= 0) & (points <= (width - 1, height - 1))))


def find_edge(seen: Strip) -> Edge:
    """Return the edge along a strip: the strongest path of steepest change."""
    steep = ndimage.gaussian_filter1d(seen.light, SMOOTHED_PX, axis=1, order=1)
    steep = ndimage.gaussian_filter1d(steep, 1.0, axis=0)
    size = np.linalg.norm(steep, axis=2)
    path = _strongest(size)
    lines = np.arange(len(path))
    # Projected on the colour direction of this edge, noise is not squared and does not add up.
    way = np.median(steep[lines, path], axis=0)
    way = way / max(float(np.linalg.norm(way)), 1e-12)
    change = steep @ way
    fine, spread = _peak(change, path)
    rival = _rival(size, path, spread)
    noise = _noise(change, path, spread) + 1e-9
    along = np.maximum(ndimage.uniform_filter1d(change[lines, path], 3), 0.0)
    peak = float(np.median(along))
    blur = float(np.sqrt(max(spread**2 - SMOOTHED_PX**2, 0.0)))
    wide = max(blur, _wide(change, path))
    return Edge(seen.points(fine), blur, wide, peak / noise, rival, along < FAINT * peak)


def _wide(change: Floats, path: npt.NDArray[np.intp]) -> float:
    """Return the blur of an edge [px] from all its lines, averaged along its smoothed path."""
    smooth = ndimage.gaussian_filter1d(ndimage.median_filter(path.astype(float), 9, mode="nearest"), ALONG_LINES)
    about = np.arange(-change.shape[1], change.shape[1] + 1)
    lines = np.repeat(np.arange(len(path))[:, None], len(about), axis=1)
    laid = ndimage.map_coordinates(change, [lines, smooth[:, None] + about], order=1, mode="constant", cval=np.nan)
    there = np.isfinite(laid).mean(axis=0) > 0.5
    profile, at = np.nanmean(laid[:, there], axis=0), about[there]
    top = int(np.argmax(profile))
    low = profile < profile[top] / 2
    left, right = (np.flatnonzero(one) for one in (low[:top][::-1], low[top:]))
    # Where it does not fall to half, the edge is at least as wide as the visible part.
    half = [float(left[0]) if len(left) else float(top + 1), float(right[0]) if len(right) else float(len(at) - top)]
    spread = (sum(half) - 1) / FULL_AT_HALF
    return math.sqrt(max(spread**2 - SMOOTHED_PX**2, 0.0))


def _noise(change: Floats, path: npt.NDArray[np.intp], spread: float) -> float:
    """Return the standard deviation of the change along a line away from edges: the noise.

    Where an edge fills its strip, it is the difference between neighbouring scan lines.
    """
    clear = np.abs(np.arange(change.shape[1]) - path[:, None]) > CLEAR_OF * min(spread, MOST_SPREAD_PX)
    if clear.mean() >= LEAST_CLEAR:
        return 1.4826 * float(np.median(np.abs(change[clear])))
    apart = change[NEIGHBOURS:] - change[:-NEIGHBOURS]
    return 1.4826 * float(np.median(np.abs(apart))) / math.sqrt(2)


def _strongest(size: Floats) -> npt.NDArray[np.intp]:
    """Return the path with the largest sum of ``size`` (lines, offsets), one offset a line."""
    worst = BENDS_COST * float(size.max())
    best = size[0].copy()
    came = np.zeros(size.shape, np.intp)
    steps = range(-STEEPEST_STEP, STEEPEST_STEP + 1)
    padded = np.full(size.shape[1] + 2 * STEEPEST_STEP, -np.inf)
    for line in range(1, len(size)):
        padded[STEEPEST_STEP:-STEEPEST_STEP] = best
        options = np.stack(
            [padded[STEEPEST_STEP + one : STEEPEST_STEP + one + size.shape[1]] - abs(one) * worst for one in steps]
        )
        chosen = options.argmax(axis=0)
        came[line] = chosen - STEEPEST_STEP
        best = options[chosen, np.arange(size.shape[1])] + size[line]
    path = np.empty(len(size), np.intp)
    path[-1] = int(best.argmax())
    for line in range(len(size) - 1, 0, -1):
        path[line - 1] = path[line] + came[line, path[line]]
    return path


def _peak(change: Floats, path: npt.NDArray[np.intp]) -> tuple[Floats, float]:
    """Return the peaks near a path to a fraction of an offset, and their width [px]."""
    lines, most = np.arange(len(path)), change.shape[1] - 2
    near = np.stack([np.clip(path + one, 0, most + 1) for one in (-2, -1, 0, 1, 2)])
    at = np.clip(near[np.take_along_axis(change.T, near, axis=0).argmax(axis=0), lines], 1, most)
    before, here, after = (np.log(np.maximum(change[lines, at + one], 1e-9)) for one in (-1, 0, 1))
    bend = before - 2 * here + after
    bent = bend < -1e-6
    off = np.where(bent, np.clip(0.5 * (before - after) / np.where(bent, bend, -1.0), -1, 1), 0.0)
    found = -1 / np.median(bend[bent]) if bent.any() else 1e4
    return at + off, float(np.sqrt(found))


def longest_run(these: npt.NDArray[np.bool_]) -> int:
    """Return the length of the longest run of True in flags of shape (any,) [1]."""
    ends = np.flatnonzero(np.diff(np.concatenate([[False], these, [False]]).astype(np.int8)))
    return int((ends[1::2] - ends[::2]).max(initial=0))


def _rival(size: Floats, path: npt.NDArray[np.intp], spread: float) -> float:
    """Return the strength of the next best path away from the best one, as a share of it [1]."""
    clear = CLEAR_OF * min(max(spread, SMOOTHED_PX), MOST_SPREAD_PX)
    off = np.abs(np.arange(size.shape[1]) - path[:, None])
    other = np.where(off > clear, size, 0.0)
    lines = np.arange(len(path))
    second = _strongest(other)
    return float(np.median(other[lines, second]) / max(np.median(size[lines, path]), 1e-12))
