"""A reading carried along the valve: corrections for gasket, shims, train and changes."""

import math
from dataclasses import dataclass, replace

import numpy as np

from mockup.changes import affected
from mockup.changes.change import Affected, Change, EffectFrom, OfValve
from mockup.changes.since import bore_corrections, done_since, last_order, since_words
from mockup.changes.train import ROCKERS_CHANGED
from mockup.context import EvaluationContext
from mockup.engine.block import Engine
from mockup.engine.gasket import GasketState
from mockup.engine.mockup import MockUp
from mockup.engine.valves import Place, Side
from mockup.fit.approach import Approach, approach_of, setting_in
from mockup.fit.shifts import lift_correction, lift_corrections, mockup_corrections
from mockup.fit.swept_valve import SweepFigure
from mockup.limits.limit_set import LimitName
from mockup.quantity.corrections import Correction, UncertaintySource
from mockup.quantity.value import Value, rectangular
from mockup.readings.cam_timing import LiftReading
from mockup.readings.clay import TOUCHED, Gap
from mockup.readings.record import standing

NO_LOBE = "Cam or rockers were changed since and the lobe is not known: enter its card, or read again."
HIDDEN_WORDS = "hidden by lifters that bleed"
LASH_LEFT_IN = "lash left in, never counted on"


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadOf:
    """What a clearance was read of, and how a move along the bore reaches it.

    ``what``: the quantity a change must affect. ``factor``: the effect of one unit along the bore [1], with its u where
    the valve's angle is not stated; ``sideways``: how far a valve moves sideways for one unit [1]. ``side``: of its
    valve, or None. ``after``: the order of the last change before it. ``swept``: read by indicator. ``drop``: what is
    carried is the drop of a valve that another cam lifts now.
    """

    cylinder: int
    after: int
    limit: LimitName
    what: Affected
    factor: float
    factor_u: float = 0.0
    sideways: float = 0.0
    side: Side | None = None
    swept: SweepFigure | None = None
    drop: bool = False


def valve_read(
    place: Place, after: int, engine: Engine, limit: LimitName, gap: Gap = Gap.FACE, swept: SweepFigure | None = None
) -> ReadOf:
    """Return the ReadOf of a valve: along its axis over the face, square to it at the edge."""
    row = engine.row(place.side)
    edge = gap is Gap.RADIAL
    return ReadOf(
        cylinder=place.cylinder,
        after=after,
        limit=limit,
        what=TOUCHED[gap],
        factor=0.0 if edge else row.axial_factor,
        factor_u=0.0 if edge else row.axial_factor_u,
        sideways=row.sideways if edge else 0.0,
        side=place.side,
        swept=swept,
    )


def to_running(of: ReadOf, mockup: MockUp, context: EvaluationContext) -> list[Correction]:
    """Return the corrections from a mock-up to the engine as it will run."""
    if of.drop:
        carried = drop_to_running(of, mockup, context)
        return [*carried, *lifted(of, context)] if carried else []
    own = [*_train(of, mockup, context), *_hidden(of, mockup, context)] if of.what is affected.FACE else []
    if context.gasket_more(mockup, of.after) is None:
        return own
    return [*_stack(of, mockup, context), *own, *_changes(of, context), *_moved(of, mockup, context)]


def drop_to_running(of: ReadOf, mockup: MockUp, context: EvaluationContext) -> list[Correction]:
    """Return the corrections that carry a drop, without a cam; empty without a gasket."""
    if context.gasket_more(mockup, of.after) is None:
        return []
    return [*_stack(of, mockup, context), *_changes(of, context)]


def lifted(of: ReadOf, context: EvaluationContext) -> list[Correction]:
    """Return what the present cam makes of a drop: its lobe, then its further changes."""
    assert of.side is not None
    if of.side not in context.cams:
        return [Correction(NO_LOBE, Value(math.nan))]
    approach = approach_now(of.side, context)
    corrections = [lift_correction(approach)]
    moved = [change for change in context.more if by_the_lobe(change, of) and change.is_of(of.side)]
    return corrections + lift_corrections(approach, moved, of.side, context.shift)


def approach_now(side: Side, context: EvaluationContext) -> Approach:
    """Return how a side's valves approach with a present cam of which nothing was read."""
    job = context.job
    return approach_of(job.engine, context.crank, context.cams[side], job.changes, last_order(job.changes))


def _stack(of: ReadOf, mockup: MockUp, context: EvaluationContext) -> list[Correction]:
    """Return the corrections for gasket and base shims, from the mock-up's to the final ones."""
    gasket = context.gasket_more(mockup, of.after) or Value(0.0)
    shims = context.shims_mm(of.cylinder)
    raised = 0.0 if shims is None else shims - mockup.shims_mm
    if of.factor:
        corrections = [
            Correction("gasket as mocked up, to the final one", _along(gasket, of), UncertaintySource.GASKET)
        ]
        if np.any(raised):
            corrections.append(Correction("base shims as mocked up, to the final ones", _along(Value(raised), of)))
        return corrections
    # A valve at an angle moves sideways as the head rises. The reading does not tell toward which wall, so the shift is
    # counted as uncertainty and not as a correction.
    shift = Value(0.0, rectangular(abs(gasket.value + raised) * of.sideways))
    if mockup.gasket_state is GasketState.UNKNOWN:
        shift += Value(0.0, gasket.u * of.sideways)
    return [Correction("gasket change moves the valve sideways, either way", shift, UncertaintySource.SIDEWAYS)]


