"""The search through everything a shop could do, for the least work that clears all.

Gaskets, cam steps and rockers are combined. What can be cut to any amount (reliefs, head, deck) is solved exactly for
each combination, with the U of the cut itself, and rounded to the shop's step on the safe side.
"""

from collections.abc import Iterable
from itertools import product

import numpy as np
from numpy.typing import NDArray

from mockup.changes.change import Change
from mockup.changes.pistons import RELIEF_DEEPENED
from mockup.changes.stack import GASKET_CHANGED, SHIMS_CHANGED
from mockup.changes.train import CAM_MOVED, PUSHRODS_CHANGED, ROCKERS_CHANGED
from mockup.checks.check import Check
from mockup.checks.pushrods import PUSHROD_CHECK
from mockup.engine.gasket import MOST_SHIMS_MM, FinalGasket
from mockup.engine.valves import Side
from mockup.fit.engine_history import shims_now
from mockup.limits.judge import SLACK
from mockup.plans.batch import Batch
from mockup.plans.levers import Lever, ShopLimits, can_be_made, levers
from mockup.quantity.value import Value
from mockup.report import Report

MOST_PARTS = 3
A_HAIR_MM = 1e-9
"""A tiny cut, which already adds the whole U of a cut."""
ROUNDS = 3
SETTLED_BY = 4
"""How often a cut is solved again at most, since its own depth changes the U it must leave room for."""
SETTLED_MM = 1e-9

Curve = NDArray[np.float64]

GASKET, SHIMS, CAM, ROCKERS, PUSHRODS = (
    Lever(kind) for kind in (GASKET_CHANGED, SHIMS_CHANGED, CAM_MOVED, ROCKERS_CHANGED, PUSHRODS_CHANGED)
)
CAMS = {side: Lever(CAM_MOVED, side) for side in Side}


