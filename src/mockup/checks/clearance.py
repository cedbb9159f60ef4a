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

import numpy as np

from mockup.changes.change import Change, bore_rungs, done_since, since_words
from mockup.changes.kind import ChangeKind, OfValve, Told, Touched
from mockup.checks.check import Finding, Trust
from mockup.checks.conditions import Grounds, grounds_of, snugged_too_near
from mockup.engine.block import Engine
from mockup.engine.mockup import Bolts, Clay, MockUp
from mockup.engine.valves import UNSAID_DEG, Place, Relief, Side
from mockup.instruments import Instrument, mean_rung
from mockup.limits.judge import Bound
from mockup.limits.margins import LimitName
from mockup.quantity.ladder import Doubt, Rung, running_figure
from mockup.quantity.value import Value, rectangular
from mockup.readings.approach import Approach, approach_of, setting_in
from mockup.readings.basis import Basis
from mockup.readings.clay import TOUCHED, ClayReading, Gap, Pressed
from mockup.readings.shifts import lift_rungs, mockup_rungs
from mockup.readings.sweep import SweepFigure

P = TypeVar("P", bound=Pressed)

DOUGH_U_MM = 0.10
"""Added to readings in soft dough: common practice, no source."""

NO_FINAL_GASKET = "Choose the final gasket: without it the running figure is not known."
TORQUE_IT = "Within 0.005 in of the limit with the head only snugged: torque it and measure again."
UPRIGHT = (
    f"The valve’s angle is not said: it is counted as upright. At {UNSAID_DEG:g}° what moves along the bore, as a "
    f"gasket does, would count {abs(1 - math.cos(math.radians(UNSAID_DEG))):.0%} otherwise; that is in the U."
)
OTHER_PISTONS = "Other pistons are in since this was read: it says nothing of them."
SUPPOSED_PISTONS = "As if the other pistons had the same reliefs: only a reading will tell."
NO_LOBE = "Cam or rockers were changed since and the lobe is not known: enter its card, or read again."
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
class ReadOf:
    """What a clearance was read of, and how what changes along the bore reaches it.

    ``what`` a change must touch to reach it. ``factor``: what one unit along the bore is grounds in it [1], with its
    u where nobody said the valve's angle; ``sideways``: how far a valve wanders for one [1]. ``side``: of its valve,
    None where it is of none. ``after``: the order of the last change before it. ``swept``: of a valve that was.
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


def clay_finding(readings: Sequence[ClayReading], limit: LimitName, basis: Basis) -> Finding:
    """What the clay of one valve (its readings thinnest first, at least one) says in its mock-up.

    The figure is None where the readings are void or the final gasket is not chosen. Clay that was not touched
    bounds the clearance from below.
    """
    thinnest = thinnest_of(readings)
    of = valve_read(thinnest.place, thinnest.after, basis.engine, limit, thinnest.gap)
    squared = _square_to_crown(thinnest, basis.engine) if thinnest.gap is Gap.FACE else []
    grounds = grounds_of(
        basis.job.mockup(thinnest.mockup),
        basis.said_ratio_when(of.after),
        of.side,
        lobe_known=of.side in basis.cams,
        reversed_runs=basis.engine.pistons_reversed,
    )
    return pressed_finding(of, readings, basis, grounds, squared)


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
    of: ReadOf, readings: Sequence[Pressed], basis: Basis, grounds: Grounds, squared: Sequence[Rung] = ()
) -> Finding:
    """What clay says that was read of one thing, thinnest first, in one mock-up.

    ``grounds``: what the mock-up's conditions make of it; ``squared``: what its direction adds.
    """
    thinnest = thinnest_of(readings)
    touched = sum(reading.touched for reading in readings)
    first = replace(thinnest_rung(readings, basis.job.instruments), text=_as_read(touched))
    read = Carried(of=of, mockup=basis.job.mockup(thinnest.mockup), first=(first,), squared=tuple(squared))
    grounds = grounds_for(of, grounds, basis)
    found = carried_finding(read, basis, grounds, f"clay, mock-up {thinnest.mockup}")
    found = replace(found, evidence=tuple(reading.key for reading in readings))
    if touched:
        return touching_as_read(found) if thinnest.thickness_mm <= TOUCHING_MM else found
    if grounds.bound(basis.job.sheet) is Bound.AT_MOST:
        # It can only read large, and yet nothing came near: that bounds the clearance neither way.
        words = (*found.cautions, NOT_TOUCHED_NO_BOUND)
        return replace(found, figure=None, ladder=(), cautions=words)
    return replace(found, bound=Bound.AT_LEAST)


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


@dataclass(frozen=True, slots=True, kw_only=True)
class Carried:
    """A reading on its way to the engine as it will run: what it was read of, in which mock-up, its own rungs first.

    ``squared``: what its direction adds, counted once a final gasket is chosen. Called with a basis it gives the whole
    ladder: of the engine, or of very many.
    """

    of: ReadOf
    mockup: MockUp
    first: tuple[Rung, ...]
    squared: tuple[Rung, ...] = ()

    def __call__(self, basis: Basis) -> tuple[Rung, ...]:
        """The ladder from the reading to the engine as it will run [mm]."""
        soft = self.mockup.clay is Clay.DOUGH and self.of.swept is None
        last = [Rung("soft dough springs back", Value(0.0, DOUGH_U_MM), Doubt.CLAY)] if soft else []
        squared = self.squared if basis.final else ()
        return (*self.first, *squared, *to_running(self.of, self.mockup, basis), *last)


def carried_finding(read: Carried, basis: Basis, grounds: Grounds, method: str) -> Finding:
    """A finding of a reading carried to the running engine, with what is to be said of it."""
    of, sheet, ladder = read.of, basis.job.sheet, read(basis)
    cautions = list(grounds.cautions)
    figure = None
    if basis.final is None:
        cautions.append(NO_FINAL_GASKET)
    elif grounds.trust is not Trust.VOID:
        figure = running_figure(ladder)
        if of.factor_u and any(rung.delta.value for rung in ladder[1:]):
            cautions.append(UPRIGHT)
        if read.mockup.bolts is Bolts.SNUGGED and snugged_too_near(figure, sheet.minimum(of.limit)):
            cautions.append(TORQUE_IT)
    return Finding(
        figure=figure,
        bound=grounds.bound(sheet),
        trust=grounds.trust,
        method=method,
        ladder=ladder,
        cautions=tuple(cautions),
        carried=(*(since_words(change) for change in touching(of, basis)), *_chosen_since(of, basis)),
        read_again=bool(touching(of, basis)),
        again=read,
    )


def grounds_for(of: ReadOf, found: Grounds, basis: Basis) -> Grounds:
    """The grounds of one reading: void where other pistons, or an unknown lobe moved, make it say nothing."""
    since = touching(of, basis)
    swapped = [change for change in since if change.kind is ChangeKind.PISTONS]
    if any(not change.supposed for change in swapped):
        return Grounds(Trust.VOID, (*found.cautions, OTHER_PISTONS))
    if any(_by_the_lobe(change, of) for change in since) and of.side not in basis.cams:
        return Grounds(Trust.VOID, (*found.cautions, NO_LOBE))
    return Grounds(found.trust, (*found.cautions, SUPPOSED_PISTONS)) if swapped else found


def _by_the_lobe(change: Change, of: ReadOf) -> bool:
    return change.kind.effect_on(of.what) is Told.BY_THE_LOBE


def _seen_none_of(of: ReadOf, basis: Basis) -> list[Change]:
    since = done_since(basis.changes, of.after)
    return [change for change in since if change.touches(of.cylinder, basis.engine) and change.is_of(of.side)]


def touching(of: ReadOf, basis: Basis) -> list[Change]:
    """The changes done since a reading that make it one of an older engine, in their order."""
    return [change for change in _seen_none_of(of, basis) if change.kind.effect_on(of.what)]


def _changes(of: ReadOf, mockup: MockUp, basis: Basis) -> list[Rung]:
    since = touching(of, basis)
    rungs = bore_rungs(basis.changes, of.after, of.cylinder, basis.engine, of.what)
    found = [Rung(rung.text, _along(rung.delta, of), Doubt.CHANGES) for rung in rungs]
    found += [rung for change in since if (rung := _of_valve(change, of, basis.engine))]
    moved = [change for change in since if _by_the_lobe(change, of)]
    if moved and of.side:
        if of.side in basis.cams:
            found += lift_rungs(approach_to(of, mockup, basis), moved, of.side, basis.shift)
        elif basis.more:
            # Without a lobe nobody knows what a moved cam does: of very many engines, only of those it is moved in.
            moved_in = basis.moved_by_the_lobe(of.after, of.side)
            found.append(Rung(NO_LOBE, Value(np.where(moved_in, np.nan, 0.0))))  # type: ignore[arg-type]
    return found


def approach_to(of: ReadOf, mockup: MockUp, basis: Basis) -> Approach:
    """How the valve of a reading nears its piston, as it stood in its mock-up. Its side's lobe is known."""
    assert of.side is not None
    job = basis.job
    read = setting_in(mockup, basis.ratio_when(of.after), of.side)
    return approach_of(job.engine, basis.crank, basis.cams[of.side], job.changes, of.after, of.swept, read)


