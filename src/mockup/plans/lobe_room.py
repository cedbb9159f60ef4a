"""Another grind of the same cam: how much more lift or duration all checks allow.

More lift raises every point of the lobe alike, as rockers do. A longer duration at equal lift stretches it about its
middle, including its unknown part. Checked against ``evaluate`` with a card of that duration in
tests/core/test_lobe_room.py.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import ArrayLike
from scipy.interpolate import CubicSpline

from mockup.changes.train import ROCKERS_CHANGED
from mockup.checks.check import Check
from mockup.checks.valves import FACE_KINDS
from mockup.motion.lobes import CENTRED_AT_MM, Lobe
from mockup.plans.batch import Batch, Curve
from mockup.plans.levers import Lever
from mockup.plans.room import OfLobe, Room, room_by
from mockup.plans.what_if import train_of

LIFT_SHARE = (-0.20, 0.30)
LONGER_DEG = (-30.0, 40.0)
"""The search range, crank degrees at 0.050 in of lobe lift; beyond, it is another cam. Common practice."""
TRIED = 15


@dataclass(frozen=True, eq=False)
class Stretched:
    """A lobe stretched about its middle by a factor ``share`` [1]."""

    lobe: Lobe
    share: float

    @property
    def lift_max_mm(self) -> float:
        """Maximum lift [mm]."""
        return self.lobe.lift_max_mm

    @property
    def measured(self) -> bool:
        """Whether the original lobe was measured."""
        return self.lobe.measured

    def lift_mm(self, from_middle_deg: ArrayLike) -> Curve:
        """Return the lift at the lobe, any shape [deg] in, the same shape [mm] out."""
        return self.lobe.lift_mm(np.asarray(from_middle_deg, dtype=float) / self.share)

    def flanks_deg(self, at_mm: float) -> tuple[float, float]:
        """Return where it opens and closes at a lift, from its middle [deg]."""
        opens, closes = self.lobe.flanks_deg(at_mm)
        return self.share * opens, self.share * closes

    def modes_mm(self, from_middle_deg: ArrayLike) -> Curve:
        """Return the lift of each open mode: (n,) [deg] in, (n, modes) [mm] out."""
        return self.lobe.modes_mm(np.asarray(from_middle_deg, dtype=float) / self.share)


def lobe_rooms(many: Batch) -> tuple[Room, ...]:
    """Return the room of lift and of duration; empty if nothing is judged or known."""
    return tuple(_rooms(many)) if many.checks and many.report.context.cams else ()


def _rooms(many: Batch) -> Iterator[Room]:
    if many.report.job.engine.rocker_ratio is not None:
        rockers, ratio = Lever(ROCKERS_CHANGED), many.report.engine.ratio

        def lifted(shares: Curve) -> Curve:
            return many.slack({rockers: ratio * shares})

        yield room_by(lifted, many.checks, OfLobe.LIFT, LIFT_SHARE)
    longer = _Longer(many)
    yield room_by(longer, many.checks, OfLobe.DURATION, LONGER_DEG)


class _Longer:
    """How far inside its limits each check is with more duration at equal lift."""

    def __init__(self, many: Batch) -> None:
        self.now = many.slack({})[0]
        tried = np.linspace(*LONGER_DEG, TRIED)
        kinds = set(FACE_KINDS.values())
        kept: dict[tuple[object, ...], CubicSpline] = {}
        self.gains: Mapping[int, CubicSpline | None] = {
            at: self._gain(many, check, tried, kept) for at, check in enumerate(many.checks) if check.kind in kinds
        }

    def __call__(self, longer_deg: Curve) -> Curve:
        found = np.repeat(self.now[None, :], len(longer_deg), axis=0)
        for at, gain in self.gains.items():
            more = np.where(longer_deg == 0, 0.0, -np.inf) if gain is None else gain(longer_deg)
            found[:, at] += more
        return found

    def _gain(
        self, many: Batch, check: Check, tried: Curve, kept: dict[tuple[object, ...], CubicSpline]
    ) -> CubicSpline | None:
        """Return what a valve gains by it [mm], relative to now; None where its lobe is not known."""
        train = train_of(many.report, check)
        if train is None:
            return None
        approach, setting = train
        key = (approach, setting)
        if key not in kept:
            lobe = approach.train.lobe
            opens, closes = lobe.flanks_deg(min(CENTRED_AT_MM, 0.5 * lobe.lift_max_mm))
            least = [
                float(
                    replace(approach, train=replace(approach.train, lobe=Stretched(lobe, share))).least(setting)[0][0]
                )
                for share in 1 + np.append(tried, 0.0) / (closes - opens)
            ]
            kept[key] = CubicSpline(tried, np.array(least[:-1]) - least[-1])
        return kept[key]