class Search:
    """Every combination within the limits, the cuts each needs, and which of them are clear."""

    def __init__(self, report: Report, limits: ShopLimits) -> None:
        self.report, self.limits = report, limits
        final = report.job.final_gasket
        self.gaskets: list[FinalGasket | None] = [None, *(g for g in limits.gaskets if final and g != final)]
        self.many = Batch(report, self.gaskets)
        self.levers = levers()
        self.cuts = {
            lever: self._deepest_mm(lever)
            for lever in self.levers
            if limits.cuts_mm.get(lever.kind) and can_be_made(lever.kind, report.job)
        }
        self.amounts: dict[Lever, Curve] = {}
        self.parts = np.zeros((1, len(self.levers)), dtype=bool)

    def _deepest_mm(self, lever: Lever) -> float:
        """Return how deep a cut may go [mm]; a relief to the limit of its crown."""
        most = self.limits.cuts_mm[lever.kind]
        if lever.kind is RELIEF_DEEPENED and lever.side is not None:
            return most / self.report.engine.row(lever.side).off_the_crown_mm(1.0)
        return most

    @property
    def tried(self) -> int:
        """How many combinations were computed."""
        return int(self.amounts[GASKET].size)

    def run(self) -> tuple[list[int], Check | None, float]:
        """Return the clear combinations, and the obstructing check with what it lacks [mm or 1]."""
        self.amounts = self._candidates()
        slack = self.many.slack(self.amounts)
        self.parts = np.column_stack([self.amounts[lever] != 0 for lever in self.levers])
        count = self.parts.sum(axis=1)
        few = (count > 0) & (count <= MOST_PARTS)
        worst = slack.min(axis=1, initial=np.inf)
        clear = np.flatnonzero(few & (worst >= -SLACK))
        return (self._ranked(clear[self._minimal(clear)]), *self._obstacle(slack, worst, few))

    def _options(self) -> dict[Lever, Iterable[float]]:
        """Return what is combined for each lever: the present state, and every option."""
        cam, job = {0.0, *self.limits.cam_deg}, self.report.job
        now = self.report.engine.ratio
        shims = self.limits.shims_mm if can_be_made(SHIMS_CHANGED, job) else ()
        # There is nothing below no shim, and nothing above what fits.
        under = [float(shims_now(job, cylinder)) for cylinder in job.engine.cylinder_numbers]
        shims = tuple(more for more in shims if min(under) + more >= 0 and max(under) + more <= MOST_SHIMS_MM)
        return {
            GASKET: range(len(self.gaskets)),
            CAM: [0.0] if self.limits.cams_apart else sorted(cam),
            **{lever: sorted(cam) if self.limits.cams_apart else [0.0] for lever in CAMS.values()},
            ROCKERS: sorted({0.0, *(round(ratio - now, 6) for ratio in self.limits.ratios)}),
            SHIMS: sorted({0.0, *shims}),
            # Only whether it is cut; the depth is solved. Reliefs are cut if that makes any check clear.
            **{lever: (0.0, 1.0) for lever in self.cuts if not lever.kind.of_a_side},
        }

    def _candidates(self) -> dict[Lever, Curve]:
        """Return all combinations of discrete options, with and without cuts, each cut solved."""
        options = self._options()
        grid = np.array(list(product(*options.values())), dtype=float)
        grid = grid[(grid != 0).sum(axis=1) <= MOST_PARTS]
        found = {lever: np.zeros(len(grid)) for lever in self.levers}
        found |= dict(zip(options, grid.T.copy(), strict=True))
        whole = {lever: found[lever] > 0 for lever in self.cuts if not lever.kind.of_a_side}
        found |= {lever: np.zeros(len(grid)) for lever in whole}
        for _ in range(ROUNDS):
            before = found.copy()
            # Reliefs cost ratio that a cut gives back, and a cut costs clearance that reliefs give back.
            for lever in sorted(whole, key=lambda lever: -lever.remedy.work):
                if whole[lever].any():
                    found[lever] = np.where(whole[lever], self._solved(found, lever), 0.0)
            for lever in self.cuts:
                if lever not in whole:
                    found[lever] = np.zeros(len(grid))
                    needed = self._shortage(found, lever) > SLACK
                    found[lever] = np.where(needed, self._solved(found, lever), 0.0)
            if all(np.array_equal(found[lever], before[lever]) for lever in self.cuts):
                break
        if self.limits.pushrod_step_mm:
            found[PUSHRODS] = self.longer_pushrods(found)
        return found

    def _cured(self, lever: Lever) -> list[tuple[Check, float, bool]]:
        """Return the checks that a cut clears, each with its limit and whether it is the upper."""
        cut = lever.remedy.cut
        assert cut is not None
        found = []
        for check in self.many.checks:
            for kind, upper in cut.cures:
                limit = check.limit.high if upper else check.limit.low
                if check.kind == kind and limit is not None and lever.side in (None, check.side):
                    found.append((check, limit, upper))
        return found

    def _shortage(self, amounts: dict[Lever, Curve], lever: Lever) -> Curve:
        """Return what the worst check cleared by a cut lacks, U counted, shape (m,); 0 for none."""
        cured = self._cured(lever)
        lacks = np.zeros(amounts[lever].shape)
        for (_, limit, upper), figure in zip(cured, self._of(amounts, cured), strict=True):
            more = figure.value - limit if upper else limit - figure.value
            lacks = np.maximum(lacks, np.nan_to_num(more + figure.expanded))
        return lacks

    def _of(self, amounts: dict[Lever, Curve], cured: list[tuple[Check, float, bool]]) -> list[Value]:
        return self.many.figures_of(amounts, [check for check, _, _ in cured])

    def _solved(self, amounts: dict[Lever, Curve], lever: Lever) -> Curve:
        """Return how deep to cut to clear every check it can, to a step, within the depth.

        Solved in the quantity in which each figure grows linearly, so exactly; its U is settled by repeating.
        """
        cured = self._cured(lever)
        needed = np.zeros(amounts[lever].shape)
        if not cured:
            return needed
        for _ in range(SETTLED_BY):
            depth = np.maximum(needed, A_HAIR_MM)
            before = needed
            # Here and a millimetre further in one call: the cost hardly depends on the size of the arrays.
            twice = {other: np.tile(amount, 2) for other, amount in amounts.items()}
            figures = self._of(twice | {lever: np.concatenate((depth, depth + 1.0))}, cured)
            for (check, limit, upper), figure in zip(cured, figures, strict=True):
                evenly = check.kind.evenly
                now, then = np.split(np.broadcast_to(figure.value, (2 * depth.size,)), 2)
                expanded = np.broadcast_to(figure.expanded, (2 * depth.size,))[: depth.size]
                wanted = limit - expanded if upper else limit + expanded
                with np.errstate(divide="ignore", invalid="ignore"):
                    more = (evenly(wanted) - evenly(now)) / (evenly(then) - evenly(now))
                needed = np.maximum(needed, np.nan_to_num(depth + more))
            if np.allclose(needed, before, rtol=0.0, atol=SETTLED_MM):
                break
        step = self.limits.relief_step_mm if _cut_fine(lever) else self.limits.cut_step_mm
        return _stepped(needed, step, self.cuts[lever])

    def longer_pushrods(self, amounts: dict[Lever, Curve]) -> Curve:
        """Return how much longer pushrods bring every preload into its window [mm], shape (m,).

        0 where all are already in, or so far out that no pushrod may be the remedy.
        """
        least, most = (np.full_like(amounts[GASKET], end) for end in (-np.inf, np.inf))
        rods = [check for check in self.many.checks if check.kind is PUSHROD_CHECK]
        longer = amounts | {PUSHRODS: np.ones_like(amounts[GASKET])}
        both = zip(rods, self.many.figures_of(amounts, rods), self.many.figures_of(longer, rods), strict=True)
        for check, now, then in both:
            low, high = check.limit.low, check.limit.high
            if low is None or high is None:
                continue
            gain = then.value - now.value
            ends = (low + now.expanded - now.value) / gain, (high - now.expanded - now.value) / gain
            least, most = np.maximum(least, np.minimum(*ends)), np.minimum(most, np.maximum(*ends))
        step = self.limits.pushrod_step_mm
        up, down = np.ceil(least / step - 1e-9) * step, np.floor(most / step + 1e-9) * step
        found = np.where(least > SLACK, up, np.where(most < -SLACK, down, 0.0))
        # Further off than pushrods may differ, the chosen length is in doubt, not the engine.
        furthest = PUSHRODS_CHANGED.range
        assert furthest is not None
        return np.where(np.abs(found) <= furthest.high, found, 0.0)

    def _ranked(self, rows: NDArray[np.intp]) -> list[int]:
        """Return the combinations, least work first; of one set of parts the smallest."""
        work = self.parts @ np.array([lever.remedy.work for lever in self.levers])
        much = np.zeros(len(self.parts))
        for lever, amount in self.amounts.items():
            share = {CAM_MOVED: 0.25, ROCKERS_CHANGED: 10.0}.get(lever.kind, 1.0)
            much += np.abs(self._thicker(amount) if lever == GASKET else amount) * share
        order = rows[np.lexsort((much[rows], self.parts[rows].sum(axis=1), work[rows]))]
        first: dict[bytes, int] = {}
        for row in order.tolist():
            first.setdefault(self.parts[row].tobytes(), row)
        return list(first.values())

    def _thicker(self, chosen: Curve) -> Curve:
        final = self.report.job.final_gasket
        return np.array([g.compressed_mm - final.compressed_mm if g and final else 0.0 for g in self.gaskets])[
            chosen.astype(np.intp)
        ]

    def _minimal(self, rows: NDArray[np.intp]) -> NDArray[np.bool_]:
        """Return for each combination whether leaving out any one part makes some check not clear."""
        several = self.parts[rows].sum(axis=1) > 1
        # Every combination without each of its parts, all in one call.
        remedy = [np.flatnonzero(self.parts[rows, at] & several) for at in range(len(self.levers))]
        of = np.concatenate(remedy)
        left_out = np.repeat(np.arange(len(self.levers)), [one.size for one in remedy])
        minimal = np.ones(rows.size, dtype=bool)
        if of.size:
            without = {
                lever: np.where(left_out == at, 0.0, self.amounts[lever][rows[of]])
                for at, lever in enumerate(self.levers)
            }
            minimal[of[self.many.clear(without)]] = False
        return minimal

    def _obstacle(self, slack: Curve, worst: Curve, few: NDArray[np.bool_]) -> tuple[Check | None, float]:
        rows = np.flatnonzero(few & np.isfinite(worst))
        if not rows.size or not slack.shape[1]:
            return None, 0.0
        nearest = int(rows[np.argmax(worst[rows])])
        at = int(np.argmin(slack[nearest]))
        return self.many.checks[at], float(-slack[nearest, at])

    def levers_of(self, row: int) -> tuple[Lever, ...]:
        """Return the levers that one combination uses."""
        return tuple(lever for lever, remedy in zip(self.levers, self.parts[row], strict=True) if remedy)

    def changes(self, row: int) -> tuple[Change, ...]:
        """Return one combination as decided changes, in the order best done."""
        return tuple(self._change(lever, float(self.amounts[lever][row])) for lever in self.levers_of(row))

    def _change(self, lever: Lever, remedy: float) -> Change:
        if lever == GASKET:
            return Change(key="gasket", kind=lever.kind, gasket=self.gaskets[int(remedy)])
        amount = round(remedy, 6)
        if lever.kind.along:
            return Change(key=str(lever), kind=lever.kind, front_mm=amount, rear_mm=amount)
        return Change(key=str(lever), kind=lever.kind, side=lever.side, amount=amount)


def _cut_fine(lever: Lever) -> bool:
    return lever.remedy.cut is not None and lever.remedy.cut.fine


def _stepped(needed: Curve, step: float, most: float) -> Curve:
    """Return amounts rounded up to a step, capped at the allowed depth."""
    rounded = np.ceil(needed / step - 1e-9) * step
    deepest = np.floor(most / step + 1e-9) * step
    return np.where(needed > 1e-8, np.minimum(rounded, deepest), 0.0)
