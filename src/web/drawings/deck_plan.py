"""The deck from above, from the side with its fitted line, from the end with its rock."""

from collections.abc import Mapping
from dataclasses import dataclass

from mockup.fit.deck_figures import DeckFigure
from mockup.quantity.shown import format_bench, format_deck
from mockup.report import Report
from web.drawings.bores import Grid, bores

WIDTH = 640.0
SIDE_REACH = 34.0
"""Drawing units from the deck line to the highest or deepest crown."""
ABOVE, BELOW = 20.0, 54.0
"""Space above the highest mark, and for a crown's body and number below the lowest."""
EDGE = 20.0
ROCK_REACH = 12.0
"""Drawing units of the largest rock."""


@dataclass(frozen=True, slots=True)
class Bore:
    """One bore: its position, its label, and its crown seen from the side and from the end."""

    cylinder: int
    x: float
    y: float
    amount: str
    way: str
    tone: str
    crown_x: float
    crown_y: float
    edge_y: float | None
    tilt: float | None
    rock: str
    label: str


@dataclass(frozen=True, slots=True)
class FittedRow:
    """The fitted deck of one bank in the side view, from its first crown to its last."""

    x1: float
    y1: float
    x2: float
    y2: float


@dataclass(frozen=True, slots=True)
class DeckPlan:
    """The whole drawing, with the exaggeration of the side view."""

    width: float
    height: float
    radius: float
    bores: tuple[Bore, ...]
    lines: tuple[FittedRow, ...]
    side_height: float
    deck_y: float
    crown_half: float
    exaggeration: int
    rocks: bool


@dataclass(frozen=True, slots=True)
class _Side:
    """The scale of the side view."""

    deck_y: float
    scale: float
    pitch: float

    def x(self, place: float) -> float:
        return round(EDGE + self.pitch * (place - 0.5), 1)

    def y(self, depth_mm: float) -> float:
        return round(self.deck_y + depth_mm * self.scale, 1)


def deck_plan(report: Report) -> DeckPlan:
    """Return the drawing of a report's deck figures."""
    engine = report.job.engine
    grid = bores(engine, WIDTH, 48.0)
    heights = [figure.clearance.value for figure in report.deck.values()]
    heights += [figure.edge.value for figure in report.deck.values() if figure.edge]
    scale = SIDE_REACH / (max(map(abs, heights), default=0.0) or 0.1)
    deck_y = ABOVE + max([-height for height in heights] + [0.0]) * scale
    side = _Side(deck_y, scale, (grid.width - 2 * EDGE) / engine.cylinders)
    # Seen from the side a bank is together, even if its numbers are not.
    place = {cylinder: at for at, cylinder in enumerate((c for bank in engine.banks for c in bank), start=1)}
    crown_half = round(min(side.pitch * 0.35, grid.radius), 1)
    return DeckPlan(
        width=grid.width,
        height=grid.height,
        radius=grid.radius,
        bores=tuple(_bores(report, grid, side, place)),
        lines=tuple(_lines(report, side, place)),
        side_height=deck_y + max([*heights, 0.0]) * scale + BELOW,
        deck_y=deck_y,
        crown_half=crown_half,
        # Compared with the true scale of the bores, where a pitch is about 1.2 bores.
        exaggeration=round(scale / (side.pitch / (1.2 * engine.sizes.bore_mm))),
        rocks=any(figure.rock for figure in report.deck.values()),
    )


def _bores(report: Report, grid: Grid, side: _Side, place: Mapping[int, int]) -> list[Bore]:
    unit = report.job.unit
    rocks = [figure.rock.value for figure in report.deck.values() if figure.rock]
    most = max(rocks, default=0.0) or 1.0
    found = []
    for cylinder, (x, y) in sorted(grid.centres.items()):
        figure = report.deck.get(cylinder)
        words = format_deck(figure.clearance.value, unit) if figure else ""
        amount, _, way = words.partition(" ")
        rock = figure.rock.value if figure and figure.rock else None
        found.append(
            Bore(
                cylinder=cylinder,
                x=x,
                y=y,
                amount=amount,
                way=way,
                tone=_tone(figure),
                crown_x=side.x(place[cylinder]),
                crown_y=side.y(figure.clearance.value if figure else 0.0),
                edge_y=side.y(figure.edge.value) if figure and figure.edge else None,
                tilt=round(rock / most * ROCK_REACH, 1) if rock is not None else None,
                rock=f"±{format_bench(rock, unit)}" if rock is not None else "",
                label=f"cylinder {cylinder}: {words or 'not read'}",
            )
        )
    return found


def _lines(report: Report, side: _Side, place: Mapping[int, int]) -> list[FittedRow]:
    found = []
    for plane in report.planes:
        bank = report.job.engine.banks[plane.bank]
        if plane.run_mm:
            first, last = bank[0], bank[-1]
            ends = (plane.fitted_mm[first], plane.fitted_mm[last])
            found.append(
                FittedRow(side.x(place[first] - 0.4), side.y(ends[0]), side.x(place[last] + 0.4), side.y(ends[1]))
            )
    return found


def _tone(figure: DeckFigure | None) -> str:
    if figure is None:
        return "none"
    return "out" if figure.clearance.value < 0 else "down"
