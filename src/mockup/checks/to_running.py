"""A reading carried along the valve to the engine as it will run: a rung each for gasket, shims, train and changes."""

import math
from dataclasses import dataclass, replace

import numpy as np

from mockup.changes.change import Change, bore_rungs, done_since, last_order, since_words
from mockup.changes.kind import ChangeKind, OfValve, Told, Touched
from mockup.engine.block import Engine
from mockup.engine.gasket import GasketState
from mockup.engine.mockup import MockUp
from mockup.engine.valves import Place, Side
from mockup.limits.margins import LimitName
from mockup.quantity.ladder import Doubt, Rung
from mockup.quantity.value import Value, rectangular
from mockup.readings.approach import Approach, approach_of, setting_in
from mockup.readings.basis import Basis
from mockup.readings.cam_timing import LiftReading
from mockup.readings.clay import TOUCHED, Gap
from mockup.readings.shifts import lift_rung, lift_rungs, mockup_rungs
from mockup.readings.sweep import SweepFigure
from mockup.record import standing

NO_LOBE = "Cam or rockers were changed since and the lobe is not known: enter its card, or read again."
LASH_LEFT_IN = "lash left in, never counted on"


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadOf:
    """What a clearance was read of, and how what changes along the bore reaches it.

    ``what`` a change must touch to reach it. ``factor``: what one unit along the bore is grounds in it [1], with its
    u where nobody said the valve's angle; ``sideways``: how far a valve wanders for one [1]. ``side``: of its valve,
    None where it is of none. ``after``: the order of the last change before it. ``swept``: of a valve that was.
    ``drop``: what is carried is the drop of a valve that another cam lifts now.
    """

    cylinder: int
    after: int
    limit: LimitName
    what: Touched
    factor: float
    factor_u: float = 0.0
    sideways: float = 0.0
    side: Side | None = None
    swept: SweepFigure | None = None
    drop: bool = False


def valve_read(
    place: Place, after: int, engine: Engine, limit: LimitName, gap: Gap = Gap.FACE, swept: SweepFigure | None = None
) -> ReadOf:
    """A reading of a valve: along its axis over the face, square to it at the edge."""
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


def to_running(of: ReadOf, mockup: MockUp, basis: Basis) -> list[Rung]:
    """The rungs from a reading in a mock-up to the engine as it will run: gasket, shims, train, what was done since."""
    if of.drop:
        carried = drop_to_running(of, mockup, basis)
        return [*carried, *lifted(of, basis)] if carried else []
    own = _train(of, mockup, basis) if of.what is Touched.FACE else []
    if basis.gasket_more(mockup, of.after) is None:
        return own
    return [*_stack(of, mockup, basis), *own, *_changes(of, basis), *_moved(of, mockup, basis)]


def drop_to_running(of: ReadOf, mockup: MockUp, basis: Basis) -> list[Rung]:
    """The rungs that carry a drop to the engine as it will run, no cam in it; empty where no gasket is chosen."""
    if basis.gasket_more(mockup, of.after) is None:
        return []
    return [*_stack(of, mockup, basis), *_changes(of, basis)]


def lifted(of: ReadOf, basis: Basis) -> list[Rung]:
    """What the cam that is in now makes of a drop at the closest point: its lobe, then what more is done to it."""
    assert of.side is not None
    if of.side not in basis.cams:
        return [Rung(NO_LOBE, Value(math.nan))]
    approach = approach_now(of.side, basis)
    rungs = [lift_rung(approach)]
    moved = [change for change in basis.more if by_the_lobe(change, of) and change.is_of(of.side)]
    return rungs + lift_rungs(approach, moved, of.side, basis.shift)


def approach_now(side: Side, basis: Basis) -> Approach:
    """How a side's valves near their pistons with the cam that is in, of which nothing was read."""
    job = basis.job
    return approach_of(job.engine, basis.crank, basis.cams[side], job.changes, last_order(job.changes))


def _stack(of: ReadOf, mockup: MockUp, basis: Basis) -> list[Rung]:
    """Gasket, and base shims where there are any, from the mock-up's to the final ones."""
    gasket = basis.gasket_more(mockup, of.after) or Value(0.0)
    shims = basis.shims_mm(of.cylinder)
    raised = 0.0 if shims is None else shims - mockup.shims_mm
    if of.factor:
        rungs = [Rung("gasket as mocked up, to the final one", _along(gasket, of), Doubt.GASKET)]
        if np.any(raised):
            rungs.append(Rung("base shims as mocked up, to the final ones", _along(Value(raised), of)))
        return rungs
    # A valve at an angle wanders sideways as the head rises; toward which wall is not known from the
    # reading, so the shift is counted as uncertainty and not as a correction.
    shift = Value(0.0, rectangular(abs(gasket.value + raised) * of.sideways))
    if mockup.gasket_state is GasketState.UNKNOWN:
        shift += Value(0.0, gasket.u * of.sideways)
    return [Rung("gasket change moves the valve sideways, either way", shift, Doubt.SIDEWAYS)]


