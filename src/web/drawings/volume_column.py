"""One cylinder's clearance volume as a stack to scale: chamber, gasket, deck, piston."""

from dataclasses import dataclass

from mockup.quantity.shown import volume_text
from mockup.report import Report

HEIGHT = 250.0
LABEL_STEP = 18.0
"""The least distance between labels, however close their layers."""
LEAST = 3.0
"""A thinner layer would be invisible; it is drawn this high, and its label gives the true figure."""


@dataclass(frozen=True, slots=True)
class Layer:
    """One volume of the stack; a dome or a proud crown subtracts and is drawn beside the stack."""

    name: str
    words: str
    y: float
    height: float
    middle: float
    label_y: float
    takes_away: bool


@dataclass(frozen=True, slots=True)
class Column:
    """The stack of the cylinder with the highest ratio."""

    cylinder: int
    layers: tuple[Layer, ...]
    total: str
    swept: str
    height: float


def volume_column(report: Report) -> Column | None:
    """Return the drawing, None before any cylinder's volumes are all known."""
    usable = {cylinder: volumes for cylinder, volumes in report.volumes.items() if volumes.clearance_cc > 0}
    if not usable:
        return None
    cylinder = min(usable, key=lambda number: usable[number].clearance_cc)
    volumes = usable[cylinder]
    parts = {
        "chamber": volumes.chamber.value,
        "gasket": volumes.gasket.value,
        "deck": volumes.deck.value,
        "piston": volumes.piston.value,
    }
    scale = HEIGHT / sum(abs(cc) for cc in parts.values())
    y, label_y, layers = 0.0, -LABEL_STEP, []
    for name, cc in parts.items():
        height = max(abs(cc) * scale, LEAST)
        label_y = max(y + height / 2, label_y + LABEL_STEP)
        layers.append(
            Layer(
                name,
                volume_text(cc),
                round(y, 1),
                round(height, 1),
                round(y + height / 2, 1),
                round(label_y, 1),
                cc < 0,
            )
        )
        y += height
    total, swept = volume_text(volumes.clearance_cc), volume_text(volumes.swept.value)
    return Column(cylinder, tuple(layers), total, swept, round(max(y, label_y + 8), 1))
