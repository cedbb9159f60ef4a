"""The deck-height chart of separate barrels: for a deck, the shims for a target ratio.

Shims raise the barrel: d_final = d_measured + (shims_final - shims_when_measured). Decks here are without shims.
"""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from mockup.checks.check import Check
from mockup.checks.compression import sealed_bore
from mockup.checks.quench import QUENCH_CHECK, QUENCH_HIGH_LIMIT, QUENCH_LOW_LIMIT
from mockup.checks.valves import FACE_KINDS
from mockup.engine.block import cylinder_volume
from mockup.engine.gasket import shims_under
from mockup.engine.makers_chart import MakersChart
from mockup.limits.judge import SLACK, State, judge
from mockup.plans.shim_stacks import ShimKind, stacks_of
from mockup.quantity.value import Value
from mockup.readings.clay import ClayReading
from mockup.readings.sweep import SweepReading
from mockup.report import Report

AROUND_MM = 0.20
STEP_MM = 0.05


class NoStack(StrEnum):
    """Why no stack of shims is recommended for a deck."""

    THIN = "no stack thick enough"
    OUTSIDE = "none inside the quench limits"


@dataclass(frozen=True, slots=True, kw_only=True)
class ChartCell:
    """What one deck gets for one ratio: shims [mm], and the ratio [1] and quench [mm] given.

    ``shims_mm``: None where no stack is recommended, for the reason ``refused``; ratio and quench are then those of the
    stack that comes nearest. ``quench_state``: judged against the limits' window; ``valve_margin_mm``: what the
    tightest valve would have left [mm], None where no valve was read. ``target``: None for a given stack.
    """

    target: float | None
    shims_mm: tuple[float, ...] | None
    refused: NoStack | None = None
    ratio: float
    quench_mm: float
    quench_state: State
    valve_margin_mm: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class ChartRow:
    """One deck without shims [mm], its cylinders, and a cell for each target ratio.

    ``makers``: what the shims of the maker's chart give, None without a chart or off it.
    """

    deck_mm: float
    cylinders: tuple[int, ...]
    cells: tuple[ChartCell, ...]
    makers: ChartCell | None = None

    @property
    def makers_more_mm(self) -> float | None:
        """How much thicker the maker's shims are than the first target's [mm]; None without both."""
        own = self.cells[0].shims_mm if self.cells else None
        if own is None or self.makers is None or self.makers.shims_mm is None:
            return None
        return round(sum(self.makers.shims_mm) - sum(own), 6)


def deck_chart(
    report: Report, shims: Sequence[ShimKind], targets: Sequence[float], makers: MakersChart | None = None
) -> tuple[ChartRow, ...]:
    """Return the chart about the measured decks, thinnest first; empty while parts are unknown.

    ``targets``: ratios, each over 1. Of the stacks that neither exceed a ratio nor fail the quench limits, the one with
    the highest ratio is taken, one that is clear before one too close to call, among equals the one with the fewest
    shims. The smallest known chamber and piston are used, so that no cylinder exceeds the chart.
    """
    final, volumes = report.job.final_gasket, report.volumes
    if not (final and volumes and report.job.engine.separate_barrels):
        return ()
    known = report.context.known_decks
    measured = {c: known[c].clearance.value - known[c].shims_mm for c in volumes}
    first = np.floor((min(measured.values()) - AROUND_MM) / STEP_MM) * STEP_MM
    last = max(measured.values()) + AROUND_MM
    # Leave out a round figure that would read the same as a measured one beside it.
    decks: dict[float, tuple[int, ...]] = {
        round(float(deck), 4): ()
        for deck in np.arange(first, last + STEP_MM / 2, STEP_MM)
        if all(abs(deck - own) > STEP_MM / 5 for own in measured.values())
    }
    for cylinder, deck in measured.items():
        decks[round(deck, 4)] = (*decks.get(round(deck, 4), ()), cylinder)
    make = _Maker(report, shims, _fixed_cc(report))

    def makers_cell(deck_mm: float) -> ChartCell | None:
        pack = makers.shims_mm(deck_mm) if makers else None
        return None if pack is None else make.given(deck_mm, pack, decks[deck_mm])

    return tuple(
        ChartRow(
            deck_mm=deck,
            cylinders=decks[deck],
            cells=tuple(make.cell(deck, target, decks[deck]) for target in targets),
            makers=makers_cell(deck),
        )
        for deck in sorted(decks)
    )


