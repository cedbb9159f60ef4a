"""A plane through the crowns of a bank: mean, spread, and how far it is out of square.

Source: ordinary least squares, d = c + s y + t x (any statistics text); u of a slope from the larger of the readings'
own u and the residuals' scatter. Bores in one line cannot show a side-to-side slope; edges can.
"""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from mockup.engine.block import Engine
from mockup.fit.deck_figures import DeckFigure, edge_at_rest
from mockup.quantity.value import Value, mean_of_repeats
from mockup.readings.deck import OPPOSITE, CrownSpot
from mockup.readings.instruments import Instrument

EDGE_AT = 0.9
"""Edges are read this far out from the middle, as a share of half the bore: common practice, no source."""

Point = tuple[float, float, float, float]
"""Along the block [bores], across it [mm], deck clearance [mm], its standard uncertainty [mm]."""


@dataclass(frozen=True, slots=True, kw_only=True)
class DeckPlane:
    """One bank's deck; lengths [mm].

    Slopes are positive where crowns go down toward the rear and the thrust side.

    ``run_mm``: from the first bore to the last [mm]. ``per_100_mm``: over 100 mm of block, None where the bore spacing
    is not known; ``across_per_100_mm``: side to side, None where not determined.
    """

    bank: int
    mean: Value
    spread_mm: float
    run_mm: Value | None
    per_100_mm: Value | None
    across_per_100_mm: Value | None
    fitted_mm: Mapping[int, float]


def deck_planes(
    figures: Mapping[int, DeckFigure], engine: Engine, instruments: Mapping[str, Instrument]
) -> tuple[DeckPlane, ...]:
    """Return the planes of banks with a crown read; separate barrels have no common deck."""
    if engine.separate_barrels:
        return ()
    return tuple(
        _plane(at, bank, {c: figures[c] for c in bank if c in figures}, engine, instruments)
        for at, bank in enumerate(engine.banks)
        if any(cylinder in figures for cylinder in bank)
    )


def _plane(
    at: int,
    bank: tuple[int, ...],
    figures: Mapping[int, DeckFigure],
    engine: Engine,
    instruments: Mapping[str, Instrument],
) -> DeckPlane:
    heights = [figure.clearance.value for figure in figures.values()]
    points = list(_points(bank, figures, engine, instruments))
    along, across, fit = _fit(points)
    first, last = bank.index(min(figures, key=bank.index)), bank.index(max(figures, key=bank.index))
    return DeckPlane(
        bank=at,
        mean=mean_of_repeats(heights, max(figure.clearance.u for figure in figures.values())),
        spread_mm=float(np.ptp(heights)),
        run_mm=along.scaled(last - first) if along else None,
        per_100_mm=along.scaled(100 / engine.bore_spacing_mm) if along and engine.bore_spacing_mm else None,
        across_per_100_mm=across.scaled(100) if across else None,
        fitted_mm={cylinder: float(fit[0] + fit[1] * bank.index(cylinder)) for cylinder in bank},
    )


def _points(
    bank: tuple[int, ...],
    figures: Mapping[int, DeckFigure],
    engine: Engine,
    instruments: Mapping[str, Instrument],
) -> Iterable[Point]:
    out = EDGE_AT * engine.sizes.bore_mm / 2
    for cylinder, figure in figures.items():
        y = bank.index(cylinder)
        yield y, 0.0, figure.clearance.value, figure.clearance.u
        moved = figure.clearance.value - figure.as_read.value
        for spot, x in zip(OPPOSITE[0], (out, -out), strict=True):
            edge = edge_at_rest(figure.readings, CrownSpot(spot), instruments)
            if edge:
                yield y, x, edge.delta.value + moved, edge.delta.u


def _fit(points: list[Point]) -> tuple[Value | None, Value | None, NDArray[np.float64]]:
    """Return slope per bore, slope across [1] and coefficients; None if not determined."""
    table = np.array(points)
    y, x, d, u = table.T
    columns = [np.ones_like(y)]
    along, across = bool(np.ptp(y)), bool(np.any(x > 0) and np.any(x < 0))
    if along:
        columns.append(y)
    if across:
        columns.append(x)
    design = np.column_stack(columns)
    found, *_ = np.linalg.lstsq(design, d, rcond=None)
    freedom = len(d) - len(columns)
    residual = float(np.sum((d - design @ found) ** 2)) / freedom if freedom > 0 else 0.0
    covariance = np.linalg.inv(design.T @ design) * max(residual, float(np.mean(u**2)))
    slopes = [Value(float(one), math.sqrt(v)) for one, v in zip(found, np.diag(covariance), strict=True)][1:]
    coefficients = np.array([found[0], found[1] if along else 0.0])
    return (slopes[0] if along else None), (slopes[-1] if across else None), coefficients
