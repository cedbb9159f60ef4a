"""The search through everything a shop could do: which combinations make every check clear, with least work.

Gaskets, cam steps and rockers are tried one with another; what can be cut to any amount (reliefs, head, deck) is
solved for each of them exactly, with the U of the cut itself, and rounded to the shop's step on the safe side.
"""

from collections.abc import Callable
from functools import partial
from itertools import product

import numpy as np
from numpy.typing import NDArray

from mockup.checks.check import FACE_KINDS, Check, Kind
from mockup.engine.block import cylinder_volume
from mockup.engine.changes import AMOUNT_RANGES, Change, ChangeKind
from mockup.engine.gasket import FinalGasket
from mockup.engine.valves import Side
from mockup.limits.judge import SLACK
from mockup.plans.levers import FIELDS, WORK, Lever, ShopLimits
from mockup.plans.surface import Amounts, Surface
from mockup.report import Report

MOST_PARTS = 3
A_HAIR_MM = 1e-9
"""A cut of next to nothing: it brings the whole of a cut's own U with it."""

Curve = NDArray[np.float64]

_KINDS = {
    Lever.SHIMS: ChangeKind.SHIMS,
    Lever.CAM: ChangeKind.CAM,
    Lever.CAM_INTAKE: ChangeKind.CAM,
    Lever.CAM_EXHAUST: ChangeKind.CAM,
    Lever.ROCKERS: ChangeKind.ROCKERS,
    Lever.PUSHRODS: ChangeKind.PUSHRODS,
    Lever.RELIEF_INTAKE: ChangeKind.RELIEF,
    Lever.RELIEF_EXHAUST: ChangeKind.RELIEF,
    Lever.EDGE_INTAKE: ChangeKind.EDGE,
    Lever.EDGE_EXHAUST: ChangeKind.EDGE,
    Lever.HEAD: ChangeKind.HEAD_CUT,
    Lever.DECK: ChangeKind.DECK_CUT,
}
"""What change each part of a plan but the gasket is."""


def _is_of(of: tuple[Kind, Side], check: Check) -> bool:
    return (check.kind, check.side) == of