def _along(moved: Value, of: ReadOf) -> Value:
    """Return what a move along the bore [mm] is in the direction of the reading [mm]."""
    found = moved.scaled(of.factor)
    return found + Value(0.0, abs(moved.value) * of.factor_u) if of.factor_u else found


def _train(of: ReadOf, mockup: MockUp, context: EvaluationContext) -> list[Correction]:
    """Return corrections for the mock-up's train: lash left in, other rockers, moved cam."""
    assert of.side is not None
    cam = context.cams.get(of.side)
    if cam is None:
        lash = mockup.lash_at_valve_mm(context.stated_ratio_when(of.after), of.side)
        # How far the lobe has opened at the closest point is not known, and lash is never credited: all of it is
        # subtracted.
        return [Correction(LASH_LEFT_IN, Value(-lash))] if lash else []
    approach = approach_to(of, mockup, context)
    if cam.train.lobe.measured or approach.fitted:
        return mockup_corrections(approach)
    # A card is too uncertain to tell whether the valve is open by more than the lash there: all of it is subtracted.
    lash = approach.read.lash_mm
    own = [Correction(LASH_LEFT_IN, Value(-lash))] if lash else []
    return own + mockup_corrections(replace(approach, read=replace(approach.read, lash_mm=0.0)))


def _hidden(of: ReadOf, mockup: MockUp, context: EvaluationContext) -> list[Correction]:
    """Return the most that bleeding lifters may have hidden at the valve; empty where none do."""
    travel, ratio = mockup.hides_at_most_mm, context.stated_ratio_when(of.after)
    if travel is None or ratio is None:
        return []
    return [Correction(f"{HIDDEN_WORDS}, at most", Value(-travel * ratio))]


def _changes(of: ReadOf, context: EvaluationContext) -> list[Correction]:
    since = touching(of, context)
    corrections = bore_corrections(context.changes, of.after, of.cylinder, context.engine, of.what)
    found = [
        Correction(correction.text, _along(correction.delta, of), UncertaintySource.CHANGES)
        for correction in corrections
    ]
    return found + [correction for change in since if (correction := _of_valve(change, of, context.engine))]


def _moved(of: ReadOf, mockup: MockUp, context: EvaluationContext) -> list[Correction]:
    """Return the effect on a reading of cam and rockers moved since."""
    moved = [change for change in touching(of, context) if by_the_lobe(change, of)]
    if not moved or not of.side:
        return []
    if of.side in context.cams:
        return lift_corrections(approach_to(of, mockup, context), moved, of.side, context.shift)
    if context.more:
        # Without a lobe the effect of a moved cam is unknown; in a batch only for the engines it is moved in.
        moved_in = context.moved_by_the_lobe(of.after, of.side)
        return [Correction(NO_LOBE, Value(np.where(moved_in, np.nan, 0.0)))]  # type: ignore[arg-type]
    if all(change.kind is ROCKERS_CHANGED for change in moved):
        return [_most_of_rockers(change, of.side, context) for change in moved]
    return []


HIGHEST_LOBE_MM = 10.0
"""An unmeasured lobe is assumed to lift this much, more than nearly all do: common practice, no source."""


def _most_of_rockers(change: Change, side: Side, context: EvaluationContext) -> Correction:
    """Return the most that other rockers can take without a known lobe: change times lift."""
    ratio = context.stated_ratio_when(0)
    seen = [one.lift_mm for one in standing(context.job.of_this_cam(LiftReading)) if one.place.side is side]
    lift = max(seen) / ratio if seen and ratio else HIGHEST_LOBE_MM
    return Correction(
        f"{since_words(change)}: at most", Value(-max(change.amount, 0.0) * lift), UncertaintySource.CHANGES
    )


def _of_valve(change: Change, of: ReadOf, engine: Engine) -> Correction | None:
    """Return the effect on a valve's reading of reliefs and valves changed since."""
    effect = change.kind.effect_on(of.what)
    if of.side is None or not isinstance(effect, OfValve):
        return None
    figure = effect.figure(change, engine.row(of.side))
    return Correction(since_words(change), figure, UncertaintySource.CHANGES) if figure else None


def approach_to(of: ReadOf, mockup: MockUp, context: EvaluationContext) -> Approach:
    """Return how the valve of a reading nears its piston; for a drop, with the present cam.

    Its side's lobe is known.
    """
    assert of.side is not None
    if of.drop:
        return approach_now(of.side, context)
    cam = context.cams_when(of.after)[of.side]
    read = setting_in(mockup, context.ratio_when(of.after), of.side)
    changes = context.changes_of_the_cam(of.after)
    return approach_of(context.job.engine, context.crank, cam, changes, of.after, of.swept, read)


def by_the_lobe(change: Change, of: ReadOf) -> bool:
    """Return whether only the lobe tells the effect of a change on a reading."""
    return change.kind.effect_on(of.what) is EffectFrom.LOBE


def changed_since(of: ReadOf, context: EvaluationContext) -> list[Change]:
    """Return the changes done since a reading at its cylinder and side."""
    since = done_since(context.changes, of.after)
    return [change for change in since if change.touches(of.cylinder, context.engine) and change.is_of(of.side)]


def touching(of: ReadOf, context: EvaluationContext) -> list[Change]:
    """Return the changes done since a reading that make it stale, in their order."""
    return [change for change in changed_since(of, context) if change.kind.effect_on(of.what)]