def _of_valve(change: Change, of: ReadOf, engine: Engine) -> Rung | None:
    """What reliefs and valves changed since do to a reading of a valve."""
    effect = change.kind.effect_on(of.what)
    if of.side is None or not isinstance(effect, OfValve):
        return None
    figure = effect.figure(change, engine.row(of.side))
    return Rung(since_words(change), figure, Doubt.CHANGES) if figure else None


def _chosen_since(of: ReadOf, basis: Basis) -> list[str]:
    """Gaskets or shims chosen after the reading that together leave another thickness than it was read for."""
    since = _seen_none_of(of, basis)
    return [
        words
        for kind, words in _CHOSEN_SINCE.items()
        if np.any(abs(sum(change.front_mm for change in since if change.kind is kind)) > 1e-9)
    ]


def _as_read(count: int) -> str:
    if not count:
        return "thickness of clay that was not touched"
    return "as read, one thickness" if count == 1 else f"as read, thinnest of {count}"


def to_running(of: ReadOf, mockup: MockUp, basis: Basis) -> list[Rung]:
    """The rungs from a reading in a mock-up to the engine as it will run: gasket, shims, train, what was done since."""
    own = _train(of, mockup, basis) if of.what is Touched.FACE else []
    if basis.final is None:
        return own
    return [*_stack(of, mockup, basis), *own, *_changes(of, mockup, basis)]


