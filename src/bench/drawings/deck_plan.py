"""The deck from above, each crown in or out of the hole, and the crowns from the side with height exaggerated."""

from dataclasses import dataclass

from bench.drawings.bores import bores
from mockup.quantity.shown import format_deck
from mockup.report import Report

WIDTH = 640.0
SIDE_REACH = 34.0
"""Drawing units that the tallest or deepest crown takes up from the deck line."""
ABOVE, BELOW = 20.0, 54.0
"""Room over the highest thing drawn, and for a crown's body and number under the lowest."""


@dataclass(frozen=True, slots=True)
class Bore:
    """One bore: where, what is written in it, and its crown seen from the side."""

    cylinder: int
    x: float
    y: float
    amount: str
    way: str
    tone: str
    crown_x: float
    crown_y: float
    label: str


@dataclass(frozen=True, slots=True)
class DeckPlan:
    """The whole drawing, and by how much the side view is exaggerated."""

    width: float
    height: float
    radius: float
    bores: tuple[Bore, ...]
    side_height: float
    deck_y: float
    crown_half: float
    exaggeration: int


def deck_plan(report: Report) -> DeckPlan:
    """The drawing of a report's deck figures."""
    engine = report.job.engine
    grid = bores(engine, WIDTH, 48.0)
    depths = {cylinder: figure.clearance.value for cylinder, figure in report.deck.items()}
    tallest = max([abs(depth) for depth in depths.values()], default=0.0) or 0.1
    scale = SIDE_REACH / tallest
    deck_y = ABOVE + max([-depth for depth in depths.values()] + [0.0]) * scale
    pitch = (grid.width - 40) / engine.cylinders
    found = []
    for cylinder, (x, y) in sorted(grid.centres.items()):
        depth = depths.get(cylinder)
        words = format_deck(depth, report.job.unit) if depth is not None else ""
        amount, _, way = words.partition(" ")
        found.append(
            Bore(
                cylinder=cylinder,
                x=x,
                y=y,
                amount=amount,
                way=way,
                tone=_tone(depth),
                crown_x=20 + pitch * (cylinder - 0.5),
                crown_y=deck_y + (depth or 0.0) * scale,
                label=f"cylinder {cylinder}: {words or 'not read'}",
            )
        )
    # Drawn against the true scale of the bores, a pitch standing for about 1.2 bores.
    exaggeration = round(scale / (pitch / (1.2 * engine.bore_mm)))
    return DeckPlan(
        width=grid.width,
        height=grid.height,
        radius=grid.radius,
        bores=tuple(found),
        side_height=deck_y + max([*depths.values(), 0.0]) * scale + BELOW,
        deck_y=deck_y,
        crown_half=round(min(pitch * 0.35, grid.radius), 1),
        exaggeration=exaggeration,
    )


def _tone(depth: float | None) -> str:
    if depth is None:
        return "none"
    return "out" if depth < 0 else "down"
