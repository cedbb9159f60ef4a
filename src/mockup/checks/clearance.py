"""Clearances carried from a reading in a mock-up to the engine as it will run, and what clay says of them.

Corrections along the valve axis, one rung each (geometry: docs/how-it-computes.md, "From clay to running"):
square-to-crown clay on a flat crown divided by cos a; gasket and base shims k (final - mock-up); decks cut since;
lash left in taken off; soft dough made less sure. What was done since to cam, rockers, reliefs and valves is counted
as one rung each (docs/how-it-computes.md, "Changes since a reading").
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

from mockup.checks.check import Finding, Trust
from mockup.checks.conditions import Standing, snugged_too_near, standing_of
from mockup.engine.block import Engine
from mockup.engine.changes import (
    CHANGE_U_MM,
    Change,
    ChangeKind,
    Touched,
    bore_rungs,
    done_since,
    ratio_at,
    since_words,
)
from mockup.engine.gasket import BaseShims, FinalGasket, shims_under
from mockup.engine.mockup import Bolts, Clay, MockUp
from mockup.engine.valves import Place, Relief, Side
from mockup.instruments import Instrument, mean_rung
from mockup.limits.judge import Bound
from mockup.limits.margins import LimitName, MarginSheet
from mockup.motion.slider_crank import SliderCrank
from mockup.quantity.ladder import Doubt, Rung, running_figure
from mockup.quantity.value import Value, rectangular
from mockup.readings.approach import Approach, approach_of, lift_rungs, mockup_rungs, state_in
from mockup.readings.cam import SideCam
from mockup.readings.clay import TOUCHED, ClayReading, Gap, Pressed
from mockup.readings.sweep import SweepFigure

P = TypeVar("P", bound=Pressed)

DOUGH_U_MM = 0.10
"""Added to readings in soft dough: common practice, no source."""

NO_FINAL_GASKET = "Choose the final gasket: without it the running figure is not known."
TORQUE_IT = "Within 0.005 in of the limit with the head only snugged: torque it and measure again."
OTHER_PISTONS = "Other pistons are in since this was read: it says nothing of them."
SUPPOSED_PISTONS = "As if the other pistons had the same reliefs: only a reading will tell."
NO_LOBE = "Cam or rockers were changed since and the lobe is not known: enter its card, or read again."
LIFT_KINDS = (ChangeKind.CAM, ChangeKind.ROCKERS)
TOUCHING_MM = 1e-6
TOUCHES = "It touches: metal on metal. Do not turn the engine over by force, and do not run it so."
TOUCHED_THEN = "It touched as it was read; what parts the two since is only reckoned. Read it again."
LASH_LEFT_IN = "lash left in, never counted on"
NOT_TOUCHED_NO_BOUND = (
    "The clay was not touched, in a mock-up that can only read large: that says nothing. Do it again."
)
_CHOSEN_SINCE = {
    ChangeKind.GASKET: "final gasket changed since it was read",
    ChangeKind.SHIMS: "base shims changed since it was read",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class AsItWillRun:
    """What clearance readings are carried to: the engine with its final gasket, shims, and the changes done on it.

    ``cams``: what is known of each side's cam, as it stands with the changes done.
    """

    engine: Engine
    final: FinalGasket | None
    shims: tuple[BaseShims, ...]
    changes: tuple[Change, ...]
    sheet: MarginSheet
    cams: Mapping[Side, SideCam]
    crank: SliderCrank
    instruments: Mapping[str, Instrument]


@dataclass(frozen=True, slots=True, kw_only=True)
class Read:
    """What a clearance was read of, and how what changes along the bore reaches it.

    ``what`` a change must touch to reach it. ``factor``: what one unit along the bore is worth in it [1];
    ``sideways``: how far a valve wanders for one [1]. ``side``: of its valve, None where it is of none. ``after``: the
    order of the last change before it. ``swept``: of a valve that was.
    """

    cylinder: int
    after: int
    limit: LimitName
    what: Touched
    factor: float
    sideways: float = 0.0
    side: Side | None = None
    swept: SweepFigure | None = None


def valve_read(place: Place, after: int, engine: Engine, gap: Gap = Gap.FACE, swept: SweepFigure | None = None) -> Read:
    """A reading of a valve: along its axis over the face, square to it at the edge."""
    row = engine.row(place.side)
    edge = gap is Gap.RADIAL
    face = LimitName.FACE_INTAKE if place.side is Side.INTAKE else LimitName.FACE_EXHAUST
    return Read(
        cylinder=place.cylinder,
        after=after,
        limit=LimitName.RADIAL if edge else face,
        what=TOUCHED[gap],
        factor=0.0 if edge else row.axial_factor,
        sideways=math.sin(math.radians(row.inclination_deg)) if edge else 0.0,
        side=place.side,
        swept=swept,
    )


def clay_finding(readings: Sequence[ClayReading], mockup: MockUp, run: AsItWillRun) -> Finding:
    """What the clay of one valve (its readings thinnest first, at least one) says in one mock-up.

    The figure is None where the readings are void or the final gasket is not chosen. Clay that was not touched
    bounds the clearance from below.
    """
    thinnest = thinnest_of(readings)
    of = valve_read(thinnest.place, thinnest.after, run.engine, thinnest.gap)
    squared = _square_to_crown(thinnest, run.engine) if thinnest.gap is Gap.FACE else []
    ratio = ratio_at(run.engine, run.changes, of.after)
    standing = standing_of(
        mockup, ratio, of.side, lobe_known=of.side in run.cams, reversed_runs=run.engine.pistons_reversed
    )
    return pressed_finding(of, readings, mockup, run, standing, squared)


def thinnest_of(readings: Sequence[P]) -> P:
    """The thinnest that was touched, by the mean of each named place; where none was, the thickest says most."""
    touched = [reading for reading in readings if reading.touched]
    places: dict[str, list[float]] = {}
    for reading in touched:
        if reading.where:
            places.setdefault(reading.where, []).append(reading.thickness_mm)
    mean = {where: sum(found) / len(found) for where, found in places.items()}
    return min(touched, key=lambda reading: mean.get(reading.where, reading.thickness_mm), default=readings[-1])


def pressed_finding(
    of: Read,
    readings: Sequence[Pressed],
    mockup: MockUp,
    run: AsItWillRun,
    worth: Standing,
    squared: Sequence[Rung] = (),
) -> Finding:
    """What clay says that was read of one thing, thinnest first, in one mock-up.

    ``worth``: what the mock-up's conditions make of it; ``squared``: what its direction adds.
    """
    thinnest = thinnest_of(readings)
    touched = sum(reading.touched for reading in readings)
    rungs = [replace(thinnest_rung(readings, run.instruments), text=_as_read(touched))]
    rungs += [*(squared if run.final else ()), *to_running(of, mockup, run)]
    if mockup.clay is Clay.DOUGH:
        rungs.append(Rung("soft dough springs back", Value(0.0, DOUGH_U_MM), Doubt.CLAY))
    standing = standing_for(of, worth, run)
    found = carried_finding(of, rungs, mockup, run, standing, f"clay, mock-up {mockup.key}")
    keys = tuple(reading.key for reading in readings)
    if touched:
        found = replace(found, evidence=keys)
        return touching_as_read(found) if thinnest.thickness_mm <= TOUCHING_MM else found
    if standing.bound(run.sheet) is Bound.AT_MOST:
        # It can only read large, and yet nothing came near: that bounds the clearance neither way.
        words = (*found.cautions, NOT_TOUCHED_NO_BOUND)
        return replace(found, evidence=keys, figure=None, ladder=(), cautions=words)
    return replace(found, evidence=keys, bound=Bound.AT_LEAST)


def touching_as_read(found: Finding) -> Finding:
    """A finding of a reading of nothing: it touched. What touches may be pressed together, so it bounds from above.

    Unless a change since, or another gasket, surely parts the two, it touches as it will run: short on every sheet.
    """
    if found.trust is Trust.VOID:
        return found
    parted = found.figure is not None and found.figure.value - found.figure.expanded > 0
    words = TOUCHED_THEN if parted else TOUCHES
    return replace(found, bound=Bound.AT_MOST, contact=not parted, cautions=(words, *found.cautions))


def thinnest_rung(readings: Sequence[Pressed], instruments: Mapping[str, Instrument]) -> Rung:
    """The thinnest place of some readings [mm], a ladder's first rung: places read again count with their mean."""
    thinnest = thinnest_of(readings)
    again = [r for r in readings if r.touched == thinnest.touched and r.where and r.where == thinnest.where]
    instrument = instruments[thinnest.instrument]
    read = [reading.thickness_mm for reading in again] or [thinnest.thickness_mm]
    return mean_rung("", read, instrument.noise_mm, instrument.own_mm)


