"""How much to cut off a deck for a target, at its middle or at its highest edge."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from mockup.changes.change import DEEPEST_MM, Change
from mockup.changes.cuts import DECK_CUT
from mockup.fit.deck_figures import DeckFigure
from mockup.quantity.value import MM_PER_THOU, Unit
from mockup.report import Report

STEP_MM = {Unit.INCH: 0.5 * MM_PER_THOU, Unit.MILLIMETRE: 0.01}
"""The step of a deck cut; cuts are rounded down, since more can follow and nothing can be put back."""


@dataclass(frozen=True, slots=True, kw_only=True)
class CutPlan:
    """One way to reach the target on one bank.

    ``front_mm`` and ``rear_mm``: the cut at the first and last bore [mm]. ``leaves_mm``: the middle of each crown
    afterwards [mm], ``edge_mm`` its highest edge where edges were read. ``refused`` says why it cannot be done.
    """

    bank: int
    words: str
    front_mm: float
    rear_mm: float
    leaves_mm: Mapping[int, float]
    edge_mm: Mapping[int, float]
    refused: str = ""

    def change(self, key: str = "what-if") -> Change:
        """Return the plan as a decided change."""
        return Change(key=key, kind=DECK_CUT, bank=self.bank, front_mm=self.front_mm, rear_mm=self.rear_mm)


def cut_plans(report: Report, bank: int, target_mm: float) -> tuple[CutPlan, ...]:
    """Return the ways to bring ``bank`` to ``target_mm`` [mm], positive in the hole.

    By the middle: parallel cuts take the mean less the target, squared ones the fitted line less the target at both
    ends. By the highest edge: as much as leaves no edge above the target. Empty before any deck is read.
    """
    planes = [plane for plane in report.planes if plane.bank == bank]
    if not planes:
        return ()
    plane, cylinders = planes[0], report.job.engine.banks[bank]
    figures = {cylinder: report.deck[cylinder] for cylinder in cylinders if cylinder in report.deck}
    edges = {cylinder: figure.edge.value for cylinder, figure in figures.items() if figure.edge}
    step = STEP_MM[report.job.unit]
    mean, ends = plane.mean.value, (plane.fitted_mm[cylinders[0]], plane.fitted_mm[cylinders[-1]])
    wanted = [("all round, by the middle", mean - target_mm, mean - target_mm)]
    if edges:
        highest = min(edges.values())
        wanted.append(("all round, by the highest edge", highest - target_mm, highest - target_mm))
    if plane.run_mm:
        wanted.append(("squared, by the middle", ends[0] - target_mm, ends[1] - target_mm))
        if edges:
            least = min(edge - plane.fitted_mm[cylinder] for cylinder, edge in edges.items())
            wanted.append(("squared, by the highest edge", ends[0] + least - target_mm, ends[1] + least - target_mm))
    return tuple(_plan(bank, words, (front, rear), step, figures, report) for words, front, rear in wanted)


def _plan(
    bank: int,
    words: str,
    wanted_mm: tuple[float, float],
    step: float,
    figures: Mapping[int, DeckFigure],
    report: Report,
) -> CutPlan:
    front, rear = (math.floor(one / step + 1e-6) * step for one in wanted_mm)
    refused = ""
    if min(front, rear) < 0:
        refused = "That would need metal added, not cut off."
    elif max(front, rear) > DEEPEST_MM:
        refused = "That is more than any deck gives."
    elif not max(front, rear):
        refused = "Nothing to cut: it is already there."
    if refused:
        return CutPlan(bank=bank, words=words, front_mm=front, rear_mm=rear, leaves_mm={}, edge_mm={}, refused=refused)
    cut = Change(key="", kind=DECK_CUT, bank=bank, front_mm=front, rear_mm=rear)
    off = {cylinder: cut.at_mm(cylinder, report.job.engine) for cylinder in figures}
    return CutPlan(
        bank=bank,
        words=words,
        front_mm=front,
        rear_mm=rear,
        leaves_mm={cylinder: figure.clearance.value - off[cylinder] for cylinder, figure in figures.items()},
        edge_mm={c: figure.edge.value - off[c] for c, figure in figures.items() if figure.edge},
    )
