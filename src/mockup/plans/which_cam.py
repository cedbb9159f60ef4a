"""Which cam: what each cam would leave of every valve whose drop is known.

C(t) = drop + k P(t) - L(t), with L by the candidate's card or its measured lobe, at the chosen position and ratio.
Predictions, to be measured again before final assembly. Checked against ``evaluate`` with the cam put in
(tests/core/test_which_cam.py) and against cams whose truth is known (tests/outside). Source: docs/how-it-computes.md,
"Another cam".
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from mockup.changes.change import CHANGE_U_MM
from mockup.checks.check import Check
from mockup.checks.other_cam import known_drops
from mockup.checks.valves import FACE_KINDS
from mockup.engine.camshaft import Camshaft
from mockup.engine.valves import Place, Side
from mockup.fit.approach import NEAR_OVERLAP_DEG, Approach, Setting, approach_of, lowest
from mockup.fit.cam_report import cam_sides
from mockup.fit.shifts import lift_at
from mockup.limits.judge import SLACK, State, judge, slack
from mockup.quantity.corrections import running_figure
from mockup.quantity.value import Value
from mockup.report import Report

Curve = NDArray[np.float64]

REACH_DEG = 15.0
"""How far a candidate is tried either side of its position: common practice, no source."""
DEEPEST_RELIEF_MM, THICKEST_MORE_MM = 2.5, 1.5
"""The largest remedies considered: common practice, no source."""
SHOWN_DEG = np.linspace(-40.0, 40.0, 161)
TRIED_DEG = np.linspace(-REACH_DEG, REACH_DEG, 121)
"""The spacing of the crank angles, so that moving the lobe shifts it by whole samples."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Candidate:
    """A cam to be tried: ``advance_deg`` from its position, ``ratio`` [1] of other rockers."""

    key: str
    cam: Camshaft
    advance_deg: float = 0.0
    ratio: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Predicted:
    """One valve with a candidate in: present check, its figure [mm], its closest angle [deg].

    ``slack``: what it would leave above its minimum, U counted [mm]; infinite where it has none.
    """

    check: Check
    figure: Value
    angle_deg: float
    slack: float

    @property
    def state(self) -> State:
        """The state it would have if measured so."""
        return judge(self.figure, self.check.limit)

    @property
    def margin(self) -> float:
        """What it would leave above its minimum [mm]; infinite where it has none."""
        return self.figure.value - self.check.limit.low if self.check.limit.low is not None else math.inf


@dataclass(frozen=True, slots=True, kw_only=True)
class Work:
    """What would make a candidate clear by a single change; None where nothing does.

    ``window_deg``: the range of its advance [deg]; ``reliefs_mm``: deeper, by side; ``gasket_mm``: thicker [mm].
    """

    window_deg: tuple[float, float] | None
    reliefs_mm: Mapping[Side, float] | None
    gasket_mm: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Prospect:
    """A candidate in this engine.

    ``predicted`` in bench order; empty where nothing can be predicted.

    ``measured``: which sides have a measured lobe. ``missing``: why a side is not predicted, in words. ``curves``: for
    each side the clearance of its tightest valve over SHOWN_DEG [mm].
    """

    candidate: Candidate
    predicted: tuple[Predicted, ...] = ()
    measured: frozenset[Side] = frozenset()
    missing: tuple[str, ...] = ()
    work: Work | None = None
    curves: Mapping[Side, Curve] = field(default_factory=dict)

    @property
    def tightest(self) -> Predicted | None:
        """The valve with the least margin."""
        return min(self.predicted, key=lambda one: one.margin, default=None)

    @property
    def of_side(self) -> Mapping[Side, Predicted]:
        """The tightest valve of each side."""
        found = {side: [one for one in self.predicted if one.check.side is side] for side in Side}
        return {side: min(every, key=lambda one: one.margin) for side, every in found.items() if every}

    @property
    def clear(self) -> bool:
        """Whether both sides are predicted and every valve would be clear, U counted."""
        return bool(self.predicted) and not self.missing and all(one.slack >= -SLACK for one in self.predicted)


def which_cam(report: Report, candidates: Iterable[Candidate]) -> tuple[Prospect, ...]:
    """Return what each candidate would leave, the largest margin first; unpredictable ones last."""
    trial = _Trial(report)
    found = [trial.of(candidate) for candidate in candidates]
    return tuple(sorted(found, key=_rank))


