"""The cam as its card describes it, or as measured.

Crank degrees, except the lobe separation angle.

Signs: crank angles are about overlap TDC, negative before it, -360 to 360. The intake centreline is given ATDC and the
exhaust centreline BTDC, both positive, as cards print them.
"""

import math
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise
from typing import Annotated

from mockup.base.faults import Fault, refuse
from mockup.engine.valves import Side
from mockup.quantity.fields import Mm, Most
from mockup.quantity.shown import mm_range, mm_text

HIGHEST_LOBE_MM = 30.0
FEWEST_POINTS = 5
MOST_POINTS = 1500
END_LIFT_MM = 0.05
"""A table may end where its lift is under this; beyond, the valve counts as shut."""
JUMP_SHARE = 0.35
"""A step between neighbouring rows larger than this share of the whole lift is not a lobe."""
LEAST_APART = 2.0
"""The least proportion between the checking lifts of two durations; closer ones carry the same information."""


@dataclass(frozen=True, slots=True)
class Duration:
    """How long a lobe stays above a checking lift: ``deg`` [deg] above ``at_mm`` [mm]."""

    deg: float
    at_mm: Mm


@dataclass(frozen=True, slots=True, kw_only=True)
class LobeCard:
    """One lobe by its card: ``lift_mm`` [mm], 0.5 to 30, and one to three durations.

    ``tdc_lift_mm``: the lobe's lift at overlap TDC with the cam on its card's centreline [mm], where the card states
    it. Raises FaultsError where the figures contradict one another.
    """

    lift_mm: Mm
    durations: Annotated[tuple[Duration, ...], Most(3)]
    tdc_lift_mm: Mm | None = None

    def __post_init__(self) -> None:
        found = []
        if self.tdc_lift_mm is not None and not 0 <= self.tdc_lift_mm < min(self.lift_mm, HIGHEST_LOBE_MM):
            found.append(Fault("tdc_lift_mm", "A lift at TDC below the lobe’s own; 0 where it is shut there."))
        if not 0.5 <= self.lift_mm <= HIGHEST_LOBE_MM:
            found.append(Fault("lift_mm", f"A lobe lift of {mm_range(0.5, 30)}."))
        if not 1 <= len(self.durations) <= 3:
            found.append(Fault("durations", "One to three durations, each with its checking lift."))
        for at, duration in enumerate(self.durations):
            if not 60 <= duration.deg <= 400:
                found.append(Fault(f"durations.{at}.deg", "A duration of 60 to 400 crank degrees."))
            if not 0 < duration.at_mm < min(self.lift_mm, HIGHEST_LOBE_MM):
                found.append(Fault(f"durations.{at}.at_mm", "A checking lift above zero and below the lobe’s own."))
        refuse(found or self._contradictions())

    def _contradictions(self) -> list[Fault]:
        found = []
        ordered = sorted(self.durations, key=lambda duration: duration.at_mm)
        for low, high in pairwise(ordered):
            if high.at_mm < LEAST_APART * low.at_mm:
                found.append(Fault("durations", "Checking lifts closer than two to one tell the same thing twice."))
            elif high.deg >= low.deg:
                found.append(Fault("durations", "A lobe stays longer above a lower checking lift, not shorter."))
        return found


class TableZero(StrEnum):
    """What the angles of a lift table count from."""

    CENTRELINE = "centreline"
    MAXIMUM = "maximum lift"


class LiftAt(StrEnum):
    """Where a lift was measured."""

    LOBE = "lobe"
    VALVE = "valve"


