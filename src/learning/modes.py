"""The mean and principal components of many made-up lobes of one card.

Run it to remake the core's table: python -m learning.modes [lobes]. Each lobe gets the card its maker would print; the
table holds its departure from the smooth lobe that the core makes of that card (``mockup.motion.lobes``), as a share of
the greatest lift over z = angle / half the duration at 0.050 in. Source: principal components of a sample covariance,
any text (e.g. Jolliffe, Principal Component Analysis); docs/how-it-computes.md, "A card is an uncertain lobe".
"""

import json
import sys
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from learning.lobes import CHECKED_MM, Lobe, lobe
from mockup.base.faults import FaultsError
from mockup.engine.cam import Duration, LobeCard
from mockup.motion import lobes as core
from mockup.motion.uncertain import TABLE, half_width_deg

Curve = NDArray[np.float64]

Z = np.linspace(-1.8, 1.8, 241)
MODES = 12
LOBES = 6000
SEED = 20261126
WIDER = 1.7
"""Factor on the learnt standard deviations, for lobes of constructions that were not learnt from."""
LOW_LIFTS_MM = {True: (0.1016, 0.1524, 0.254), False: (0.381, 0.508)}
"""The lifts at which durations are advertised, hydraulic and solid: 0.004 to 0.010, 0.015 and 0.020 in."""


def card_of(one: Lobe, lifts_mm: tuple[float, ...]) -> LobeCard:
    """Return the card of a lobe with durations at some checking lifts [mm], whole degrees.

    Raises FaultsError.
    """
    spans = [one.flanks(at) for at in lifts_mm]
    durations = tuple(
        Duration(float(round(closes - opens)), at) for (opens, closes), at in zip(spans, lifts_mm, strict=True)
    )
    return LobeCard(lift_mm=round(float(one.lift_mm.max()), 2), durations=durations)


def departure(one: Lobe, card: LobeCard) -> Curve:
    """Return how a lobe departs from the smooth one of its card, as a share of its lift, over Z.

    Raises FaultsError.
    """
    smooth = core.card_lobe(card)
    half = half_width_deg(smooth)
    return (one.at(Z * half) - smooth.lift_mm(Z * half)) / card.lift_mm


def learnt(lobes: int, *, two: bool) -> dict[str, Any]:
    """Return mean and components for cards with two durations, or with only the one at 0.050 in."""
    rng = np.random.default_rng(SEED)
    found: list[Curve] = []
    while len(found) < lobes:
        one = lobe(rng)
        if one is None or one.lift_mm.max() < 2.3 * CHECKED_MM:
            continue
        low = float(rng.choice(LOW_LIFTS_MM[one.hydraulic]))
        try:
            found.append(departure(one, card_of(one, (low, CHECKED_MM) if two else (CHECKED_MM,))))
        except FaultsError:
            continue
    sample = np.array(found)
    mean = sample.mean(axis=0)
    _, sizes, shapes = np.linalg.svd((sample - mean) / np.sqrt(len(sample)), full_matrices=False)
    kept = shapes[:MODES] * sizes[:MODES, None]
    left = np.sqrt((sizes**2).sum() - (sizes[:MODES] ** 2).sum()) / np.sqrt((sizes**2).sum())
    print(
        f"{'two durations' if two else 'one duration'}: {len(sample)} lobes, {100 * left:.1f} % of the spread left out"
    )
    return {"mean": _rounded(mean), "modes": [_rounded(WIDER * one) for one in kept]}


def _rounded(values: Curve) -> list[float]:
    return [round(float(one), 6) for one in values]


def main(arguments: list[str]) -> None:
    """Write the table."""
    lobes = int(arguments[0]) if arguments else LOBES
    table = {
        "made by": f"python -m learning.modes {lobes}",
        "z": [float(Z[0]), float(Z[-1]), len(Z)],
        "one": learnt(lobes, two=False),
        "two": learnt(lobes, two=True),
    }
    Path(str(TABLE)).write_text(json.dumps(table) + "\n")


if __name__ == "__main__":
    main(sys.argv[1:])