def _square_to_crown(reading: ClayReading, engine: Engine) -> list[Rung]:
    row = engine.row(reading.place.side)
    if row.relief is not Relief.FLAT or not row.inclination_deg:
        return []
    gain = 1 / math.cos(math.radians(row.inclination_deg)) - 1
    return [Rung("read square to the crown, taken along the valve", Value(reading.thickness_mm * gain))]


def _stack(of: ReadOf, mockup: MockUp, basis: Basis) -> list[Rung]:
    """Gasket, and base shims where there are any, from the mock-up's to the final ones."""
    final = basis.final.thickness if basis.final else Value(0.0)
    gasket = final + mockup.gasket.scaled(-1)
    shims = basis.shims_mm(of.cylinder)
    raised = 0.0 if shims is None else shims - mockup.shims_mm
    if of.factor:
        rungs = [Rung("gasket as mocked up, to the final one", _along(gasket, of), Doubt.GASKET)]
        if np.any(raised):
            rungs.append(Rung("base shims as mocked up, to the final ones", _along(Value(raised), of)))
        return rungs
    # A valve at an angle wanders sideways as the head rises; toward which wall is not known from the
    # reading, so the shift is counted as uncertainty and not as a correction.
    shift = abs(gasket.value + raised) * of.sideways
    return [Rung("gasket change moves the valve sideways, either way", Value(0.0, rectangular(shift)), Doubt.SIDEWAYS)]


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