@dataclass(frozen=True, slots=True, kw_only=True)
class LobeTable:
    """One lobe as measured: angles [deg] and lifts [mm], each shape (n,), 5 to 1500 points.

    ``at``: lobe or valve; ``zero``: where the lobe's middle is. ``u_mm``: standard uncertainty of one lift [mm]. Raises
    FaultsError at the row that is wrong.
    """

    side: Side
    angles_deg: Annotated[tuple[float, ...], Most(MOST_POINTS)]
    lifts_mm: Annotated[tuple[Mm, ...], Most(MOST_POINTS)]
    at: LiftAt = LiftAt.LOBE
    zero: TableZero = TableZero.CENTRELINE
    u_mm: Mm = 0.01

    def __post_init__(self) -> None:
        refuse(self._shape_faults() or self._row_faults() or self._lobe_faults())

    def _shape_faults(self) -> list[Fault]:
        found = []
        if len(self.angles_deg) != len(self.lifts_mm):
            found.append(Fault("lifts_mm", "Every angle has its lift."))
        if not FEWEST_POINTS <= len(self.angles_deg) <= MOST_POINTS:
            found.append(Fault("angles_deg", f"From {FEWEST_POINTS} to {MOST_POINTS} points."))
        if not 0 <= self.u_mm <= 1:
            found.append(Fault("u_mm", "From 0 to 1 mm."))
        return found

    def _row_faults(self) -> list[Fault]:
        found = []
        for at, (angle, lift) in enumerate(zip(self.angles_deg, self.lifts_mm, strict=True), start=1):
            if not (math.isfinite(angle) and abs(angle) <= 720):
                found.append(Fault("angles_deg", f"Row {at}: an angle within a turn or two, −720 to 720."))
            if not 0 <= lift <= 2 * HIGHEST_LOBE_MM:
                found.append(Fault("lifts_mm", f"Row {at}: a lift of {mm_range(0, 60)}, never negative."))
        for at, (one, two) in enumerate(pairwise(self.angles_deg), start=2):
            if two == one:
                found.append(Fault("angles_deg", f"Row {at}: the angle {two:g} occurs twice."))
            elif two < one:
                found.append(
                    Fault("angles_deg", f"Row {at}: angles go up from row to row; {two:g} comes after {one:g}.")
                )
        return found[:8]

    def _lobe_faults(self) -> list[Fault]:
        top = max(self.lifts_mm)
        if self.angles_deg[-1] - self.angles_deg[0] < 4 * math.pi:
            return [Fault("angles_deg", "All within a few degrees: these look like radians. Give degrees.")]
        if top < 0.5:
            return [Fault("lifts_mm", f"A lobe lifts {mm_text(0.5)} at least.")]
        for at, (one, two) in enumerate(pairwise(self.lifts_mm), start=2):
            if abs(two - one) > JUMP_SHARE * top:
                return [Fault("lifts_mm", f"Row {at}: the lift jumps from {one:g} to {two:g} mm. Is a row missing?")]
        for at in (0, -1):
            if self.lifts_mm[at] > END_LIFT_MM:
                which = "first" if at == 0 else "last"
                return [
                    Fault("lifts_mm", f"The {which} lift is over {mm_text(0.05)}: the lobe beyond it is not known.")
                ]
        return []


@dataclass(frozen=True, slots=True, kw_only=True)
class Events:
    """Valve events as a card prints them: signed angles about overlap TDC [deg], at one lift."""

    at_mm: Mm
    intake_opens_deg: float
    intake_closes_deg: float
    exhaust_opens_deg: float
    exhaust_closes_deg: float

    def __post_init__(self) -> None:
        found = (
            []
            if 0 < self.at_mm < HIGHEST_LOBE_MM
            else [Fault("at_mm", "Enter the lift at which the events are given.")]
        )
        for side in ("intake", "exhaust"):
            opens, closes = getattr(self, f"{side}_opens_deg"), getattr(self, f"{side}_closes_deg")
            if not -360 <= opens < closes <= 360:
                found.append(Fault(f"{side}_closes_deg", f"The {side} closes after it opens, within a turn of TDC."))
        refuse(found)


@dataclass(frozen=True, slots=True, kw_only=True)
class CamCard:
    """A cam by its card: lobes, intake centreline ATDC [deg], lobe separation in cam degrees.

    ``two_cams``: intake and exhaust each have their own. Lash [mm] at the valve, as the engine will run. Raises
    FaultsError.
    """

    intake: LobeCard
    exhaust: LobeCard
    icl_deg: float
    lsa_deg: float
    intake_lash_mm: Mm = 0.0
    exhaust_lash_mm: Mm = 0.0
    two_cams: bool = False
    events: Events | None = None

    def __post_init__(self) -> None:
        found = []
        if not 70 <= self.icl_deg <= 150:
            found.append(Fault("icl_deg", "An intake centreline of 70 to 150 crank degrees ATDC."))
        if not 80 <= self.lsa_deg <= 140:
            found.append(Fault("lsa_deg", "A lobe separation of 80 to 140 cam degrees."))
        found += [
            Fault(name, f"Lash of {mm_range(0, 3)}.")
            for name in ("intake_lash_mm", "exhaust_lash_mm")
            if not 0 <= getattr(self, name) <= 3
        ]
        refuse(found)

    @property
    def ecl_deg(self) -> float:
        """The exhaust centreline, crank degrees BTDC [deg]: from LSA = (ICL + ECL) / 2."""
        return 2 * self.lsa_deg - self.icl_deg

    @property
    def advance_deg(self) -> float:
        """How far the cam is ground in advance [deg]: LSA - ICL."""
        return self.lsa_deg - self.icl_deg

    def lobe(self, side: Side) -> LobeCard:
        """Return the lobe of one side."""
        return self.intake if side is Side.INTAKE else self.exhaust

    def centreline_deg(self, side: Side) -> float:
        """Return a side's centreline as a signed crank angle about overlap TDC [deg]."""
        return self.icl_deg if side is Side.INTAKE else -self.ecl_deg

    def lash_mm(self, side: Side) -> float:
        """Return a side's running lash at the valve [mm]."""
        return self.intake_lash_mm if side is Side.INTAKE else self.exhaust_lash_mm