@dataclass(frozen=True, slots=True)
class ChartRange:
    """A range of decks without shims [mm] that get one stack [mm]; None: none, for a reason."""

    low_mm: float
    high_mm: float
    shims_mm: tuple[float, ...] | None
    refused: NoStack | None = None


def deck_ranges(report: Report, shims: Sequence[ShimKind], target: float) -> tuple[ChartRange, ...]:
    """Return the chart of one ratio, over 1, as ranges of decks with the same stack.

    Over the span of the chart; empty where that is. What is recommended can only change where a stack begins to exceed
    the ratio or passes a limit of the quench, so each stretch between two such decks is asked once, in its middle.
    """
    rows = deck_chart(report, shims, (target,))
    if not rows:
        return ()
    make = _Maker(report, shims, _fixed_cc(report))
    first, last = rows[0].deck_mm, rows[-1].deck_mm
    ends = make.turns_mm(target)
    ends = np.unique(np.concatenate([[first], ends[(ends > first) & (ends < last)], [last]]))
    found: list[ChartRange] = []
    for low, high in itertools.pairwise(ends.tolist()):
        at, refused = make.choose((low + high) / 2, target)
        stack = None if refused else make.stacks.words(at)
        same = bool(found) and (found[-1].shims_mm, found[-1].refused) == (stack, refused)
        begins = found.pop().low_mm if same else low
        found.append(ChartRange(begins, high, stack, refused))
    return tuple(found)


def _fixed_cc(report: Report) -> float:
    """Return the smallest known chamber and piston, and the gasket: what no shim changes [cm3]."""
    final = report.job.final_gasket
    assert final is not None
    smallest = min(one.chamber.value + one.piston.value for one in report.volumes.values())
    return smallest + cylinder_volume(sealed_bore(final, report.job.engine).value, final.compressed_mm)