def _rank(prospect: Prospect) -> tuple[bool, float]:
    tightest = prospect.tightest
    return tightest is None or bool(prospect.missing), -(tightest.margin if tightest else 0.0)


@dataclass(frozen=True, slots=True)
class _Known:
    """One valve of known drop as it will run [mm], and a unit along the bore [1]."""

    check: Check
    drop: Value
    k: float
    k_u: float


class _Trial:
    """An engine in which cams are tried: its drops, carried once."""

    def __init__(self, report: Report) -> None:
        self.report = report
        context = report.context
        checks = {(c.cylinder, c.side, c.number): c for kind in FACE_KINDS.values() for c in report.of_kind(kind)}
        self.known: dict[Side, list[_Known]] = {side: [] for side in Side}
        for place, drop in known_drops(context).items():
            check, corrections = checks.get((place.cylinder, place.side, place.number)), drop.corrections(context)
            if check and corrections:
                row = report.engine.row(place.side)
                known = _Known(check, running_figure(corrections), row.axial_factor, row.axial_factor_u)
                self.known[place.side].append(known)

    def of(self, candidate: Candidate) -> Prospect:
        report = self.report
        engine, context = report.engine, report.context
        sides = {} if engine.rocker_ratio is None and candidate.ratio is None else cam_sides(engine, candidate.cam)
        missing, predicted, curves = [], [], {}
        swung: list[tuple[list[_Known], _Swung]] = []
        more = 0.0 if candidate.ratio is None else candidate.ratio - engine.ratio
        setting = Setting(candidate.advance_deg, more)
        for side in Side:
            if side not in sides or not self.known[side]:
                missing.append(self._why(side, lobe=side in sides))
                continue
            approach = approach_of(report.job.engine, context.crank, sides[side], (), 0)
            approach = replace(approach, train=replace(approach.train, ratio=sides[side].train.ratio))
            swings = _Swung(approach, setting)
            least, at = swings.here
            lift = lift_at(approach, setting, least, at)
            mine = [_predicted(one, lift.delta, float(at[0])) for one in self.known[side]]
            predicted += mine
            tightest = min(mine, key=lambda one: one.margin)
            curves[side] = approach.curve_mm(SHOWN_DEG, setting) - float(least[0]) + tightest.figure.value
            swung.append((self.known[side], swings))
        predicted.sort(key=lambda one: _bench_order(one.check))
        return Prospect(
            candidate=candidate,
            predicted=tuple(predicted),
            measured=frozenset(side for side, one in sides.items() if one.train.lobe.measured),
            missing=tuple(missing),
            work=_work(predicted, swung) if predicted and not missing else None,
            curves=curves,
        )

    def _why(self, side: Side, *, lobe: bool) -> str:
        if lobe:
            return f"no {side} valve’s drop is known"
        if self.report.engine.rocker_ratio is None:
            return "the rocker ratio is not stated"
        return f"it has no {side} lobe, or no position for it"


def _predicted(one: _Known, lift: Value, angle_deg: float) -> Predicted:
    figure = one.drop + lift
    low = one.check.limit.low
    left = math.inf if low is None else figure.value - figure.expanded - low
    return Predicted(check=one.check, figure=figure, angle_deg=angle_deg, slack=float(left))


class _Swung:
    """One side's train over TRIED_DEG of advance: the minimum and its uncertainty.

    Advance moves the lobe against the piston, so one row of lifts, seen through a sliding window, is enough.
    """

    def __init__(self, approach: Approach, setting: Setting) -> None:
        t = NEAR_OVERLAP_DEG
        step = float(t[1] - t[0])
        lobe_at = np.arange(t[0] - REACH_DEG, t[-1] + REACH_DEG + step / 2, step) + setting.advanced_deg
        train = replace(approach.train, ratio=approach.train.ratio + setting.more_ratio, lash_mm=0.0)
        lift = train.lift_mm(lobe_at)
        windows = np.lib.stride_tricks.sliding_window_view(lift, len(t))
        curves = approach.k * approach.crank.travel_mm(t)[None, :] - windows
        middle_row = len(TRIED_DEG) // 2
        self.here = lowest(curves[middle_row : middle_row + 1])
        at = np.clip(np.argmin(curves, axis=1), 1, len(t) - 2)
        rows = np.arange(len(curves))
        left, middle, right = curves[rows, at - 1], curves[rows, at], curves[rows, at + 1]
        bend = np.maximum(left - 2 * middle + right, 1e-12)
        self.least = np.minimum(middle - np.minimum((left - right) ** 2 / (8 * bend), 0.05), np.minimum(left, right))
        place = lobe_at[at + rows]
        rise = (lift[at + rows + 1] - lift[at + rows - 1]) / (2 * step)
        is_open = lift[at + rows] > 0
        modes = train.modes_mm(place) * is_open[:, None]
        u_phase = float(np.sqrt(approach.covariance[2, 2]))
        table = getattr(train.lobe, "u_mm", 0.0) * train.ratio
        self.variance = (rise * u_phase * is_open) ** 2 + (modes**2).sum(axis=1) + table**2


