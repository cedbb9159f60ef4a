"""What changes would do: the job with them, evaluated and compared with the present."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from mockup.base.faults import Fault, refuse
from mockup.changes import affected
from mockup.changes.change import Change
from mockup.changes.since import advanced_since, cam_put_in, gasket_put_in, last_order
from mockup.changes.stack import SHIMS_CHANGED
from mockup.changes.train import PUSHRODS_CHANGED
from mockup.checks.check import Check, Kind
from mockup.checks.clearance import Carried
from mockup.checks.to_running import approach_to
from mockup.checks.valves import FACE_KINDS
from mockup.engine.gasket import BaseShims
from mockup.engine.pushrods import longer
from mockup.engine.running import RANGES, RODS, Material
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.fit.approach import Approach, Setting, approach_of
from mockup.fit.engine_history import shims_now
from mockup.job import Job
from mockup.report import Report, worst

SHOWN_DEG = np.linspace(-40.0, 40.0, 81)
MOST_CHANGES = 20


@dataclass(frozen=True, slots=True, kw_only=True)
class WhatIf:
    """Changes considered together, under a name; speed [1/min] and rod for the estimate.

    Raises FaultsError.
    """

    name: str = ""
    changes: tuple[Change, ...] = ()
    rpm: float | None = None
    rod: Material | None = None

    def __post_init__(self) -> None:
        low, high = RANGES["rpm"]
        found = []
        if self.rpm is not None and not low <= self.rpm <= high:
            found.append(Fault("rpm", f"From {low:g} to {high:g}."))
        if self.rod is not None and self.rod not in RODS:
            found.append(Fault("rod", f"One of: {', '.join(RODS)}."))
        if len(self.changes) > MOST_CHANGES:
            found.append(Fault("changes", f"At most {MOST_CHANGES} changes at once."))
        refuse(found)

    @property
    def is_empty(self) -> bool:
        """Whether it changes nothing."""
        return not self.changes and self.rpm is None and self.rod is None


@dataclass(frozen=True, slots=True)
class Effect:
    """One kind of check before and after: the worst check of each."""

    kind: Kind
    before: Check
    after: Check


def done(job: Job, change: Change) -> Job:
    """Return the job with ``change`` done as its latest, whether it was decided or not."""
    others = tuple(other for other in job.changes if other.key != change.key)
    put_in = cam_put_in(gasket_put_in(change, job.final_gasket), job.camshaft)
    latest = replace(put_in, order=last_order(job.changes) + 1)
    choice = job.pushrod_choice
    if change.kind is PUSHRODS_CHANGED:
        choice = longer(choice, change.amount)
    return replace(
        job,
        changes=(*others, latest),
        final_gasket=change.gasket or job.final_gasket,
        cam_card=change.cam.card if change.cam else job.cam_card,
        lobe_tables=change.cam.tables if change.cam else job.lobe_tables,
        final_shims=shims_raised(job, change) if change.kind is SHIMS_CHANGED else job.final_shims,
        pushrod_choice=choice,
    )


def shims_raised(job: Job, change: Change) -> tuple[BaseShims, ...]:
    """Return the shims with those of a change's barrels thicker by it, the others unchanged.

    Raises FaultsError where a barrel would have less than nothing.
    """
    touched = [c for c in job.engine.cylinder_numbers if change.touches(c, job.engine)]
    raised = [
        BaseShims(total_mm=round(shims_now(job, c) + change.at_mm(c, job.engine), 6), cylinder=c) for c in touched
    ]
    own = any(shims.cylinder is not None for shims in job.final_shims)
    if not own and len(touched) == job.engine.cylinders and len({one.total_mm for one in raised}) == 1:
        return (BaseShims(total_mm=raised[0].total_mm),)
    return (*(shims for shims in job.final_shims if shims.cylinder not in touched), *raised)


def supposed(job: Job, what_if: WhatIf) -> Job:
    """Return the job as if everything of the what-if were done.

    Raises FaultsError where the engine could not be so.
    """
    for at, change in enumerate(what_if.changes):
        job = done(job, replace(change, key=f"what-if {at}", supposed=True))
    if job.running and (what_if.rpm is not None or what_if.rod):
        rpm = job.running.rpm if what_if.rpm is None else what_if.rpm
        job = replace(job, running=replace(job.running, rpm=rpm, rod=what_if.rod or job.running.rod))
    return job


def effects(before: Report, changed: Job) -> tuple[Effect, ...]:
    """Return the effect of the changed job on every kind of check with a figure."""
    return effects_of(before, evaluate(changed))


def effects_of(before: Report, after: Report) -> tuple[Effect, ...]:
    """Return every kind of check with a figure, before and after."""
    pairs = ((kind, before.of_kind(kind), after.of_kind(kind)) for kind in Kind.all())
    return tuple(
        Effect(kind, worst(was), worst(would))
        for kind, was, would in pairs
        if any(check.figure for check in was) and would
    )


def train_of(report: Report, check: Check) -> tuple[Approach, Setting] | None:
    """Return how a check's valve nears its piston, and its train's setting since.

    None where its lobe is not known, or nothing was read of it.
    """
    read = check.governing.again if check.governing else None
    cam = report.context.cams.get(check.side) if check.side else None
    if cam is None or not isinstance(read, Carried) or read.of.what is not affected.FACE:
        return None
    approach = approach_to(read.of, read.mockup, report.context)
    if read.of.drop:
        # The other cam runs with the present train.
        return approach, Setting()
    after = read.of.after
    more = report.context.ratio - report.context.ratio_when(after)
    return approach, Setting(advanced_since(report.job.changes, after, cam.side), more)


@dataclass(frozen=True, slots=True, kw_only=True)
class CurveChange:
    """One valve's clearance over the crank before and after: each shape (n,) [deg] and [mm].

    ``full_lift_mm``: the result of subtracting the rocker change at full lift [mm], 0 where rockers stay.
    ``at_closest_mm``: what the rockers really take at the closest point [mm].
    """

    side: Side
    label: str
    t_deg: NDArray[np.float64]
    before_mm: NDArray[np.float64]
    after_mm: NDArray[np.float64]
    need_mm: float | None
    full_lift_mm: float
    at_closest_mm: float


def curve_changes(before: Report, after: Report) -> tuple[CurveChange, ...]:
    """Return the curve of each side's tightest valve whose lobe is known, before and after."""
    return tuple(found for kind in FACE_KINDS.values() if (found := _curve_change(before, after, kind)))


