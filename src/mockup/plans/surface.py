"""Every judged check as a function of what may be changed, for very many combinations at once.

Figures of ``evaluate`` are sums of independent rungs, so a change adds its own rung and its own u; only ratios and the
lift of a moved cam are more than a sum. The coefficients here are those of ``checks.clearance`` and ``checks.quench``;
tests hold every prediction against ``evaluate`` of the changed job.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, fields
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from mockup.checks.check import FACE_KINDS, Check, Kind
from mockup.engine.block import cylinder_volume
from mockup.engine.changes import CHANGE_U_MM, Change, ChangeKind, Touched
from mockup.engine.gasket import shims_under
from mockup.engine.pushrods import Lifter
from mockup.engine.valves import Side
from mockup.limits.judge import SLACK, Bound
from mockup.plans.what_if import TrainState, state_of
from mockup.quantity.solvers import coverages
from mockup.quantity.value import Value
from mockup.readings.approach import States, shifts
from mockup.readings.clay import ClayReading, HeadReading
from mockup.readings.volumes import volume_of_change
from mockup.report import Report

Curve = NDArray[np.float64]
FACES = tuple(FACE_KINDS.values())


def _zero() -> Curve:
    return np.zeros(1)


@dataclass(slots=True, kw_only=True)
class Amounts:
    """Combinations of changes, each field shape (m,) or (1,): thicker gasket and shims, cuts, reliefs, longer pushrods
    [mm], gasket volume more [cm3], the cam advanced (of two cams both alike), one of two cams besides [deg], rocker
    ratio more [1]."""

    gasket_mm: Curve = field(default_factory=_zero)
    gasket_cc: Curve = field(default_factory=_zero)
    shims_mm: Curve = field(default_factory=_zero)
    advanced_deg: Curve = field(default_factory=_zero)
    intake_cam_deg: Curve = field(default_factory=_zero)
    exhaust_cam_deg: Curve = field(default_factory=_zero)
    more_ratio: Curve = field(default_factory=_zero)
    pushrod_mm: Curve = field(default_factory=_zero)
    head_mm: Curve = field(default_factory=_zero)
    deck_mm: Curve = field(default_factory=_zero)
    relief_intake_mm: Curve = field(default_factory=_zero)
    relief_exhaust_mm: Curve = field(default_factory=_zero)
    edge_intake_mm: Curve = field(default_factory=_zero)
    edge_exhaust_mm: Curve = field(default_factory=_zero)

    def advanced(self, side: Side) -> Curve:
        """How far the cam of one side is advanced [deg]."""
        return self.advanced_deg + (self.intake_cam_deg if side is Side.INTAKE else self.exhaust_cam_deg)

    def relief(self, side: Side) -> Curve:
        """Reliefs of one side deeper [mm]."""
        return self.relief_intake_mm if side is Side.INTAKE else self.relief_exhaust_mm

    def edge(self, side: Side) -> Curve:
        """Reliefs of one side wider [mm]."""
        return self.edge_intake_mm if side is Side.INTAKE else self.edge_exhaust_mm

    def spread(self) -> "Amounts":
        """Every field at the full shape (m,)."""
        size = max(getattr(self, one.name).size for one in fields(self))
        return Amounts(**{one.name: np.broadcast_to(getattr(self, one.name), (size,)).copy() for one in fields(self)})

    def taken(self, rows: NDArray[np.intp] | Sequence[int]) -> "Amounts":
        """Some of the combinations, all fields at full shape."""
        return Amounts(**{one.name: getattr(self, one.name)[rows] for one in fields(self)})


@dataclass(frozen=True, slots=True, kw_only=True)
class _Row:
    """What each change is worth in one check: along the bore by gasket, shims, head and deck; reliefs and edges.

    ``ratio``: of a lash at the valve, the rocker ratio that multiplies it [1]; 0 of everything else.
    """

    check: Check
    value: float
    variance: float
    fourth: float
    bore: Mapping[str, float]
    relief: Mapping[Side, float]
    edge: Mapping[Side, float]
    state: TrainState | None
    ratio: float = 0.0
    wander_mm: float = 0.0
    sideways: float = 0.0


def judged(report: Report) -> list[Check]:
    """The checks that can be reckoned with: with a figure that proves something, and a limit."""
    return [
        check
        for check in report.checks
        if check.figure
        and check.limit.is_set
        and check.governing
        and check.governing.bound in (Bound.EXACT, Bound.AT_LEAST)
    ]


@dataclass(frozen=True, slots=True)
class Predicted:
    """Figures of every check for many combinations, their u and U: each shape (m, checks), [mm] or [1]."""

    value: Curve
    u: Curve
    expanded: Curve


class Surface:
    """All judged checks of a report, to be reckoned for many combinations of changes."""

    def __init__(self, report: Report) -> None:
        self.report = report
        self.checks = judged(report)
        self.rows = [_row(report, check) for check in self.checks]
        # Valves read by clay share one approach, and a search asks for the same cams and rockers many times.
        self._lifts: dict[tuple[TrainState | None, bytes], tuple[Curve, Curve, Curve]] = {}

    @cached_property
    def cc(self) -> "_Volumes":
        """What each change does to volumes."""
        return _Volumes(self.report)

    def predict(self, amounts: Amounts) -> "Predicted":
        """The figures of every check with their uncertainties; NaN where not known."""
        a = amounts.spread()
        values, variances, fourths = [], [], []
        for row in self.rows:
            value, variance, few = self._ratio(row, a) if row.check.kind is Kind.RATIO else self._length(row, a)
            values.append(value)
            variances.append(variance)
            fourths.append(self._fourth(row, a) + few)
        size = a.gasket_mm.size
        if not values:
            return Predicted(*(np.zeros((size, 0)) for _ in range(3)))
        variance = np.clip(np.column_stack(variances), 0.0, None)
        fourth = np.column_stack(fourths)
        with np.errstate(divide="ignore", invalid="ignore"):
            freedom = np.where(fourth > 0, variance**2 / fourth, np.inf)
        u = np.sqrt(variance)
        return Predicted(np.column_stack(values), u, coverages(freedom) * u)

    def _fourth(self, row: _Row, a: Amounts) -> Curve:
        """What few readings add up to after Welch and Satterthwaite: as in the figure, changes are surely known."""
        scale = 1 + a.more_ratio / row.ratio if row.ratio else 1.0
        if row.check.kind is Kind.RATIO:
            now = self.report.volumes[row.check.cylinder].clearance_cc
            with np.errstate(divide="ignore", invalid="ignore"):
                scale = (now / (now + self.cc.change(a)[0])) ** 2
        return np.broadcast_to(row.fourth * np.asarray(scale) ** 4, a.gasket_mm.shape)

    def slack(self, amounts: Amounts) -> Curve:
        """How far inside its limits each check lies with its U counted, shape (m, checks), [mm] or [1]."""
        predicted = self.predict(amounts)
        value, expanded = predicted.value, predicted.expanded
        found = np.full(value.shape, np.inf)
        for at, check in enumerate(self.checks):
            least, most = value[:, at] - expanded[:, at], value[:, at] + expanded[:, at]
            if check.limit.low is not None:
                found[:, at] = least - check.limit.low
            if check.limit.high is not None:
                found[:, at] = np.minimum(found[:, at], check.limit.high - most)
        return np.where(np.isnan(found), -np.inf, found)

    def clear(self, amounts: Amounts) -> NDArray[np.bool_]:
        """Whether every check would be clear, shape (m,)."""
        return np.asarray(self.slack(amounts).min(axis=1, initial=np.inf) >= -SLACK)

    def _length(self, row: _Row, a: Amounts) -> tuple[Curve, Curve, Curve]:
        value, variance = _length(row, a)
        side = row.check.side
        if row.check.kind not in FACES or side is None:
            return value, variance, np.zeros(value.shape)
        advanced = a.advanced(side)
        key = (row.state, advanced.tobytes() + a.more_ratio.tobytes())
        if key not in self._lifts:
            self._lifts[key] = _lift(row.state, advanced, a.more_ratio)
        gained, more, few = self._lifts[key]
        return value + gained, variance + more, few

    def _ratio(self, row: _Row, a: Amounts) -> tuple[Curve, Curve, Curve]:
        volumes = self.report.volumes[row.check.cylinder]
        now, swept = volumes.clearance_cc, volumes.swept.value
        more, variance = self.cc.change(a)
        left = now + more
        with np.errstate(divide="ignore", invalid="ignore"):
            ratio = np.where(left > 0, (swept + left) / left, np.nan)
            own = row.variance * (now / left) ** 4
            return ratio, own + (swept / left**2) ** 2 * variance, np.zeros(ratio.shape)


def _row(report: Report, check: Check) -> _Row:
    assert check.figure is not None
    bore, relief, edge, wander, sideways = {}, {}, {}, 0.0, 0.0
    side = check.side
    if check.kind in FACES and side:
        k = report.axial_factor(check.kind)
        bore = {"gasket_mm": k, "shims_mm": k, "head_mm": -k, "deck_mm": -k}
        relief = {side: 1.0}
    elif check.kind is Kind.RADIAL and side:
        edge = {side: 1.0}
        wander, sideways = _wander(report, check, side)
    elif check.kind in (Kind.QUENCH, Kind.QUENCH_EDGE):
        bore = {"gasket_mm": 1.0, "shims_mm": 1.0, "deck_mm": -1.0}
    elif check.kind is Kind.CROWN:
        bore = {"gasket_mm": 1.0, "shims_mm": 1.0, "deck_mm": -1.0}
        if _nears_the_head(report, check):
            bore["head_mm"] = -1.0
    elif check.kind is Kind.PUSHROD:
        bore = _pushrod(report)
    choice, ratio = report.job.pushrod_choice, report.engine.rocker_ratio
    return _Row(
        check=check,
        value=check.figure.value,
        variance=check.figure.u**2,
        fourth=check.figure.fourth,
        bore=bore,
        relief=relief,
        edge=edge,
        state=state_of(report, check),
        ratio=ratio if check.kind is Kind.PUSHROD and choice and choice.lifter is not Lifter.HYDRAULIC else 0.0,
        wander_mm=wander,
        sideways=sideways,
    )


def _nears_the_head(report: Report, check: Check) -> bool:
    """Whether a cut head brings what was clayed between crown and head nearer: plug and dome, not the pads."""
    keys = set(check.governing.evidence) if check.governing else set()
    return any(reading.spot.touched is Touched.CROWN for reading in report.job.of(HeadReading) if reading.key in keys)


def _wander(report: Report, check: Check, side: Side) -> tuple[float, float]:
    """How far the head already stands off from where it was mocked up [mm], and what one is worth sideways [1]."""
    keys = set(check.governing.evidence) if check.governing else set()
    letter = next((reading.mockup for reading in report.job.of(ClayReading) if reading.key in keys), None)
    final = report.job.final_gasket
    if letter is None or final is None:
        return 0.0, 0.0
    row, mockup = report.job.engine.row(side), report.job.mockup(letter)
    shims = shims_under(report.job.final_shims, check.cylinder) if report.job.engine.separate_barrels else None
    raised = shims.total_mm - mockup.shims_mm if shims else 0.0
    return final.compressed_mm - mockup.gasket_mm + raised, float(np.sin(np.radians(row.inclination_deg)))


def _pushrod(report: Report) -> dict[str, float]:
    choice = report.job.pushrod_choice
    assert choice is not None
    share = float(np.cos(np.radians(choice.lean_deg)))
    worth = -share if choice.lifter is Lifter.HYDRAULIC else share * report.engine.rocker_ratio
    rod = 1.0 if choice.lifter is Lifter.HYDRAULIC else -report.engine.rocker_ratio
    return {"gasket_mm": worth, "head_mm": -worth, "deck_mm": -worth, "pushrod_mm": rod}


def _length(row: _Row, a: Amounts) -> tuple[Curve, Curve]:
    value = np.full(a.gasket_mm.shape, row.value)
    variance = np.full(a.gasket_mm.shape, row.variance)
    for name, worth in row.bore.items():
        amount = getattr(a, name)
        value = value + worth * amount
        if name in ("head_mm", "deck_mm"):
            variance = variance + np.where(amount > 0, (worth * CHANGE_U_MM) ** 2, 0.0)
    for of, amounts in ((row.relief, a.relief), (row.edge, a.edge)):
        for side, worth in of.items():
            value = value + worth * amounts(side)
            variance = variance + np.where(amounts(side) > 0, CHANGE_U_MM**2, 0.0)
    if row.sideways:
        shifts = (row.wander_mm + a.gasket_mm + a.shims_mm) ** 2 - row.wander_mm**2
        variance = np.maximum(variance + row.sideways**2 / 3 * shifts, 0.0)
    if row.ratio:
        scale = 1 + a.more_ratio / row.ratio
        value, variance = value * scale, variance * scale**2
    return value, variance


def _lift(state: TrainState | None, advanced_deg: Curve, more_ratio: Curve) -> tuple[Curve, Curve, Curve]:
    """What the moved cam, then other rockers, add to a closest point, to its variance, and to u^4 over its freedom."""
    moved = (advanced_deg != 0) | (more_ratio != 0)
    if not moved.any():
        return np.zeros(moved.shape), np.zeros(moved.shape), np.zeros(moved.shape)
    if state is None:
        return np.where(moved, np.nan, 0.0), np.zeros(moved.shape), np.zeros(moved.shape)
    of, still = state.approach, np.zeros(moved.shape)
    was = States(np.full(moved.shape, state.advanced_deg), np.full(moved.shape, state.more_ratio), still)
    cam = States(was.advanced_deg + advanced_deg, was.more_ratio, still)
    both = States(cam.advanced_deg, was.more_ratio + more_ratio, still)
    first, second = shifts(of, was, cam), shifts(of, cam, both)
    return first.gain_mm + second.gain_mm, first.more + second.more, first.few + second.few


class _Volumes:
    """What one unit of each change does to the volume above a crown [cm3], with its u."""

    def __init__(self, report: Report) -> None:
        engine = report.engine
        self.area = cylinder_volume(engine.bore_mm, 1.0)
        cylinder = engine.cylinder_numbers[0]

        def one(kind: ChangeKind, **of: object) -> Value:
            return volume_of_change(Change(key="", kind=kind, **of), cylinder, engine)  # type: ignore[arg-type]

        self.head = one(ChangeKind.HEAD_CUT, front_mm=1.0, rear_mm=1.0)
        self.relief = {side: one(ChangeKind.RELIEF, side=side, amount=1.0) for side in Side}

    def change(self, a: Amounts) -> tuple[Curve, Curve]:
        """Volume more [cm3] and its variance, each shape (m,)."""
        more = a.gasket_cc + self.area * (a.shims_mm - a.deck_mm) + self.head.value * a.head_mm
        variance = np.where(a.deck_mm > 0, (self.area * CHANGE_U_MM) ** 2, 0.0) + (self.head.u * a.head_mm) ** 2
        for side, worth in self.relief.items():
            more = more + worth.value * a.relief(side)
            variance = variance + (worth.u * a.relief(side)) ** 2
        return more, variance
