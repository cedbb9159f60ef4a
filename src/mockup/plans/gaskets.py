"""Choosing a gasket from the shelf, with base shims, by quench; the ratio beside it."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from mockup.checks.compression import RATIO_HIGH_LIMIT
from mockup.checks.quench import QUENCH_CHECK, QUENCH_HIGH_LIMIT, QUENCH_LOW_LIMIT
from mockup.engine.block import Engine, cylinder_volume
from mockup.engine.gasket import FinalGasket
from mockup.plans.shim_stacks import ShimKind, Stacks, stacks_of
from mockup.report import Report


@dataclass(frozen=True, slots=True, kw_only=True)
class GasketOption:
    """One gasket with the stack of shims it needs under each barrel.

    Each tuple has one entry for each cylinder whose deck is known: ``quench_mm`` [mm], ``ratio`` [1] (NaN where volumes
    are missing), ``shims_mm`` the stack's shims [mm] (None where no stack is left). ``fits``: every quench is in the
    window, its U counted. ``off_mm``: how far the worst is from the middle of the window [mm].
    """

    gasket: FinalGasket
    cylinders: tuple[int, ...]
    quench_mm: tuple[float, ...]
    ratio: tuple[float, ...]
    shims_mm: tuple[tuple[float, ...] | None, ...]
    fits: bool
    off_mm: float


SUITS = (0.99, 1.04)
"""A gasket's bore relative to the cylinder's: smaller reaches into the bore, larger traps gas. Common practice, no
source.
"""


AS_GOOD_MM = 0.02
"""Stacks this close to each other are equally good; the one with fewer shims is taken: common practice, no source."""


def suits(gasket: FinalGasket, engine: Engine) -> bool:
    """Return whether a gasket's bore is about the engine's; True where one is not stated."""
    if gasket.bore_mm is None or engine.bore_mm is None:
        return True
    return SUITS[0] <= gasket.bore_mm / engine.bore_mm <= SUITS[1]


def gasket_options(
    report: Report, gaskets: Sequence[FinalGasket], shims: Sequence[ShimKind] = ()
) -> tuple[GasketOption, ...]:
    """Return every gasket with its best stacks: those that fit, then the nearest.

    The stack with the quench nearest to that middle is taken among those that do not exceed the build's highest ratio;
    shims used under one barrel are not available for the next. Empty without decks or without a quench limit.
    """
    cylinders = tuple(report.deck)
    middle = _middle(report)
    if not cylinders or middle is None:
        return ()
    bare = np.array([report.deck[c].clearance.value - report.deck[c].shims_mm for c in cylinders])
    separate = report.job.engine.separate_barrels
    stacks = stacks_of(shims if separate else ())
    options = [_option(report, gasket, cylinders, bare, stacks, middle) for gasket in gaskets]
    return tuple(sorted(options, key=lambda option: (not option.fits, option.off_mm)))


def _middle(report: Report) -> float | None:
    effective = report.job.limits.effective
    ends = [effective[name] for name in (QUENCH_LOW_LIMIT, QUENCH_HIGH_LIMIT) if name in effective]
    return sum(ends) / len(ends) if ends else None


def _option(
    report: Report,
    gasket: FinalGasket,
    cylinders: tuple[int, ...],
    bare_mm: NDArray[np.float64],
    stacks: Stacks,
    middle_mm: float,
) -> GasketOption:
    quench = bare_mm[None, :] + stacks.totals_mm[:, None] + gasket.compressed_mm  # (stacks, cylinders)
    ratio = _ratios(report, gasket, cylinders, bare_mm[None, :] + stacks.totals_mm[:, None])
    off = np.abs(quench - middle_mm)
    most = report.job.limits.effective.get(RATIO_HIGH_LIMIT)
    if most is not None:
        off = np.where(ratio > most, np.inf, off)
    left = np.array([kind.stock for kind in stacks.kinds], dtype=np.int64)
    shims_in = stacks.counts.sum(axis=1)
    chosen: list[int | None] = []
    for at in range(len(cylinders)):
        possible = np.where((stacks.counts <= left).all(axis=1), off[:, at], np.inf)
        # Being nearer the middle by a thousandth or so does not justify another shim.
        near = np.flatnonzero(possible <= possible.min() + AS_GOOD_MM)
        best = int(near[np.lexsort((possible[near], shims_in[near]))[0]])
        chosen.append(best if np.isfinite(possible[best]) else None)
        left = left - (stacks.counts[best] if chosen[-1] is not None else 0)
    taken = [0 if best is None else best for best in chosen]
    picked = quench[taken, range(len(cylinders))]
    expanded = np.array([(report.deck[c].clearance + gasket.thickness).expanded for c in cylinders])
    fits = all(best is not None for best in chosen) and _inside(report, cylinders, picked, expanded)
    return GasketOption(
        gasket=gasket,
        cylinders=cylinders,
        quench_mm=tuple(picked.tolist()),
        ratio=tuple(ratio[taken, range(len(cylinders))].tolist()),
        shims_mm=tuple(None if best is None else stacks.words(best) for best in chosen),
        fits=fits,
        off_mm=float(np.abs(picked - middle_mm).max()),
    )


def _inside(
    report: Report, cylinders: tuple[int, ...], quench_mm: NDArray[np.float64], expanded_mm: NDArray[np.float64]
) -> bool:
    effective = report.job.limits.effective
    floors = {check.cylinder: check.floor or 0.0 for check in report.of_kind(QUENCH_CHECK)}
    metal = np.array([floors.get(cylinder, 0.0) for cylinder in cylinders])
    low, high = effective.get(QUENCH_LOW_LIMIT, -np.inf), effective.get(QUENCH_HIGH_LIMIT, np.inf)
    slack = 1e-6
    return bool(
        ((quench_mm - expanded_mm >= np.maximum(low, metal) - slack) & (quench_mm + expanded_mm <= high + slack)).all()
    )


def _ratios(
    report: Report, gasket: FinalGasket, cylinders: tuple[int, ...], deck_mm: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Return ratios, shape (stacks, cylinders) [1]; NaN where not known or no volume is left."""
    engine = report.job.engine
    if engine.bore_mm is None or engine.stroke_mm is None or (gasket.bore_mm is None and gasket.compressed_mm):
        return np.full(np.shape(deck_mm), np.nan)
    area = cylinder_volume(engine.bore_mm, 1.0)
    own = np.array([_own_cc(report, cylinder) for cylinder in cylinders])
    clearance = own + cylinder_volume(gasket.bore_mm or engine.bore_mm, gasket.compressed_mm) + area * deck_mm
    swept = area * engine.stroke_mm
    return np.where(clearance > 0, (swept + clearance) / np.where(clearance > 0, clearance, 1.0), np.nan)


def _own_cc(report: Report, cylinder: int) -> float:
    known = [figures[cylinder].volume.value for figures in report.parts.values() if cylinder in figures]
    return sum(known) if len(known) == len(report.parts) else float("nan")