def _curve_change(before: Report, after: Report, kind: Kind) -> CurveChange | None:
    read = [check for check in before.of_kind(kind) if check.figure]
    if not read:
        return None
    check = worst(read)
    then = next(one for one in after.of_kind(kind) if one.label == check.label)
    was, would = train_of(before, check), train_of(after, then)
    if was is None or would is None or check.figure is None or then.figure is None or check.side is None:
        return None
    (approach, old), (other, new) = was, would
    if other.train.lobe is approach.train.lobe:
        other = approach
    cam_alone = replace(new, more_ratio=old.more_ratio)
    least = [float(one.least(at)[0][0]) for one, at in ((approach, old), (other, cam_alone), (other, new))]
    more = new.more_ratio - old.more_ratio
    curves = [
        one.curve_mm(SHOWN_DEG, at) - floor + figure.value
        for one, at, floor, figure in ((approach, old, least[0], check.figure), (other, new, least[2], then.figure))
    ]
    return CurveChange(
        side=check.side,
        label=check.label,
        t_deg=SHOWN_DEG,
        before_mm=curves[0],
        after_mm=curves[1],
        need_mm=check.limit.low,
        full_lift_mm=more * other.train.lobe.lift_max_mm,
        at_closest_mm=least[1] - least[2],
    )


def lash_left_mm(report: Report, side: Side) -> float | None:
    """Return what running lash adds at the closest point [mm], never counted on; or None."""
    cam = report.context.cams.get(side)
    if cam is None:
        return None
    approach = approach_of(report.engine, report.crank, cam, (), 0)
    return min(cam.train.lash_mm, approach.lift_at_closest_mm())


def steps_to_take(what_if: WhatIf) -> Sequence[Change]:
    """Return the changes of a what-if as decided changes."""
    return [replace(change, order=None, supposed=False) for change in what_if.changes]