def carried_finding(
    of: Read, rungs: Sequence[Rung], mockup: MockUp, run: AsItWillRun, standing: Standing, method: str
) -> Finding:
    """A finding of rungs already carried to the running engine, with what is to be said of it."""
    cautions = list(standing.cautions)
    figure = None
    if run.final is None:
        cautions.append(NO_FINAL_GASKET)
    elif standing.trust is not Trust.VOID:
        figure = running_figure(rungs)
        if mockup.bolts is Bolts.SNUGGED and snugged_too_near(figure, run.sheet.minimum(of.limit)):
            cautions.append(TORQUE_IT)
    return Finding(
        figure=figure,
        bound=standing.bound(run.sheet),
        trust=standing.trust,
        method=method,
        ladder=tuple(rungs),
        cautions=tuple(cautions),
        carried=(*(since_words(change) for change in touching(of, run)), *_chosen_since(of, run)),
        read_again=bool(touching(of, run)),
    )


def standing_for(of: Read, found: Standing, run: AsItWillRun) -> Standing:
    """The standing of one reading: void where other pistons, or an unknown lobe moved, make it say nothing."""
    since = touching(of, run)
    swapped = [change for change in since if change.kind is ChangeKind.PISTONS]
    if any(not change.supposed for change in swapped):
        return Standing(Trust.VOID, (*found.cautions, OTHER_PISTONS))
    if any(change.kind in LIFT_KINDS for change in since) and of.side not in run.cams:
        return Standing(Trust.VOID, (*found.cautions, NO_LOBE))
    return Standing(found.trust, (*found.cautions, SUPPOSED_PISTONS)) if swapped else found