class _Maker:
    """Makes the cells; holds what they share."""

    def __init__(self, report: Report, shims: Sequence[ShimKind], fixed_cc: float) -> None:
        assert report.job.final_gasket is not None
        self.report = report
        self.final = report.job.final_gasket
        self.stacks = stacks_of(shims)
        self.fixed_cc = fixed_cc
        self.area = cylinder_volume(report.job.engine.sizes.bore_mm, 1.0)
        self.swept = self.area * report.job.engine.sizes.stroke_mm
        self.window = report.job.limits.window(QUENCH_LOW_LIMIT, QUENCH_HIGH_LIMIT)
        # Even if the limits allow it, nothing is recommended that growth and stretch would use up.
        self.floor = max((check.floor or 0.0 for check in report.of_kind(QUENCH_CHECK)), default=0.0)
        known = report.context.known_decks.values()
        deck = max((one.clearance for one in known), key=lambda clearance: clearance.expanded)
        self.doubt = Value(0.0, deck.u, deck.freedom) + Value(0.0, self.final.thickness.u)

    def cell(self, deck_mm: float, target: float, of: tuple[int, ...]) -> ChartCell:
        """Return the cell of one deck [mm] for one ratio; ``of``: the barrels that measured it."""
        at, refused = self.choose(deck_mm, target)
        cell = self.given(deck_mm, float(self.stacks.totals_mm[at]), of)
        return replace(cell, target=target, shims_mm=None if refused else self.stacks.words(at), refused=refused)

    def given(self, deck_mm: float, shims_mm: float, of: tuple[int, ...]) -> ChartCell:
        """Return the cell of one deck on given shims [mm]."""
        quench = deck_mm + shims_mm + self.final.compressed_mm
        return ChartCell(
            target=None,
            shims_mm=(shims_mm,),
            ratio=float(self._ratios(deck_mm, np.array([shims_mm]))[0]),
            quench_mm=quench,
            quench_state=judge(Value(quench) + self.doubt, self.window),
            valve_margin_mm=_valve_margin(self.report, deck_mm, shims_mm, of),
        )

    def choose(self, deck_mm: float, target: float) -> tuple[int, NoStack | None]:
        """Return the stack for a deck [mm] and a ratio, or the nearest and why it is not one."""
        totals = self.stacks.totals_mm
        ratios, quench, u = self._ratios(deck_mm, totals), deck_mm + totals + self.final.compressed_mm, self.expanded
        allowed = ratios <= target + 1e-9
        if not allowed.any():
            return int(np.argmin(ratios)), NoStack.THIN
        low, high = self._window_mm
        fails = (quench + u < low - SLACK) | (quench - u > high + SLACK) | (quench - u < self.floor - SLACK)
        clear = (quench - u >= low - SLACK) & (quench + u <= high + SLACK)
        # Thicker stacks come later and give less: the first that does not exceed has the highest ratio.
        for suits in (allowed & clear & ~fails, allowed & ~fails):
            if suits.any():
                return int(np.argmax(suits)), None
        return int(np.argmax(allowed)), NoStack.OUTSIDE

    def turns_mm(self, target: float) -> NDArray[np.float64]:
        """Return the decks at which ``choose`` may change its mind [mm], in any order."""
        wanted = (self.swept / (target - 1) - self.fixed_cc) / self.area
        u, (low, high) = self.expanded, self._window_mm
        quench = [low - u, low + u, high - u, high + u, self.floor + u]
        tops = [wanted, *(end - self.final.compressed_mm for end in quench if math.isfinite(end))]
        totals = np.unique(np.round(self.stacks.totals_mm, 6))
        return (np.array(tops)[:, None] - totals).ravel()

    @property
    def expanded(self) -> float:
        """U of a quench made of a measured deck and the gasket [mm]."""
        return self.doubt.expanded

    @property
    def _window_mm(self) -> tuple[float, float]:
        low, high = self.window.low, self.window.high
        return (-math.inf if low is None else low), (math.inf if high is None else high)

    def _ratios(self, deck_mm: float, shims_mm: NDArray[np.float64]) -> NDArray[np.float64]:
        clearance = self.fixed_cc + self.area * (deck_mm + shims_mm)
        with np.errstate(divide="ignore", invalid="ignore"):
            return np.asarray(np.where(clearance > 0, (self.swept + clearance) / clearance, np.inf))


def _valve_margin(report: Report, deck_mm: float, shims_mm: float, of: tuple[int, ...]) -> float | None:
    """Return the tightest face's margin [mm] of a barrel at ``deck_mm`` on a stack.

    For the barrels ``of`` that measured exactly this, by their own readings; otherwise every barrel read is moved
    there: C_j = C_i + k (d_j - d_i). None where none of their faces was read.
    """
    rooms = []
    for side, kind in FACE_KINDS.items():
        for check in report.of_kind(kind):
            known = check.margin is not None and check.cylinder in report.context.known_decks
            if not known or (of and check.cylinder not in of):
                continue
            figure = report.context.known_decks[check.cylinder]
            own_deck = figure.clearance.value - figure.shims_mm
            moved = (deck_mm - own_deck) + (shims_mm - _shims_counted(report, check))
            rooms.append((check.margin or 0.0) + report.engine.row(side).axial_factor * moved)
    return min(rooms, default=None)


def _shims_counted(report: Report, check: Check) -> float:
    """Return the base shims in a check's figure [mm]: chosen, else those of its mock-up."""
    chosen = shims_under(report.job.final_shims, check.cylinder)
    if chosen:
        return chosen.total_mm
    keys = set(check.governing.evidence) if check.governing else set()
    readings: list[ClayReading | SweepReading] = [*report.job.of(ClayReading), *report.job.of(SweepReading)]
    read = (reading.mockup for reading in readings if reading.key in keys)
    letter = next(read, None)
    return report.job.mockup(letter).shims_mm if letter else 0.0
