"""How much more lift the valves allow for certain, without a lobe.

A lobe of the same shape and timing with more lift raises every point in proportion, and by most at its nose. So each
millimetre more at the nose takes at most a millimetre of any clearance, at every angle. In fact it takes about a
quarter of that, which only a lobe tells. Checked against lobes of every card in tests/core/test_lift_bound.py.
"""

from dataclasses import dataclass

import numpy as np

from mockup.checks.check import Check
from mockup.checks.valve_gap import VALVE_GAP_CHECK
from mockup.checks.valves import FACE_KINDS
from mockup.limits.judge import State
from mockup.plans.batch import Batch
from mockup.quantity.shown import format_margin
from mockup.quantity.value import BENCH_UNIT, Unit

ASSUMES = "a lobe of the same shape, duration and timing"
"""What the bound holds for."""
NOT_COVERED = "Coil bind, retainer to seal and the rockers’ travel are not checked here."


@dataclass(frozen=True, slots=True)
class LiftBound:
    """At least this much more lift at the valve keeps all clear [mm], >= 0; what sets it.

    0 mm where ``set_by`` is not clear now.
    """

    more_mm: float
    set_by: Check


def lift_bound(many: Batch) -> LiftBound | None:
    """Return how much more lift is safe by the valves judged; None where none is judged."""
    kinds = {*FACE_KINDS.values(), VALVE_GAP_CHECK}
    of_valves = [(at, check) for at, check in enumerate(many.checks) if check.kind in kinds]
    if not any(check.kind is not VALVE_GAP_CHECK for _, check in of_valves):
        return None
    slack = many.slack({})[0]
    # Both valves rise into their gap, so more lift takes up to twice as much of it.
    left = [float(slack[at]) / (2 if check.kind is VALVE_GAP_CHECK else 1) for at, check in of_valves]
    # A figure in question has slack on paper and is not clear.
    left = [have if check.state is State.CLEAR else -1.0 for have, (_, check) in zip(left, of_valves, strict=True)]
    least = int(np.argmin(left))
    return LiftBound(max(left[least], 0.0), of_valves[least][1])


def lift_bound_words(bound: LiftBound, unit: Unit) -> str:
    """Return the bound in words, with what it assumes."""
    label = bound.set_by.label
    if not bound.more_mm:
        return f"It allows no more lift: {label} is not clear."
    more = f"{format_margin(bound.more_mm, unit).removeprefix('+')} {BENCH_UNIT[unit]}"
    return (
        f"At least {more} more lift at the valve keeps all clear, limited by {label}. This assumes {ASSUMES}, and "
        "that all of the lift is lost at the closest point; a cam card or a measured lobe tells how much more. "
        f"{NOT_COVERED}"
    )
