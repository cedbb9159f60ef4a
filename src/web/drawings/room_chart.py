"""Two levers on one map: the clear region, lines of equal margin, what bounds it."""

import json
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace

import numpy as np

from mockup.plans.levers import Lever
from mockup.plans.room_map import Line, RoomMap
from mockup.quantity.shown import format_margin
from mockup.quantity.value import MM_PER_THOU, Unit

LEFT, RIGHT, TOP, BOTTOM = 70.0, 614.0, 14.0, 400.0
MOST_LINES = 6
MOST_EDGES = 4
LETTER, LINE, MOST_MOVES = 7.0, 15.0, 8
"""The size of a letter and of a line of text [px], and by how many lines a label may be moved."""
Amount = Callable[[Lever, float, Unit], str]


@dataclass(frozen=True, slots=True)
class Tick:
    """A round amount on an axis."""

    at: float
    words: str


@dataclass(frozen=True, slots=True)
class Labelled:
    """A label on the map, and its direction."""

    x: float
    y: float
    words: str
    anchor: str = "middle"


@dataclass(frozen=True, slots=True)
class Contour:
    """A line of equal margin."""

    path: str
    label: Labelled


@dataclass(frozen=True, slots=True)
class RoomChart:
    """The whole map: ``clear`` the region's cells as a path, ``data`` every point as JSON."""

    clear: str
    edge: tuple[str, ...]
    contours: tuple[Contour, ...]
    setters: tuple[Labelled, ...]
    across: tuple[Tick, ...]
    up: tuple[Tick, ...]
    now_x: float
    now_y: float
    nearest: tuple[float, float] | None
    data: str


class _Scale:
    def __init__(self, found: RoomMap) -> None:
        self.x0, self.x1 = float(found.x[0]), float(found.x[-1])
        self.y0, self.y1 = float(found.y[0]), float(found.y[-1])

    def x(self, amount: float) -> float:
        return round(LEFT + (amount - self.x0) / (self.x1 - self.x0) * (RIGHT - LEFT), 1)

    def y(self, amount: float) -> float:
        return round(BOTTOM - (amount - self.y0) / (self.y1 - self.y0) * (BOTTOM - TOP), 1)

    def path(self, line: Line) -> str:
        return "M" + " L".join(f"{self.x(x):g},{self.y(y):g}" for x, y in line.points)


def room_chart(found: RoomMap, unit: Unit, amount: Amount) -> RoomChart:
    """Return the drawing of a map; ``amount`` puts an amount of a lever into words."""
    to = _Scale(found)
    nearest = found.nearest
    return RoomChart(
        clear=_cells(found, to),
        edge=tuple(to.path(line) for line in found.region()),
        contours=tuple(_contours(found, to, unit)),
        setters=tuple(_setters(found, to)),
        across=tuple(_ticks(found.across, to.x, (to.x0, to.x1), unit, amount)),
        up=tuple(_ticks(found.up, to.y, (to.y0, to.y1), unit, amount)),
        now_x=to.x(0.0),
        now_y=to.y(0.0),
        nearest=(to.x(nearest[0]), to.y(nearest[1])) if nearest and nearest != (0.0, 0.0) else None,
        data=_data(found, unit, amount),
    )


def _cells(found: RoomMap, to: _Scale) -> str:
    """Return the clear cells, row by row, each run as one strip."""
    half_x, half_y = (np.ptp(values) / (len(values) - 1) / 2 for values in (found.x, found.y))
    strips = []
    for row, cells in enumerate(found.clear):
        edges = np.flatnonzero(np.diff(np.concatenate([[0], cells.astype(int), [0]])))
        for first, last in zip(edges[::2], edges[1::2], strict=True):
            left = max(float(found.x[first] - half_x), to.x0)
            right = min(float(found.x[last - 1] + half_x), to.x1)
            low = max(float(found.y[row] - half_y), to.y0)
            high = min(float(found.y[row] + half_y), to.y1)
            strips.append(f"M{to.x(left):g},{to.y(low):g} H{to.x(right):g} V{to.y(high):g} H{to.x(left):g}Z")
    return " ".join(strips)