def _bench_order(check: Check) -> tuple[int, int, int]:
    assert check.side is not None
    return Place(check.cylinder, check.side, check.number).bench_order


def _work(predicted: Sequence[Predicted], swung: Sequence[tuple[Sequence[_Known], _Swung]]) -> Work:
    """Return the smallest change of each kind that alone makes every valve clear."""
    room = np.full(len(TRIED_DEG), np.inf)
    for known, every in swung:
        room = np.minimum(room, _rooms(known, every).min(axis=0))
    return Work(window_deg=_window(room), reliefs_mm=_reliefs(predicted), gasket_mm=_gasket(predicted, swung))


def _rooms(known: Sequence[_Known], every: _Swung) -> Curve:
    """Return each valve's slack at every advance, U counted, shape (valves, n) [mm]."""

    def column(values: Sequence[float]) -> Any:
        return np.array(values, dtype=float)[:, None]

    drops = [one.drop for one in known]
    drop = Value(
        column([one.value for one in drops]), column([one.u for one in drops]), column([d.freedom for d in drops])
    )
    least: Any = every.least[None, :]
    u: Any = np.sqrt(every.variance)[None, :]
    figure = drop + Value(least, u)
    needs = column([-np.inf if one.check.limit.low is None else one.check.limit.low for one in known])
    return np.asarray(figure.value - figure.expanded - needs)


def _window(room: Curve) -> tuple[float, float] | None:
    """Return the interval of clear advance nearest to 0, its ends between the steps tried."""
    inside = np.flatnonzero(room >= -SLACK)
    if not inside.size:
        return None
    start = int(min(inside, key=lambda at: abs(TRIED_DEG[at])))
    first = last = start
    while first > 0 and room[first - 1] >= -SLACK:
        first -= 1
    while last < len(room) - 1 and room[last + 1] >= -SLACK:
        last += 1

    def edge(clear: int, beyond: int) -> float:
        if not 0 <= beyond < len(room):
            return float(TRIED_DEG[clear])
        share = room[clear] / max(room[clear] - room[beyond], 1e-12)
        return float(TRIED_DEG[clear] + max(share, 0.0) * (TRIED_DEG[beyond] - TRIED_DEG[clear]))

    return edge(first, first - 1), edge(last, last + 1)


def _reliefs(predicted: Sequence[Predicted]) -> Mapping[Side, float] | None:
    """Return how much deeper each side's reliefs must go [mm]; None where too deep."""
    found = {}
    for side in Side:
        deeper = max((_short_by(one) for one in predicted if one.check.side is side), default=0.0)
        if deeper > DEEPEST_RELIEF_MM:
            return None
        if deeper > 0:
            found[side] = deeper
    return found


def _short_by(one: Predicted) -> float:
    """Return how much a valve must gain by a cut to be clear [mm]; 0 where it is clear."""
    if one.slack >= -SLACK:
        return 0.0
    cut = one.figure + Value(0.0, CHANGE_U_MM)
    return -float(slack(cut, one.check.limit))


def _gasket(predicted: Sequence[Predicted], swung: Sequence[tuple[Sequence[_Known], _Swung]]) -> float | None:
    """Return how much thicker the gasket alone must be [mm]; None where too thick."""
    factors = {id(known.check): (known.k, known.k_u) for every, _ in swung for known in every}
    thicker = 0.0
    for one in predicted:
        k, k_u = factors[id(one.check)]
        # What a millimetre along the bore surely gains: the unstated lean of a valve may reduce it.
        if one.slack < -SLACK:
            thicker = max(thicker, -one.slack / max(k - 2 * k_u, 0.1))
    return thicker if thicker <= THICKEST_MORE_MM else None


def drops_known(report: Report) -> Mapping[Place, Value]:
    """Return the known drops as they will run [mm]; as found if no gasket is chosen."""
    found = known_drops(report.context)
    return {place: drop.running(report.context) or drop.as_found for place, drop in found.items()}
