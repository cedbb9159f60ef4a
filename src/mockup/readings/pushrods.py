"""Pushrods: the length that leaves no play and no push, per valve; what the roller or tip wipes; the base circle.

zero-lash length = closed length of the checker + turns x pitch, or read off with a caliper (common practice).
"""

import math
from collections.abc import Iterable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from mockup.changes.change import bore_rungs, done_since, since_words
from mockup.changes.kind import Told, Touched
from mockup.engine.pushrods import LENGTHS_MM, USUAL_PITCH_MM, PushrodChoice
from mockup.engine.valves import Place
from mockup.faults import Fault, refuse
from mockup.quantity.echo import Asked
from mockup.quantity.fields import Mm, Name
from mockup.quantity.ladder import Doubt, Rung, running_figure
from mockup.quantity.shown import format_bench, format_both
from mockup.quantity.typed_train import parse_pushrod, parse_wipe
from mockup.quantity.value import MM_PER_INCH, Value, mean_of_repeats, rectangular
from mockup.reading_kinds import of_the_newest_engine, reading_kind
from mockup.record import Reading
from mockup.stations import Station

if TYPE_CHECKING:
    from mockup.readings.basis import Basis


TURN_U = rectangular(0.1)
"""Turns of a checker are counted to a tenth: common practice, no source."""
CALIPER_U_MM = rectangular(0.002 * MM_PER_INCH)


def _echo_trial(asked: Asked) -> str:
    typed = parse_pushrod(asked.text, asked.unit, asked.checker)
    return format_both(typed.closed_mm + typed.turns * typed.pitch_mm, asked.unit)


@reading_kind(
    name="pushrod",
    listed="pushrods",
    words="pushrod tried",
    station=Station.PUSHRODS,
    of=lambda reading: reading.place,
    reads=lambda _: Touched.PUSHROD,
    echo={"pushrod": _echo_trial},
)
@dataclass(frozen=True, slots=True, kw_only=True)
class PushrodReading(Reading):
    """One trial of one valve in the mock-up ``mockup``: ``closed_mm`` + ``turns`` x ``pitch_mm`` [mm].

    No turns: ``closed_mm`` is the whole length, read off with a caliper. Raises FaultsError.
    """

    mockup: Name
    place: Place
    closed_mm: Mm
    turns: float = 0.0
    pitch_mm: Mm = USUAL_PITCH_MM

    def __post_init__(self) -> None:
        found = []
        if not 0 <= self.turns <= 60:
            found.append(Fault("turns", "From 0 to 60 turns."))
        if not 0.2 <= self.pitch_mm <= 3:
            found.append(Fault("pitch_mm", "A pitch of 0.2 to 3 mm (0.008 to 0.118 in) a turn."))
        low, high = LENGTHS_MM
        if not found and not low <= self.length_mm <= high:
            found.append(Fault("closed_mm", f"A pushrod of {low:g} to {high:g} mm (1.57 to 19.7 in)."))
        refuse(found)

    @property
    def length_mm(self) -> float:
        """The zero-lash length of this trial [mm]."""
        return self.closed_mm + self.turns * self.pitch_mm

    @property
    def u_mm(self) -> float:
        """Standard uncertainty of this trial [mm]."""
        return math.hypot(CALIPER_U_MM, TURN_U * self.pitch_mm if self.turns else 0.0)


@dataclass(frozen=True, slots=True)
class PushrodFigure:
    """One valve's zero-lash length as the engine will run [mm], how it came about, its trials, changes since."""

    zero: Value
    ladder: tuple[Rung, ...]
    readings: tuple[PushrodReading, ...]
    carried: tuple[str, ...]

    @property
    def spread_mm(self) -> float:
        """Between the longest and the shortest trial [mm]."""
        lengths = [reading.length_mm for reading in self.readings]
        return max(lengths) - min(lengths)


def pushrod_figures(basis: "Basis") -> dict[Place, PushrodFigure]:
    """The zero-lash length of each valve that was tried, in its newest mock-up, by place.

    A gasket, deck or shims that differ by dz afterwards move it by dz x cos(lean).
    """
    job = basis.job
    tried: dict[Place, list[PushrodReading]] = {}
    for reading in of_the_newest_engine(job.of(PushrodReading), job.engine, job.changes):
        tried.setdefault(reading.place, []).append(reading)
    return {place: _figure(tried[place], basis) for place in sorted(tried, key=lambda place: place.bench_order)}