def _levels(found: RoomMap, unit: Unit) -> list[float]:
    """Return round margins that cross the map, a few lines in all [mm]."""
    known = found.margin[np.isfinite(found.margin)]
    if not known.size:
        return []
    low, high = float(np.quantile(known, 0.02)), float(known.max())
    per, steps = (
        (MM_PER_THOU, (1, 2, 5, 10, 20, 50, 100, 200))
        if unit is Unit.INCH
        else (1.0, (0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5))
    )
    step = next((one * per for one in steps if (high - low) / (one * per) <= MOST_LINES), steps[-1] * per)
    return [at * step for at in range(int(np.ceil(low / step)), int(np.floor(high / step)) + 1)]


def _contours(found: RoomMap, to: _Scale, unit: Unit) -> Iterable[Contour]:
    levels = _levels(found, unit)
    for at, level in enumerate(levels, start=1):
        lines = [line for line in found.contour(level) if len(line.points) > 2]
        if not lines:
            continue
        longest = max(lines, key=lambda line: len(line.points))
        # Each label further along than the last, so that close lines do not overlap.
        x, y = longest.points[len(longest.points) * at // (len(levels) + 1)]
        words = format_margin(level, unit)
        yield Contour(" ".join(to.path(line) for line in lines), Labelled(to.x(x), to.y(y), words))


def _setters(found: RoomMap, to: _Scale) -> Iterable[Labelled]:
    """Yield what sets each part of the edge, labelled there, or as near as no other label is."""
    placed: list[Labelled] = []
    for edge in found.edges()[:MOST_EDGES]:
        x, y = to.x(edge.x), to.y(edge.y)
        right = x > (LEFT + RIGHT) / 2
        wanted = Labelled(x, min(max(y, TOP + 10), BOTTOM - 6), edge.check.label, "end" if right else "start")
        moves = sorted(range(-MOST_MOVES, MOST_MOVES + 1), key=abs)
        free = (replace(wanted, y=wanted.y + move * LINE) for move in moves)
        fitting = (one for one in free if TOP + 10 <= one.y <= BOTTOM - 6 and not any(_meet(one, by) for by in placed))
        placed.append(next(fitting, wanted))
    return placed


def _meet(one: Labelled, other: Labelled) -> bool:
    """Return whether two labels overlap, by the size of their letters."""

    def ends(label: Labelled) -> tuple[float, float]:
        width = len(label.words) * LETTER
        return (label.x - width, label.x) if label.anchor == "end" else (label.x, label.x + width)

    (left, right), (from_, to) = ends(one), ends(other)
    return abs(one.y - other.y) < LINE and left < to and from_ < right


def _ticks(
    lever: Lever, at: Callable[[float], float], reach: tuple[float, float], unit: Unit, amount: Amount
) -> Iterable[Tick]:
    low, high = reach
    inch = unit is Unit.INCH
    thou = [one * MM_PER_THOU for one in (0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100)]
    lengths = thou if inch else [0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1.0, 2.0]
    steps = {"cam": [0.1, 0.2, 0.5, 1.0, 2.0, 5.0], "rockers": [0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2]}.get(
        str(lever.kind), lengths
    )
    step = next((one for one in steps if (high - low) / one <= 7), steps[-1])
    for count in range(int(np.ceil(low / step - 1e-9)), int(np.floor(high / step + 1e-9)) + 1):
        yield Tick(at(count * step), amount(lever, count * step, unit) if count else "as it is")


def _data(found: RoomMap, unit: Unit, amount: Amount) -> str:
    """Return every point in words for the script: amounts, margin and the tightest check."""
    left = [[None if not np.isfinite(one) else format_margin(float(one), unit) for one in row] for row in found.margin]
    return json.dumps(
        {
            "x": [amount(found.across, float(one), unit) for one in found.x],
            "y": [amount(found.up, float(one), unit) for one in found.y],
            "left": left,
            "by": found.tightest.tolist(),
            "clear": found.clear.astype(int).tolist(),
            "names": [check.label for check in found.checks],
            "box": [LEFT, RIGHT, TOP, BOTTOM],
        },
        separators=(",", ":"),
        ensure_ascii=False,
    )
