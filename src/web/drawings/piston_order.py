"""A piston in section, to scale, with dimension lines for what is ordered."""

from collections.abc import Mapping
from dataclasses import dataclass

from mockup.engine.valves import Side
from mockup.plans.pistons_to_order import Order

WIDTH, LEFT, TOP = 260.0, 150.0, 60.0
USUAL_HEIGHT = 0.45
"""An assumed compression height relative to the bore, drawn without a dimension."""
DEEPEST_DRAWN, LEAST_DRAWN = 34.0, 7.0


@dataclass(frozen=True, slots=True)
class Pocket:
    """A relief in the crown: its outline, and the position of its depth's label."""

    side: str
    path: str
    x: float
    y: float
    words: str


@dataclass(frozen=True, slots=True)
class PistonSection:
    """The section: outline, crown, pin, reliefs, and labels of the dimension lines."""

    left: float
    right: float
    top: float
    bottom: float
    pin_x: float
    pin_y: float
    pin_r: float
    crown: str
    pockets: tuple[Pocket, ...]
    height: str
    volume: str
    bore: str


def piston_section(order: Order, words: Mapping[str, str], reliefs: Mapping[Side, str]) -> PistonSection:
    """Return the drawing of an order.

    ``words``: of height, volume, bore; ``reliefs``: of each side, or empty.
    """
    bore = order.after.engine.sizes.bore_mm
    scale = WIDTH / bore
    height = (order.height.value if order.height else USUAL_HEIGHT * bore) * scale
    right, middle = LEFT + WIDTH, LEFT + WIDTH / 2
    pin_y = TOP + min(max(height, 60.0), 170.0)
    volume = order.volume.value if order.volume else 0.0
    depth = min(max(abs(volume) * 0.9, 0.0), 22.0) * (1 if volume > 0 else -1)
    pockets = tuple(
        _pocket(
            side, text, LEFT + WIDTH * (0.27 if side is Side.INTAKE else 0.73), order.deeper_mm.get(side, 0.0) * scale
        )
        for side, text in reliefs.items()
        if text
    )
    return PistonSection(
        left=LEFT,
        right=right,
        top=TOP,
        bottom=pin_y + 62,
        pin_x=middle,
        pin_y=pin_y,
        pin_r=22.0,
        crown=f"M{LEFT},{TOP} H{middle - 60} Q{middle},{TOP + 2 * depth:.1f} {middle + 60},{TOP} H{right}",
        pockets=pockets,
        height=words.get("height", ""),
        volume=words.get("volume", ""),
        bore=words.get("bore", ""),
    )


def _pocket(side: Side, words: str, x: float, deeper: float) -> Pocket:
    half, depth = 34.0, min(max(deeper, LEAST_DRAWN), DEEPEST_DRAWN)
    tilt = 6.0 if side is Side.INTAKE else -6.0
    left, right = TOP + depth + tilt, TOP + depth - tilt
    path = f"M{x - half},{TOP} L{x - half},{left:.1f} L{x + half},{right:.1f} L{x + half},{TOP}Z"
    return Pocket(str(side), path, x, TOP - 12, words)
