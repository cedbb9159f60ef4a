"""The deck-height chart of separate barrels: for a deck, the shims for a target ratio.

Shims raise the barrel: d_final = d_measured + (shims_final - shims_when_measured). Decks here are without shims.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from mockup.checks.check import Check
from mockup.checks.compression import sealed_bore
from mockup.checks.quench import QUENCH_HIGH_LIMIT, QUENCH_LOW_LIMIT
from mockup.checks.valves import FACE_KINDS
from mockup.engine.block import cylinder_volume
from mockup.engine.gasket import shims_under
from mockup.limits.judge import State, judge
from mockup.plans.shim_stacks import ShimKind, stacks_of
from mockup.quantity.value import Value
from mockup.readings.clay import ClayReading
from mockup.readings.sweep import SweepReading
from mockup.report import Report

AROUND_MM = 0.20
STEP_MM = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class ChartCell:
    """What one deck needs for one ratio: shims [mm], and the ratio [1] and quench [mm] given.

    ``quench_state``: judged against the limits' window; ``valve_margin_mm``: what the tightest valve would have left
    [mm], None where no valve was read. ``shims_mm`` is None where even the thickest stack exceeds the ratio.
    """

    target: float
    shims_mm: tuple[float, ...] | None
    ratio: float
    quench_mm: float
    quench_state: State
    valve_margin_mm: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class ChartRow:
    """One deck without shims [mm], its cylinders, and a cell for each target ratio."""

    deck_mm: float
    cylinders: tuple[int, ...]
    cells: tuple[ChartCell, ...]


def deck_chart(report: Report, shims: Sequence[ShimKind], targets: Sequence[float]) -> tuple[ChartRow, ...]:
    """Return the chart about the measured decks, thinnest first; empty while parts are unknown.

    ``targets``: ratios, each over 1. Of the stacks that do not exceed a ratio, the one with the highest ratio is taken,
    among equals the one with the fewest shims. The smallest known chamber and piston are used, so that no cylinder
    exceeds the chart.
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
    return tuple(
        ChartRow(
            deck_mm=deck, cylinders=decks[deck], cells=tuple(make.cell(deck, target, decks[deck]) for target in targets)
        )
        for deck in sorted(decks)
    )


@dataclass(frozen=True, slots=True)
class ChartRange:
    """A range of decks without shims [mm] that need one stack [mm]; None: none is thick enough."""

    low_mm: float
    high_mm: float
    shims_mm: tuple[float, ...] | None


def deck_ranges(report: Report, shims: Sequence[ShimKind], target: float) -> tuple[ChartRange, ...]:
    """Return the chart of one ratio, over 1, as ranges of decks with the same stack.

    A stack s serves the decks from D - s on, D the clearance that gives exactly the ratio, until a thinner one does.
    Over the span of the chart; empty where that is.
    """
    rows = deck_chart(report, shims, (target,))
    if not rows:
        return ()
    make = _Maker(report, shims, _fixed_cc(report))
    swept = make.area * report.job.engine.sizes.stroke_mm
    wanted = (swept / (target - 1) - make.fixed_cc) / make.area
    first, last = rows[0].deck_mm, rows[-1].deck_mm
    totals = np.round(make.stacks.totals_mm, 6)
    _, one_each = np.unique(totals, return_index=True)
    found, high = [], last
    for at in one_each:  # thinnest stack first: it serves the deepest decks
        low = max(wanted - float(totals[at]), first)
        if low < high:
            found.append(ChartRange(low, high, make.stacks.words(int(at))))
            high = low
    if high > first:
        found.append(ChartRange(first, high, None))
    return tuple(reversed(found))


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
        self.window = report.job.limits.window(QUENCH_LOW_LIMIT, QUENCH_HIGH_LIMIT)
        known = report.context.known_decks.values()
        deck = max((one.clearance for one in known), key=lambda clearance: clearance.expanded)
        self.doubt = Value(0.0, deck.u, deck.freedom) + Value(0.0, self.final.thickness.u)

    def cell(self, deck_mm: float, target: float, of: tuple[int, ...]) -> ChartCell:
        clearance = self.fixed_cc + self.area * (deck_mm + self.stacks.totals_mm)
        with np.errstate(divide="ignore", invalid="ignore"):
            swept = self.area * self.report.job.engine.sizes.stroke_mm
            ratios = np.where(clearance > 0, (swept + clearance) / clearance, np.inf)
        # Thicker stacks come later and give less: the first that does not exceed has the highest ratio.
        allowed = np.flatnonzero(ratios <= target + 1e-9)
        at = int(allowed[0]) if allowed.size else int(np.argmin(ratios))
        final_mm = deck_mm + float(self.stacks.totals_mm[at])
        quench = final_mm + self.final.compressed_mm
        return ChartCell(
            target=target,
            shims_mm=self.stacks.words(at) if allowed.size else None,
            ratio=float(ratios[at]),
            quench_mm=quench,
            quench_state=judge(Value(quench) + self.doubt, self.window),
            valve_margin_mm=_valve_margin(self.report, deck_mm, float(self.stacks.totals_mm[at]), of),
        )


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