def _figure(readings: list[PushrodReading], basis: "Basis") -> PushrodFigure:
    newest = [reading for reading in readings if reading.mockup == readings[-1].mockup]
    read = mean_of_repeats([reading.length_mm for reading in newest], max(reading.u_mm for reading in newest))
    choice = basis.job.pushrod_choice
    share = math.cos(math.radians(choice.lean_deg if choice else 0.0))
    rungs = [Rung("zero-lash length as tried", read, Doubt.REPEATABILITY)]
    gasket = basis.gasket_more(basis.job.mockup(newest[0].mockup), newest[0].after)
    # While no final gasket is chosen it is a length as mocked up.
    if gasket is not None and basis.final:
        rungs.append(Rung("gasket as mocked up, to the final one", gasket.scaled(share), Doubt.GASKET))
    moved = _cuts(newest[0], basis)
    rungs += [Rung(rung.text, rung.delta.scaled(share), rung.of) for rung in moved]
    return PushrodFigure(running_figure(rungs), tuple(rungs), tuple(newest), tuple(rung.text for rung in moved))


def _cuts(reading: PushrodReading, basis: "Basis") -> tuple[Rung, ...]:
    """Decks and heads cut since: the head comes down. What moves it by nobody knows how much is told of."""
    place = reading.place
    cuts = bore_rungs(basis.changes, reading.after, place.cylinder, basis.job.engine, Touched.PUSHROD)
    others = (
        Rung(f"{since_words(change, 'tried')}: by how much it moved is not known", Value(0.0))
        for change in done_since(basis.changes, reading.after)
        if change.kind.effect_on(Touched.PUSHROD) is Told.BY_NOBODY and change.is_of(place.side)
    )
    return (*cuts, *others)


@dataclass(frozen=True, slots=True)
class LengthOption:
    """One length that can be had [mm], and the preload or lash at the valve it would give one valve [mm]."""

    length_mm: float
    gives_mm: float
    fits: bool


NEAR_TARGET_MM = 2.54
"""Pushrods on the shelf that are further from the length aimed at are of another engine: our own bound, 0.1 in."""


def length_options(
    choice: PushrodChoice, zero_mm: float, ratio: float, shelf_mm: Iterable[float] = ()
) -> tuple[LengthOption, ...]:
    """The lengths either side of the target: in the maker's step, and those on the shelf near it, shortest first."""
    target = choice.target_mm(zero_mm, ratio)
    lengths = {round(length, 6) for length in shelf_mm if abs(length - target) <= NEAR_TARGET_MM}
    if choice.step_mm:
        below = math.floor(target / choice.step_mm + 1e-9)
        lengths |= {round(count * choice.step_mm, 6) for count in (below, below + 1)}
    found = []
    for length in sorted(lengths):
        gives = choice.left_mm(length, zero_mm, ratio)
        found.append(LengthOption(length, gives, choice.low_mm - 1e-6 <= gives <= choice.high_mm + 1e-6))
    return tuple(found)


def _echo_wipe(asked: Asked) -> str:
    typed = parse_wipe(asked.text, asked.unit)
    wide, off = typed.end_mm - typed.start_mm, (typed.start_mm + typed.end_mm - typed.tip_mm) / 2
    return f"{format_bench(wide, asked.unit)} wide, {format_bench(abs(off), asked.unit)} off centre"


@reading_kind(
    name="wipe",
    listed="wipes",
    words="wipe pattern",
    station=Station.PUSHRODS,
    of=lambda reading: reading.place,
    reads=lambda _: None,
    echo={"wipe": _echo_wipe},
)
@dataclass(frozen=True, slots=True, kw_only=True)
class WipeReading(Reading):
    """The wipe pattern across a valve's tip: where it starts and ends from the tip's inner edge [mm], tip width [mm].

    ``square``: the rocker stood square to the valve at half lift; None where nobody looked. ``half_lift_deg``: the
    angle between the two there, as measured [deg], 60 to 120, None where it was not. Raises FaultsError.
    """

    mockup: Name
    place: Place
    start_mm: Mm
    end_mm: Mm
    tip_mm: Mm
    square: bool | None = None
    half_lift_deg: float | None = None

    def __post_init__(self) -> None:
        found = []
        if not 2 <= self.tip_mm <= 20:
            found.append(Fault("tip_mm", "A valve tip of 2 to 20 mm (0.08 to 0.79 in) across."))
        elif not 0 <= self.start_mm < self.end_mm <= self.tip_mm:
            found.append(Fault("end_mm", "The pattern starts and ends on the tip, in that order."))
        if self.half_lift_deg is not None and not 60 <= self.half_lift_deg <= 120:
            found.append(Fault("half_lift_deg", "Rocker to valve at half lift: 60 to 120 degrees, 90 is square."))
        refuse(found)

    @property
    def width_mm(self) -> float:
        """How wide the pattern is [mm]."""
        return self.end_mm - self.start_mm

    @property
    def off_centre_mm(self) -> float:
        """How far its middle lies from the tip's, positive outward from the rocker's pivot [mm]."""
        return (self.start_mm + self.end_mm - self.tip_mm) / 2

    @property
    def centred(self) -> bool:
        """Whether its middle lies within a tenth of the tip of the tip's own: common practice, no source."""
        return abs(self.off_centre_mm) <= self.tip_mm / 10
