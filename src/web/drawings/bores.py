"""The bores of a block seen from above: one row for each bank, front on the left."""

from dataclasses import dataclass

from mockup.engine.block import Engine


@dataclass(frozen=True, slots=True)
class Grid:
    """Bore centres in drawing units, radius, and the size of the whole."""

    centres: dict[int, tuple[float, float]]
    radius: float
    width: float
    height: float


def bores(engine: Engine, width: float, most_radius: float, edge: float = 16.0) -> Grid:
    """Return the bores of every bank across ``width``; the second bank is offset."""
    longest = max(len(bank) for bank in engine.banks)
    offset = 0.35 if len(engine.banks) > 1 else 0.0
    pitch = min((width - 2 * edge) / (longest + offset), most_radius * 2.35)
    radius = pitch / 2.35
    row_height = 2 * radius + edge
    centres = {
        cylinder: (edge + pitch * (at + 0.5 + offset * row), edge + radius + row * (row_height + edge))
        for row, bank in enumerate(engine.banks)
        for at, cylinder in enumerate(bank)
    }
    height = len(engine.banks) * (row_height + edge)
    return Grid(centres, radius, edge * 2 + pitch * (longest + offset), height)
