"""The cam as it will run: each side's lobe on its centreline, its events.

A measured table overrides a card, a measured centreline the card's. Identities: LSA = (ICL + ECL) / 2, advance = LSA -
ICL = (ECL - ICL) / 2; any text on cam timing.
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType

from mockup.changes.change import Change
from mockup.changes.since import advanced_since, as_changed, done_since
from mockup.changes.train import LASH_CHANGED
from mockup.engine.block import Engine
from mockup.engine.cam import CamCard, LobeTable
from mockup.engine.camshaft import Camshaft
from mockup.engine.valves import Place, Side
from mockup.motion.lobes import Lobe, table_lobe
from mockup.motion.uncertain import PRINTED_U_DEG, CardLift, UncertainLobe, smooth_lobe, uncertain_lobe
from mockup.motion.valve_lift import ValveTrain
from mockup.quantity.value import MM_PER_INCH, Value
from mockup.readings.cam_timing import CentrelineFigure, LiftReading

CARD_U_DEG = 1.0
"""How far a cam that was not degreed may be from its card: common practice, no source."""
NO_SUCH_LOBE_DEG = 6.0
"""Events this far from what durations and centreline give are a typing error, and are not used."""
SEAT_MM = 0.006 * MM_PER_INCH
"""The lift at which a hydraulic cam's duration is advertised: common practice, no source."""
EVENTS_AT_MM = 0.050 * MM_PER_INCH
CONTRADICTS_DEG = 2.0


@dataclass(frozen=True, slots=True, kw_only=True)
class SideCam:
    """One side's cam: ``centreline`` about overlap TDC [deg], ``late_deg`` later than its card.

    ``opens_deg``, ``closes_deg``: at 0.050 in of lobe lift [deg], None where the lobe is lower than that.
    """

    side: Side
    train: ValveTrain
    centreline: Value
    degreed: CentrelineFigure | None
    late_deg: float | None
    opens_deg: float | None
    closes_deg: float | None

    @property
    def shown_deg(self) -> float:
        """The centreline as cards print it: ATDC for the intake, BTDC for the exhaust [deg]."""
        return self.centreline.value if self.side is Side.INTAKE else -self.centreline.value


@dataclass(frozen=True, slots=True)
class Contradiction:
    """A contradiction within a card: what, as given, and as computed [deg]."""

    what: str
    given_deg: float
    computed_deg: float


@dataclass(frozen=True, slots=True)
class Moved:
    """Where moving the cam by one step would put it, crank degrees, positive advanced [deg]."""

    step_deg: float
    icl_deg: float | None
    ecl_deg: float | None


@dataclass(frozen=True, slots=True)
class CamReport:
    """Everything known of the cam.

    ``lsa_deg`` in cam degrees and ``advance_deg`` need both sides, else None.
    """

    sides: Mapping[Side, SideCam]
    lsa_deg: float | None
    advance_deg: float | None
    card: CamCard | None
    contradictions: tuple[Contradiction, ...]
    moves: tuple[Moved, ...]

    @property
    def intake_closes_abdc_deg(self) -> float | None:
        """Intake closing after BDC [deg]: at the card's lowest lift, for a table at 0.006 in."""
        intake = self.sides.get(Side.INTAKE)
        if intake is None:
            return None
        at_mm = SEAT_MM
        if self.card and not intake.train.lobe.measured:
            at_mm = min(duration.at_mm for duration in self.card.intake.durations)
        closes = intake.train.events_deg(at_mm)[1] - 180.0
        return closes if 0 <= closes <= 120 else None


def cam_report(
    engine: Engine,
    card: CamCard | None,
    tables: Mapping[Side, LobeTable],
    degreed: Mapping[Side, CentrelineFigure],
    steps_deg: Iterable[float],
    changes: Iterable[Change] = (),
    stands: Mapping[Side, float] = MappingProxyType({}),
) -> CamReport:
    """Return the job's cam with its changes; sides without a lobe or a centreline are left out.

    ``stands``: the stated centreline of a side without a card, signed [deg].
    """
    done = list(changes)
    sides = {}
    for side in Side:
        found = _side(engine, side, card, tables.get(side), degreed.get(side), done, stands.get(side))
        if found:
            sides[side] = found
    both = sides.get(Side.INTAKE), sides.get(Side.EXHAUST)
    icl, ecl = (one.shown_deg if one else None for one in both)
    lsa = (icl + ecl) / 2 if icl is not None and ecl is not None else None
    moves = tuple(
        Moved(way * step, None if icl is None else icl - way * step, None if ecl is None else ecl + way * step)
        for step in sorted(set(steps_deg))
        for way in (1, -1)
    )
    return CamReport(
        sides,
        lsa,
        lsa - icl if lsa is not None and icl is not None else None,
        card,
        card_contradictions(card) if card else (),
        moves if sides else (),
    )