def _seen_none_of(of: Read, run: AsItWillRun) -> list[Change]:
    since = done_since(run.changes, of.after)
    return [change for change in since if change.touches(of.cylinder, run.engine) and change.is_of(of.side)]


def touching(of: Read, run: AsItWillRun) -> list[Change]:
    """The changes done since a reading that make it one of an older engine, in their order."""
    return [change for change in _seen_none_of(of, run) if of.what in change.kind.touches]


def _changes(of: Read, mockup: MockUp, run: AsItWillRun) -> list[Rung]:
    since = touching(of, run)
    rungs = bore_rungs(run.changes, of.after, of.cylinder, run.engine, of.what)
    found = [Rung(rung.text, rung.delta.scaled(of.factor), Doubt.CHANGES) for rung in rungs]
    found += [rung for change in since for rung in _of_valve(change, of, run.engine)]
    cam = run.cams.get(of.side) if of.side else None
    if cam and any(change.kind in LIFT_KINDS for change in since):
        found += lift_rungs(_approach(of, mockup, run), since, cam.side)
    return found


def _approach(of: Read, mockup: MockUp, run: AsItWillRun) -> Approach:
    assert of.side is not None
    ratio = ratio_at(run.engine, run.changes, of.after)
    read = state_in(mockup, ratio, of.side)
    return approach_of(run.engine, run.crank, run.cams[of.side], run.changes, of.after, of.swept, read)


