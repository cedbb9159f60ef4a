"""Clearances carried from a mock-up to the engine as it will run, and findings of clay.

Corrections along the valve axis (geometry: docs/how-it-computes.md, "From clay to running"): square-to-crown clay on a
flat crown divided by cos a; gasket and base shims k (final - mock-up); decks cut since; lash left in subtracted; soft
dough given a larger u. Each change of cam, rockers, reliefs and valves since is one correction
(docs/how-it-computes.md, "Changes since a reading").
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from mockup.changes.pistons import PISTONS_CHANGED
from mockup.changes.since import since_words
from mockup.changes.stack import GASKET_CHANGED, SHIMS_CHANGED
from mockup.changes.train import ROCKERS_CHANGED
from mockup.checks.check import Finding, Trust
from mockup.checks.conditions import SNUGGED_HIDES_MM, Grounds, grounds_of, snugged_too_near
from mockup.checks.to_running import NO_LOBE, ReadOf, by_the_lobe, changed_since, to_running, touching, valve_read
from mockup.context import EvaluationContext
from mockup.engine.block import Engine
from mockup.engine.gasket import THICKEST_USUAL_MM, THINNEST_USUAL_MM, GasketState
from mockup.engine.mockup import Bolts, Clay, MockUp
from mockup.engine.valves import UNSTATED_DEG, Relief
from mockup.fit.clay_thickness import DOUGH_U_MM, thinnest_correction, thinnest_of
from mockup.limits.judge import Bound
from mockup.limits.limit_set import LimitName
from mockup.quantity.corrections import Correction, UncertaintySource, running_figure
from mockup.quantity.shown import mm_range, mm_text
from mockup.quantity.value import Value
from mockup.readings.clay import ClayReading, Gap, Pressed

NO_FINAL_GASKET = "Choose the final gasket: without it the running figure is not known."
TORQUE_IT = f"Within {mm_text(SNUGGED_HIDES_MM)} of the limit with the head only snugged: torque it and measure again."
UPRIGHT = (
    f"The valve’s angle is not stated, so it counts as upright. At {UNSTATED_DEG:g}° a move along the bore, such as a "
    f"gasket, would count {abs(1 - math.cos(math.radians(UNSTATED_DEG))):.0%} differently; that is in the U."
)
UNKNOWN_STOOD = (
    f"The mock-up’s gasket is not known: anything from {mm_range(THINNEST_USUAL_MM, THICKEST_USUAL_MM)} is counted. "
    "State which it was."
)
OTHER_PISTONS = "Other pistons went in since this was read, so it tells nothing about them."
SUPPOSED_PISTONS = "Assumes the same reliefs in the other pistons: only a reading will tell."
TOUCHING_MM = 1e-6
TOUCHES = "It touches: metal on metal. Do not turn the engine over by force, and do not run it so."
TOUCHED_THEN = "It touched when read; what separates the parts since is only computed. Read it again."
NOT_TOUCHED_NO_BOUND = (
    "The valve did not touch the clay, but this mock-up reads large, so that proves nothing. Clay again under "
    "sound conditions."
)
ROCKERS_AT_MOST = (
    "The lobe is unknown. Other rockers take at most their change times the full lobe lift, which is subtracted here: "
    "the clearance is at least this."
)
_CHOSEN_SINCE = {
    GASKET_CHANGED: "final gasket changed since it was read",
    SHIMS_CHANGED: "base shims changed since it was read",
}


def clay_finding(readings: Sequence[ClayReading], limit: LimitName, context: EvaluationContext) -> Finding:
    """Return the finding of one valve's clay in its mock-up; readings thinnest first.

    The figure is None where the readings are void or no final gasket is chosen. Clay that was not touched is a lower
    bound.
    """
    thinnest = thinnest_of(readings)
    of = valve_read(thinnest.place, thinnest.after, context.engine, limit, thinnest.gap)
    squared = square_to_crown(thinnest, context.engine) if thinnest.gap is Gap.FACE else []
    grounds = grounds_of(
        context.job.mockup(thinnest.mockup),
        context.stated_ratio_when(of.after),
        of.side,
        lobe_known=of.side in context.cams,
        reversed_runs=context.engine.pistons_reversed,
        hidden_counted=thinnest.gap is Gap.FACE,
    )
    return pressed_finding(of, readings, context, grounds, squared)


def pressed_finding(
    of: ReadOf,
    readings: Sequence[Pressed],
    context: EvaluationContext,
    grounds: Grounds,
    squared: Sequence[Correction] = (),
) -> Finding:
    """Return the finding of clay read at one place in one mock-up, thinnest first.

    ``grounds``: what the mock-up's conditions allow; ``squared``: corrections for its direction.
    """
    thinnest = thinnest_of(readings)
    touched = sum(reading.touched for reading in readings)
    first = replace(thinnest_correction(readings, context.job.instruments), text=_as_read(touched))
    read = Carried(of=of, mockup=context.job.mockup(thinnest.mockup), first=(first,), squared=tuple(squared))
    grounds = grounds_for(of, grounds, context)
    found = carried_finding(read, context, grounds, f"clay, mock-up {thinnest.mockup}")
    found = replace(found, evidence=tuple(reading.key for reading in readings))
    if touched:
        return touching_as_read(found) if thinnest.thickness_mm <= TOUCHING_MM else found
    if grounds.bound(context.job.limits) is Bound.AT_MOST:
        # A mock-up that can only read large, and clay not touched even so: no bound either way.
        words = (*found.cautions, NOT_TOUCHED_NO_BOUND)
        return replace(found, figure=None, corrections=(), cautions=words)
    return replace(found, bound=Bound.AT_LEAST)


def touching_as_read(found: Finding) -> Finding:
    """Return the finding for a reading of zero: it touched.

    Touching parts may press together, so it bounds from above.

    Unless a change since, or another gasket, certainly separates them, they touch in the running engine too, which is
    short under all limits.
    """
    if found.trust is Trust.VOID:
        return found
    parted = found.figure is not None and found.figure.value - found.figure.expanded > 0
    words = TOUCHED_THEN if parted else TOUCHES
    return replace(found, bound=Bound.AT_MOST, contact=not parted, cautions=(words, *found.cautions))


@dataclass(frozen=True, slots=True, kw_only=True)
class Carried:
    """A reading to be carried: what it was read of, its mock-up, its first corrections.

    ``squared``: corrections for its direction, once a final gasket is chosen. Called with a context it returns all
    corrections, for one engine or a batch.
    """

    of: ReadOf
    mockup: MockUp
    first: tuple[Correction, ...]
    squared: tuple[Correction, ...] = ()

    def __call__(self, context: EvaluationContext) -> tuple[Correction, ...]:
        """Return the corrections from the reading to the engine as it will run [mm]."""
        soft = self.mockup.clay is Clay.DOUGH and self.of.swept is None
        last = [Correction("soft dough springs back", Value(0.0, DOUGH_U_MM), UncertaintySource.CLAY)] if soft else []
        squared = () if context.gasket_more(self.mockup, self.of.after) is None else self.squared
        return (*self.first, *squared, *to_running(self.of, self.mockup, context), *last)


def carried_finding(read: Carried, context: EvaluationContext, grounds: Grounds, method: str) -> Finding:
    """Return the finding of a reading carried to the running engine, with its cautions."""
    of, limits, corrections = read.of, context.job.limits, read(context)
    cautions = list(grounds.cautions)
    figure = None
    if context.gasket_more(read.mockup, of.after) is None:
        cautions.append(NO_FINAL_GASKET)
    elif grounds.trust is not Trust.VOID:
        figure = running_figure(corrections)
        if read.mockup.gasket_state is GasketState.UNKNOWN:
            cautions.append(UNKNOWN_STOOD)
        if of.factor_u and any(correction.delta.value for correction in corrections[1:]):
            cautions.append(UPRIGHT)
        if read.mockup.bolts is Bolts.SNUGGED and snugged_too_near(figure, limits.minimum(of.limit)):
            cautions.append(TORQUE_IT)
    return Finding(
        figure=figure,
        bound=grounds.bound(limits),
        trust=grounds.trust,
        method=method,
        corrections=corrections,
        cautions=tuple(cautions),
        carried=(*(since_words(change) for change in touching(of, context)), *_chosen_since(of, context)),
        read_again=bool(touching(of, context)),
        again=read,
    )


def grounds_for(of: ReadOf, found: Grounds, context: EvaluationContext) -> Grounds:
    """Return the grounds of one reading; void where pistons or an unknown lobe changed."""
    since = touching(of, context)
    swapped = [change for change in since if change.kind is PISTONS_CHANGED]
    if any(not change.supposed for change in swapped):
        return Grounds(Trust.VOID, (*found.cautions, OTHER_PISTONS))
    moved = [change for change in since if by_the_lobe(change, of)]
    if moved and of.side not in context.cams:
        # Rockers raise every point of the lobe by the added ratio times its lift, so at most by that of the highest.
        if any(change.kind is not ROCKERS_CHANGED for change in moved) or found.trust is not Trust.SOUND:
            return Grounds(Trust.VOID, (*found.cautions, NO_LOBE))
        return Grounds(found.trust, (*found.cautions, ROCKERS_AT_MOST), at_least=True)
    return replace(found, cautions=(*found.cautions, SUPPOSED_PISTONS)) if swapped else found


def _chosen_since(of: ReadOf, context: EvaluationContext) -> list[str]:
    """Return gaskets or shims chosen after the reading that change the total thickness."""
    since = changed_since(of, context)
    if not since:
        return []
    return [
        words
        for kind, words in _CHOSEN_SINCE.items()
        if np.any(abs(sum(change.front_mm for change in since if change.kind is kind)) > 1e-9)
    ]


def _as_read(count: int) -> str:
    if not count:
        return "thickness of clay that was not touched"
    return "as read, one thickness" if count == 1 else f"as read, thinnest of {count}"


def square_to_crown(reading: ClayReading, engine: Engine) -> list[Correction]:
    """Return the corrections for clay measured square to a flat crown [mm], empty otherwise."""
    row = engine.row(reading.place.side)
    if row.relief is not Relief.FLAT or not row.inclination_deg:
        return []
    gain = 1 / math.cos(math.radians(row.inclination_deg)) - 1
    return [Correction("measured square to the crown, converted along the valve", Value(reading.thickness_mm * gain))]