def _side(
    engine: Engine,
    side: Side,
    card: CamCard | None,
    table: LobeTable | None,
    degreed: CentrelineFigure | None,
    changes: Sequence[Change],
    said_deg: float | None,
) -> SideCam | None:
    # A table measured at the valve was measured through the original rockers.
    lobe: Lobe | None = table_lobe(table, engine.ratio) if table else (lobe_of(card, side) if card else None)
    on_card = said_deg if said_deg is not None else (card.centreline_deg(side) if card else None)
    if lobe is None or (on_card is None and degreed is None):
        return None
    centreline = degreed.centreline_deg if degreed else Value(on_card or 0.0, CARD_U_DEG)
    if not degreed:
        centreline += Value(-advanced_since(changes, 0, side))
    lash = card.lash_mm(side) if card else 0.0
    lash += sum(c.amount for c in done_since(changes, 0) if c.kind is LASH_CHANGED and c.is_of(side))
    train = ValveTrain(
        side=side,
        lobe=lobe,
        centreline_deg=centreline.value,
        ratio=as_changed(engine, changes).ratio,
        lash_mm=max(lash, 0.0),
    )
    opens = closes = None
    if lobe.lift_max_mm > EVENTS_AT_MM:
        opens, closes = train.events_deg(EVENTS_AT_MM)
    late = centreline.value - on_card if degreed and on_card is not None else None
    return SideCam(
        side=side,
        train=train,
        centreline=centreline,
        degreed=degreed,
        late_deg=late,
        opens_deg=opens,
        closes_deg=closes,
    )


def cam_sides(engine: Engine, cam: Camshaft) -> Mapping[Side, SideCam]:
    """Return the sides of a cam in the present engine that have a lobe and a centreline."""
    tables = {table.side: table for table in cam.tables}
    found = {side: _side(engine, side, cam.card, tables.get(side), None, (), cam.stands_deg(side)) for side in Side}
    return {side: one for side, one in found.items() if one}


def lobe_of(card: CamCard, side: Side) -> UncertainLobe:
    """Return a side's lobe with all its card leaves open, narrowed by TDC lift and events."""
    one, centreline = card.lobe(side), card.centreline_deg(side)
    told = []
    if one.tdc_lift_mm is not None:
        told.append(CardLift(-centreline, one.tdc_lift_mm, PRINTED_U_DEG))
    smooth = smooth_lobe(one)
    if card.events and card.events.at_mm < one.lift_mm:
        for what, flank in zip(("opens", "closes"), smooth.flanks_deg(card.events.at_mm), strict=True):
            at = getattr(card.events, f"{side}_{what}_deg") - centreline
            if abs(at - flank) <= NO_SUCH_LOBE_DEG:
                told.append(CardLift(at, card.events.at_mm, math.sqrt(2) * PRINTED_U_DEG))
    return uncertain_lobe(one, tuple(told))


def card_contradictions(card: CamCard) -> tuple[Contradiction, ...]:
    """Return the contradictions within a card."""
    return tuple(_contradictions(card))


def _contradictions(card: CamCard) -> Iterable[Contradiction]:
    for side in Side:
        lobe = lobe_of(card, side)
        for duration in card.lobe(side).durations:
            if duration.at_mm < lobe.lift_max_mm:
                opens, closes = lobe.likely_flanks_deg(duration.at_mm)
                if abs(closes - opens - duration.deg) > CONTRADICTS_DEG:
                    yield Contradiction(f"{side} duration", duration.deg, closes - opens)
        if card.events and card.events.at_mm < lobe.lift_max_mm:
            opens, closes = lobe.flanks_deg(card.events.at_mm)
            for what, flank in (("opens", opens), ("closes", closes)):
                given = getattr(card.events, f"{side}_{what}_deg")
                computed = card.centreline_deg(side) + flank
                if abs(given - computed) > CONTRADICTS_DEG:
                    yield Contradiction(f"{side} {what}", given, computed)


@dataclass(frozen=True, slots=True)
class ArrivedLift:
    """The lift at one valve: the reading, the effective ratio [1], the train's bending [mm].

    ``ratio`` is None where the lobe is not known; ``bend_mm`` where no reading with checking springs can be compared
    with one with running springs.
    """

    reading: LiftReading
    loaded: bool
    ratio: float | None
    bend_mm: float | None


def arrived_lifts(
    lifts: Mapping[tuple[Place, str], LiftReading],
    sides: Mapping[Side, SideCam],
    loaded: Mapping[str, bool],
    lash_mm: Mapping[tuple[str, Side], float],
) -> tuple[ArrivedLift, ...]:
    """Return each newest lift with (lift + lash) / lobe lift, and its loss under springs.

    ``loaded``: for each mock-up whether it had running springs; ``lash_mm``: its lash at the valve, by side.
    """
    found = []
    in_order = sorted(lifts.items(), key=lambda item: (item[0][0].bench_order, item[0][1]))
    for (place, mockup), reading in in_order:
        side = sides.get(place.side)
        lash = lash_mm[mockup, place.side]
        ratio = (reading.lift_mm + lash) / side.train.lobe.lift_max_mm if side else None
        free = [
            other.lift_mm + lash_mm[letter, place.side]
            for (at, letter), other in lifts.items()
            if at == place and not loaded[letter]
        ]
        bend = free[-1] - (reading.lift_mm + lash) if loaded[mockup] and free else None
        found.append(ArrivedLift(reading, loaded[mockup], ratio, bend))
    return tuple(found)