def _of_valve(change: Change, of: Read, engine: Engine) -> list[Rung]:
    """What reliefs and valves changed since do to a reading of a valve."""
    row = engine.row(of.side) if of.side else None
    if row is None:
        return []
    if change.kind in (ChangeKind.RELIEF, ChangeKind.SINK, ChangeKind.EDGE):
        return [Rung(since_words(change), Value(change.amount, CHANGE_U_MM), Doubt.CHANGES)]
    if change.kind is ChangeKind.VALVES:
        if of.what is Touched.EDGE:
            return [Rung(since_words(change), Value(-change.amount / 2, CHANGE_U_MM), Doubt.CHANGES)]
        if row.relief is Relief.FLAT:
            # The larger rim of an inclined valve meets a flat crown sooner.
            nearer = change.amount / 2 * math.tan(math.radians(row.inclination_deg))
            return [Rung(since_words(change), Value(-nearer), Doubt.CHANGES)]
    return []


def _chosen_since(of: Read, run: AsItWillRun) -> list[str]:
    """Gaskets or shims chosen after the reading that together leave another thickness than it was read for."""
    since = _seen_none_of(of, run)
    return [
        words
        for kind, words in _CHOSEN_SINCE.items()
        if abs(sum(change.front_mm for change in since if change.kind is kind)) > 1e-9
    ]


def _as_read(count: int) -> str:
    if not count:
        return "thickness of clay that was not touched"
    return "as read, one thickness" if count == 1 else f"as read, thinnest of {count}"


def to_running(of: Read, mockup: MockUp, run: AsItWillRun) -> list[Rung]:
    """The rungs from a reading in a mock-up to the engine as it will run: gasket, shims, train, what was done since."""
    own = _train(of, mockup, run) if of.what is Touched.FACE else []
    if run.final is None:
        return own
    return [*_stack(of, mockup, run), *own, *_changes(of, mockup, run)]


def _square_to_crown(reading: ClayReading, engine: Engine) -> list[Rung]:
    row = engine.row(reading.place.side)
    if row.relief is not Relief.FLAT or not row.inclination_deg:
        return []
    gain = 1 / math.cos(math.radians(row.inclination_deg)) - 1
    return [Rung("read square to the crown, taken along the valve", Value(reading.thickness_mm * gain))]


def _stack(of: Read, mockup: MockUp, run: AsItWillRun) -> list[Rung]:
    """Gasket, and base shims where there are any, from the mock-up's to the final ones."""
    final = run.final.thickness if run.final else Value(0.0)
    gasket = final + mockup.gasket.scaled(-1)
    shims = shims_under(run.shims, of.cylinder)
    raised = shims.total_mm - mockup.shims_mm if shims and run.engine.separate_barrels else 0.0
    if of.factor:
        rungs = [Rung("gasket as mocked up, to the final one", gasket.scaled(of.factor), Doubt.GASKET)]
        if raised:
            rungs.append(Rung("base shims as mocked up, to the final ones", Value(raised * of.factor)))
        return rungs
    # A valve at an angle wanders sideways as the head rises; toward which wall is not known from the
    # reading, so the shift is counted as uncertainty and not as a correction.
    shift = abs(gasket.value + raised) * of.sideways
    return [Rung("gasket change moves the valve sideways, either way", Value(0.0, rectangular(shift)), Doubt.SIDEWAYS)]


def _train(of: Read, mockup: MockUp, run: AsItWillRun) -> list[Rung]:
    """What the train in the mock-up had otherwise than it will run: lash left in, other rockers, the cam elsewhere."""
    assert of.side is not None
    cam = run.cams.get(of.side)
    if cam is None:
        lash = mockup.lash_at_valve_mm(ratio_at(run.engine, run.changes, of.after), of.side)
        # How far the lobe has opened at the closest point is not known, and lash is never credited: all of it comes
        # off.
        return [Rung(LASH_LEFT_IN, Value(-lash))] if lash else []
    approach = _approach(of, mockup, run)
    if cam.train.lobe.measured or approach.fitted:
        return mockup_rungs(approach)
    # A card does not say surely enough whether the valve is open by more than the lash there: all of it comes off.
    lash = approach.read.lash_mm
    own = [Rung(LASH_LEFT_IN, Value(-lash))] if lash else []
    return own + mockup_rungs(replace(approach, read=replace(approach.read, lash_mm=0.0)))