class Search:
    """Every combination within the limits, what each would have to be cut, and which of them are clear."""

    def __init__(self, report: Report, limits: ShopLimits) -> None:
        self.report, self.limits = report, limits
        self.surface = Surface(report)
        self.final = report.job.final_gasket
        self.ratio = report.engine.rocker_ratio
        self.gaskets: list[FinalGasket | None] = [None, *(g for g in limits.gaskets if g != self.final)]
        self.chosen = np.zeros(1, dtype=np.intp)
        self.amounts = Amounts()
        self.parts = np.zeros((1, len(Lever)), dtype=bool)

    def run(self) -> tuple[list[int], Check | None, float]:
        """The combinations that are clear, least work first; the check in the way, and what it lacks [mm or 1]."""
        self.amounts = self._candidates()
        slack = self.surface.slack(self.amounts)
        self.parts = self._parts(self.amounts)
        count = self.parts.sum(axis=1)
        few = (count > 0) & (count <= MOST_PARTS)
        worst = slack.min(axis=1, initial=np.inf)
        clear = np.flatnonzero(few & (worst >= -SLACK))
        return (self._ranked(clear[self._minimal(clear)]), *self._obstacle(slack, worst, few))

    def _candidates(self) -> Amounts:
        """All discrete options one with another, with and without cuts of head and deck, each cut solved."""
        cam, still = sorted({0.0, *self.limits.cam_deg}), [0.0]
        apart = self.limits.cams_apart
        options = (
            range(len(self.gaskets)),
            still if apart else cam,
            cam if apart else still,
            cam if apart else still,
            sorted({0.0, *(round(r - self.ratio, 6) for r in self.limits.ratios)}),
            sorted({0.0, *(self.limits.shims_mm if self.report.job.engine.separate_barrels else ())}),
            (0.0, 1.0) if self.limits.head_mm else (0.0,),
            (0.0, 1.0) if self.limits.deck_mm and not self.report.job.engine.separate_barrels else (0.0,),
        )
        grid = np.array(list(product(*options)), dtype=float)
        grid = grid[(grid != 0).sum(axis=1) <= MOST_PARTS]
        gasket, cam_deg, intake_deg, exhaust_deg, more_ratio, shims, head, deck = grid.T
        self.chosen = gasket.astype(np.intp)
        amounts = Amounts(
            gasket_mm=np.array([self._thicker(g) for g in self.gaskets])[self.chosen],
            gasket_cc=np.array([self._larger(g) for g in self.gaskets])[self.chosen],
            advanced_deg=cam_deg,
            intake_cam_deg=intake_deg,
            exhaust_cam_deg=exhaust_deg,
            more_ratio=more_ratio,
            shims_mm=shims,
        ).spread()
        cut_head, cut_deck = head > 0, deck > 0
        for _ in range(3):
            # Reliefs take ratio that a cut gives back, and a cut takes clearance that reliefs give back.
            if cut_deck.any():
                amounts.deck_mm = np.where(cut_deck, self._deck(amounts), 0.0)
            if cut_head.any():
                amounts.head_mm = np.where(cut_head, self._head(amounts), 0.0)
            self._reliefs(amounts)
        if self.limits.pushrod_step_mm:
            amounts.pushrod_mm = self.longer_pushrods(amounts)
        return amounts

    def _thicker(self, gasket: FinalGasket | None) -> float:
        return gasket.compressed_mm - self.final.compressed_mm if gasket and self.final else 0.0

    def _larger(self, gasket: FinalGasket | None) -> float:
        if gasket is None or self.final is None:
            return 0.0
        return cylinder_volume(gasket.bore_mm, gasket.compressed_mm) - cylinder_volume(
            self.final.bore_mm, self.final.compressed_mm
        )

    def _short_by(self, amounts: Amounts, wanted: Callable[[Check], bool], *, high: bool = False) -> Curve:
        """How much the worst of some checks lacks of its limit with its U counted, shape (m,); 0 where none does."""
        predicted = self.surface.predict(amounts)
        value, expanded = predicted.value, predicted.expanded
        lacks = np.zeros(value.shape[0])
        for at, check in enumerate(self.surface.checks):
            limit = check.limit.high if high else check.limit.low
            if wanted(check) and limit is not None:
                more = value[:, at] - limit if high else limit - value[:, at]
                more = more + expanded[:, at]
                lacks = np.maximum(lacks, np.where(np.isnan(more), 0.0, more))
        return lacks

    def _reliefs(self, amounts: Amounts) -> None:
        """Reliefs of each side as deep, and as wide, as its worst valve asks; not cut where all is clear without."""
        for side, kind in FACE_KINDS.items():
            cuts = (
                (f"relief_{side}_mm", self.limits.relief_mm, (kind, side)),
                (f"edge_{side}_mm", self.limits.edge_mm, (Kind.RADIAL, side)),
            )
            for name, most, of in cuts:
                if most:
                    wanted = partial(_is_of, of)
                    setattr(amounts, name, np.zeros_like(amounts.gasket_mm))
                    needed = self._short_by(amounts, wanted) > SLACK
                    setattr(amounts, name, np.full_like(amounts.gasket_mm, A_HAIR_MM))
                    cut = self._stepped(self._short_by(amounts, wanted), self.limits.relief_step_mm, most)
                    setattr(amounts, name, np.where(needed, cut, 0.0))

    def _deck(self, amounts: Amounts) -> Curve:
        amounts.deck_mm = np.full_like(amounts.gasket_mm, A_HAIR_MM)
        quench = self._short_by(amounts, lambda check: check.kind is Kind.QUENCH, high=True)
        return self._stepped(
            np.maximum(quench, self._for_ratio(amounts, "deck_mm")), self.limits.cut_step_mm, self.limits.deck_mm
        )

    def _head(self, amounts: Amounts) -> Curve:
        amounts.head_mm = np.full_like(amounts.gasket_mm, A_HAIR_MM)
        return self._stepped(self._for_ratio(amounts, "head_mm"), self.limits.cut_step_mm, self.limits.head_mm)

    def longer_pushrods(self, amounts: Amounts) -> Curve:
        """How much longer pushrods bring every preload or lash into its window [mm], shape (m,): the fewest steps.

        0 where every one is in it already, or so far out that no change of pushrods may be.
        """
        least, most = (np.full_like(amounts.gasket_mm, end) for end in (-np.inf, np.inf))
        predicted = self.surface.predict(amounts)
        value, expanded = predicted.value, predicted.expanded
        for at, row in enumerate(self.surface.rows):
            low, high = row.check.limit.low, row.check.limit.high
            if row.check.kind is not Kind.PUSHROD or low is None or high is None:
                continue
            worth = row.bore["pushrod_mm"] * (1 + amounts.more_ratio / row.ratio if row.ratio else 1.0)
            ends = (low + expanded[:, at] - value[:, at]) / worth, (high - expanded[:, at] - value[:, at]) / worth
            least, most = np.maximum(least, np.minimum(*ends)), np.minimum(most, np.maximum(*ends))
        step = self.limits.pushrod_step_mm
        longer, shorter = np.ceil(least / step - 1e-9) * step, np.floor(most / step + 1e-9) * step
        found = np.where(least > SLACK, longer, np.where(most < -SLACK, shorter, 0.0))
        # Further off than pushrods may differ, the length that was chosen is to be doubted, not the engine mended.
        return np.where(np.abs(found) <= AMOUNT_RANGES[ChangeKind.PUSHRODS][1], found, 0.0)

    def _for_ratio(self, amounts: Amounts, name: str) -> Curve:
        """How much to cut for the least ratio asked: the volume solved exactly, its U settled by repeating."""
        needed = np.zeros_like(amounts.gasket_mm)
        worth = -self.surface.cc.head.value if name == "head_mm" else self.surface.cc.area
        for _ in range(4):
            setattr(amounts, name, np.maximum(needed, A_HAIR_MM))
            predicted = self.surface.predict(amounts)
            value, expanded = predicted.value, predicted.expanded
            for at, check in enumerate(self.surface.checks):
                if check.kind is Kind.RATIO and check.limit.low is not None:
                    swept = self.report.volumes[check.cylinder].swept.value
                    wanted = check.limit.low + expanded[:, at]
                    less_cc = swept / (value[:, at] - 1) - swept / (wanted - 1)
                    needed = np.maximum(needed, np.nan_to_num(getattr(amounts, name) + less_cc / worth))
        return needed

    @staticmethod
    def _stepped(needed: Curve, step: float, most: float) -> Curve:
        """Rounded up to a step; where that is deeper than allowed, as deep as is, which does not clear it."""
        rounded = np.ceil(needed / step - 1e-9) * step
        deepest = np.floor(most / step + 1e-9) * step
        return np.where(needed > 1e-8, np.minimum(rounded, deepest), 0.0)

    def _parts(self, amounts: Amounts) -> NDArray[np.bool_]:
        """Which levers each combination pulls, shape (m, levers)."""
        columns = [
            self.chosen > 0 if lever is Lever.GASKET else getattr(amounts, FIELDS[lever]) != 0 for lever in Lever
        ]
        return np.column_stack(columns)

    def _ranked(self, rows: NDArray[np.intp]) -> list[int]:
        """Least work first, of each set of parts the one that changes least."""
        a = self.amounts
        work = self.parts @ np.array([WORK[lever] for lever in Lever])
        much = np.abs(np.column_stack([a.advanced_deg, a.intake_cam_deg, a.exhaust_cam_deg])).sum(axis=1) / 4
        much = much + np.abs(a.more_ratio) * 10 + np.abs(a.gasket_mm) + np.abs(a.shims_mm) + np.abs(a.pushrod_mm)
        much = much + a.head_mm + a.deck_mm + sum(a.relief(side) + a.edge(side) for side in Side)
        order = rows[np.lexsort((much[rows], work[rows], self.parts[rows].sum(axis=1)))]
        first: dict[bytes, int] = {}
        for row in order.tolist():
            first.setdefault(self.parts[row].tobytes(), row)
        return list(first.values())

    def _minimal(self, rows: NDArray[np.intp]) -> NDArray[np.bool_]:
        """Of each combination whether leaving out any one of its parts makes some check not clear."""
        minimal = np.ones(rows.size, dtype=bool)
        for at, lever in enumerate(Lever):
            pulled = np.flatnonzero(self.parts[rows, at] & (self.parts[rows].sum(axis=1) > 1) & minimal)
            if pulled.size:
                without = self.amounts.taken(rows[pulled])
                for name in ("gasket_mm", "gasket_cc") if lever is Lever.GASKET else (FIELDS[lever],):
                    setattr(without, name, np.zeros(pulled.size))
                minimal[pulled] = ~self.surface.clear(without)
        return minimal

    def _obstacle(self, slack: Curve, worst: Curve, few: NDArray[np.bool_]) -> tuple[Check | None, float]:
        rows = np.flatnonzero(few & np.isfinite(worst))
        if not rows.size or not slack.shape[1]:
            return None, 0.0
        nearest = int(rows[np.argmax(worst[rows])])
        at = int(np.argmin(slack[nearest]))
        return self.surface.checks[at], float(-slack[nearest, at])

    def levers(self, row: int) -> tuple[Lever, ...]:
        """What one combination pulls."""
        return tuple(lever for lever, pulled in zip(Lever, self.parts[row], strict=True) if pulled)

    def changes(self, row: int) -> tuple[Change, ...]:
        """One combination as changes decided and not done, in the order they are best done."""
        return tuple(self._change(lever, self.amounts, row) for lever in self.levers(row))

    def _change(self, lever: Lever, amounts: Amounts, row: int) -> Change:
        if lever is Lever.GASKET:
            return Change(key="gasket", kind=ChangeKind.GASKET, gasket=self.gaskets[int(self.chosen[row])])
        amount = round(float(getattr(amounts, FIELDS[lever])[row]), 6)
        if lever in (Lever.HEAD, Lever.DECK, Lever.SHIMS):
            return Change(key=str(lever), kind=_KINDS[lever], front_mm=amount, rear_mm=amount)
        side = next((side for side in Side if side in lever), None)
        return Change(key=str(lever), kind=_KINDS[lever], side=side, amount=amount)