def _along(moved: Value, of: ReadOf) -> Value:
    """What a move along the bore [mm] is in what was read [mm]."""
    found = moved.scaled(of.factor)
    return found + Value(0.0, abs(moved.value) * of.factor_u) if of.factor_u else found


def _train(of: ReadOf, mockup: MockUp, basis: Basis) -> list[Rung]:
    """What the train in the mock-up had otherwise than it will run: lash left in, other rockers, the cam elsewhere."""
    assert of.side is not None
    cam = basis.cams.get(of.side)
    if cam is None:
        lash = mockup.lash_at_valve_mm(basis.said_ratio_when(of.after), of.side)
        # How far the lobe has opened at the closest point is not known, and lash is never credited: all of it comes
        # off.
        return [Rung(LASH_LEFT_IN, Value(-lash))] if lash else []
    approach = approach_to(of, mockup, basis)
    if cam.train.lobe.measured or approach.fitted:
        return mockup_rungs(approach)
    # A card does not say surely enough whether the valve is open by more than the lash there: all of it comes off.
    lash = approach.read.lash_mm
    own = [Rung(LASH_LEFT_IN, Value(-lash))] if lash else []
    return own + mockup_rungs(replace(approach, read=replace(approach.read, lash_mm=0.0)))


def _changes(of: ReadOf, basis: Basis) -> list[Rung]:
    since = touching(of, basis)
    rungs = bore_rungs(basis.changes, of.after, of.cylinder, basis.engine, of.what)
    found = [Rung(rung.text, _along(rung.delta, of), Doubt.CHANGES) for rung in rungs]
    return found + [rung for change in since if (rung := _of_valve(change, of, basis.engine))]


def _moved(of: ReadOf, mockup: MockUp, basis: Basis) -> list[Rung]:
    """What cam and rockers moved since do to a reading."""
    moved = [change for change in touching(of, basis) if by_the_lobe(change, of)]
    if not moved or not of.side:
        return []
    if of.side in basis.cams:
        return lift_rungs(approach_to(of, mockup, basis), moved, of.side, basis.shift)
    if basis.more:
        # Without a lobe nobody knows what a moved cam does: of very many engines, only of those it is moved in.
        moved_in = basis.moved_by_the_lobe(of.after, of.side)
        return [Rung(NO_LOBE, Value(np.where(moved_in, np.nan, 0.0)))]  # type: ignore[arg-type]
    if all(change.kind is ChangeKind.ROCKERS for change in moved):
        return [_most_of_rockers(change, of.side, basis) for change in moved]
    return []


HIGHEST_LOBE_MM = 10.0
"""The lift of a lobe that nobody measured counts as this, more than nearly all have: common practice, no source."""


def _most_of_rockers(change: Change, side: Side, basis: Basis) -> Rung:
    """The most that other rockers can take where the lobe is not known: their change times the whole lobe lift."""
    ratio = basis.said_ratio_when(0)
    seen = [one.lift_mm for one in standing(basis.job.of_this_cam(LiftReading)) if one.place.side is side]
    lift = max(seen) / ratio if seen and ratio else HIGHEST_LOBE_MM
    return Rung(f"{since_words(change)}: at most", Value(-max(change.amount, 0.0) * lift), Doubt.CHANGES)


def _of_valve(change: Change, of: ReadOf, engine: Engine) -> Rung | None:
    """What reliefs and valves changed since do to a reading of a valve."""
    effect = change.kind.effect_on(of.what)
    if of.side is None or not isinstance(effect, OfValve):
        return None
    figure = effect.figure(change, engine.row(of.side))
    return Rung(since_words(change), figure, Doubt.CHANGES) if figure else None


def approach_to(of: ReadOf, mockup: MockUp, basis: Basis) -> Approach:
    """How the valve of a reading nears its piston, as it stood in its mock-up; of a drop, as the cam lifts it now.

    Its side's lobe is known.
    """
    assert of.side is not None
    if of.drop:
        return approach_now(of.side, basis)
    cam = basis.cams_when(of.after)[of.side]
    read = setting_in(mockup, basis.ratio_when(of.after), of.side)
    changes = basis.changes_of_the_cam(of.after)
    return approach_of(basis.job.engine, basis.crank, cam, changes, of.after, of.swept, read)


def by_the_lobe(change: Change, of: ReadOf) -> bool:
    """Whether only the lobe tells what a change does to a reading."""
    return change.kind.effect_on(of.what) is Told.BY_THE_LOBE


def changed_since(of: ReadOf, basis: Basis) -> list[Change]:
    """The changes done since a reading at its cylinder and side, whatever they do to it."""
    since = done_since(basis.changes, of.after)
    return [change for change in since if change.touches(of.cylinder, basis.engine) and change.is_of(of.side)]


def touching(of: ReadOf, basis: Basis) -> list[Change]:
    """The changes done since a reading that make it one of an older engine, in their order."""
    return [change for change in changed_since(of, basis) if change.kind.effect_on(of.what)]
