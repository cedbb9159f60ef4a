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

from mockup.changes.change import since_words
from mockup.changes.kind import ChangeKind
from mockup.checks.check import Finding, Trust
from mockup.checks.conditions import Grounds, grounds_of, snugged_too_near
from mockup.checks.to_running import NO_LOBE, ReadOf, by_the_lobe, changed_since, to_running, touching, valve_read
from mockup.engine.block import Engine
from mockup.engine.gasket import GasketState
from mockup.engine.mockup import Bolts, Clay, MockUp
from mockup.engine.valves import UNSAID_DEG, Relief
from mockup.instruments import Instrument, mean_rung
from mockup.limits.judge import Bound
from mockup.limits.margins import LimitName
from mockup.quantity.ladder import Doubt, Rung, running_figure
from mockup.quantity.value import Value
from mockup.readings.basis import Basis
from mockup.readings.clay import ClayReading, Gap, Pressed

P = TypeVar("P", bound=Pressed)

DOUGH_U_MM = 0.10
"""Added to readings in soft dough: common practice, no source."""

NO_FINAL_GASKET = "Choose the final gasket: without it the running figure is not known."
TORQUE_IT = "Within 0.005 in of the limit with the head only snugged: torque it and measure again."
UPRIGHT = (
    f"The valve’s angle is not said: it is counted as upright. At {UNSAID_DEG:g}° what moves along the bore, as a "
    f"gasket does, would count {abs(1 - math.cos(math.radians(UNSAID_DEG))):.0%} otherwise; that is in the U."
)
UNKNOWN_STOOD = (
    "What gasket stood in the mock-up is not known: anything from 20 to 75 thou (0.5 to 1.9 mm) is counted. Say which."
)
OTHER_PISTONS = "Other pistons are in since this was read: it says nothing of them."
SUPPOSED_PISTONS = "As if the other pistons had the same reliefs: only a reading will tell."
TOUCHING_MM = 1e-6
TOUCHES = "It touches: metal on metal. Do not turn the engine over by force, and do not run it so."
TOUCHED_THEN = "It touched as it was read; what parts the two since is only reckoned. Read it again."
NOT_TOUCHED_NO_BOUND = (
    "The valve did not touch the clay, and this mock-up reads large: that is no bound either way. Clay again under "
    "sound conditions."
)
ROCKERS_AT_MOST = (
    "The lobe is unknown. Other rockers take at most their change times the full lobe lift, which is subtracted here: "
    "the clearance is at least this."
)
_CHOSEN_SINCE = {
    ChangeKind.GASKET: "final gasket changed since it was read",
    ChangeKind.SHIMS: "base shims changed since it was read",
}


def clay_finding(readings: Sequence[ClayReading], limit: LimitName, basis: Basis) -> Finding:
    """What the clay of one valve (its readings thinnest first, at least one) says in its mock-up.

    The figure is None where the readings are void or the final gasket is not chosen. Clay that was not touched
    bounds the clearance from below.
    """
    thinnest = thinnest_of(readings)
    of = valve_read(thinnest.place, thinnest.after, basis.engine, limit, thinnest.gap)
    squared = square_to_crown(thinnest, basis.engine) if thinnest.gap is Gap.FACE else []
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
        if where := reading.where:
            places.setdefault(where, []).append(reading.thickness_mm)
    if not places:
        return touched[0] if touched else readings[-1]
    mean = {where: sum(found) / len(found) for where, found in places.items()}
    return min(touched, key=lambda reading: mean.get(reading.where, reading.thickness_mm))


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
    # What a picture is unsure of is mostly alike in the next one: more of them do not make it surer.
    own = max((reading.u_mm for reading in again or [thinnest]), default=0.0) or instrument.own_mm
    return mean_rung("", read, instrument.noise_mm, own)


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
        squared = () if basis.gasket_more(self.mockup, self.of.after) is None else self.squared
        return (*self.first, *squared, *to_running(self.of, self.mockup, basis), *last)


def carried_finding(read: Carried, basis: Basis, grounds: Grounds, method: str) -> Finding:
    """A finding of a reading carried to the running engine, with what is to be said of it."""
    of, sheet, ladder = read.of, basis.job.sheet, read(basis)
    cautions = list(grounds.cautions)
    figure = None
    if basis.gasket_more(read.mockup, of.after) is None:
        cautions.append(NO_FINAL_GASKET)
    elif grounds.trust is not Trust.VOID:
        figure = running_figure(ladder)
        if read.mockup.gasket_state is GasketState.UNKNOWN:
            cautions.append(UNKNOWN_STOOD)
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
    moved = [change for change in since if by_the_lobe(change, of)]
    if moved and of.side not in basis.cams:
        # Rockers lift every point of the lobe by so much more, and no point by more than the highest.
        if any(change.kind is not ChangeKind.ROCKERS for change in moved) or found.trust is not Trust.SOUND:
            return Grounds(Trust.VOID, (*found.cautions, NO_LOBE))
        return Grounds(found.trust, (*found.cautions, ROCKERS_AT_MOST), at_least=True)
    return Grounds(found.trust, (*found.cautions, SUPPOSED_PISTONS)) if swapped else found


def _chosen_since(of: ReadOf, basis: Basis) -> list[str]:
    """Gaskets or shims chosen after the reading that together leave another thickness than it was read for."""
    since = changed_since(of, basis)
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


def square_to_crown(reading: ClayReading, engine: Engine) -> list[Rung]:
    """What its direction adds to clay that was read square to a flat crown, a rung where it does [mm]."""
    row = engine.row(reading.place.side)
    if row.relief is not Relief.FLAT or not row.inclination_deg:
        return []
    gain = 1 / math.cos(math.radians(row.inclination_deg)) - 1
    return [Rung("read square to the crown, taken along the valve", Value(reading.thickness_mm * gain))]
