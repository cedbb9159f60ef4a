"""Volumes: chambers and pistons, measured with a burette (several fills where one is not enough) or stated."""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import TYPE_CHECKING

from mockup.changes.change import Change, done_since, since_words
from mockup.changes.kind import ChangeKind, Touched, Volume
from mockup.engine.block import Engine, cylinder_volume
from mockup.faults import Fault, refuse
from mockup.quantity.echo import Asked
from mockup.quantity.fields import Mm
from mockup.quantity.shown import format_both, format_piston_volume, format_volume
from mockup.quantity.typed import parse_piston, parse_volume
from mockup.quantity.value import Value, mean_of_repeats, rectangular
from mockup.reading_kinds import of_the_newest_engine, reading_kind
from mockup.record import Reading, standing
from mockup.stations import Station

if TYPE_CHECKING:
    from mockup.readings.basis import Basis


class VolumePart(StrEnum):
    """Whose volume it is."""

    CHAMBER = "chamber"
    PISTON = "piston"


class Known(StrEnum):
    """How a volume is known."""

    MEASURED = "measured"
    STATED = "stated"


VOLUME_U_CC = {Known.MEASURED: rectangular(0.3), Known.STATED: rectangular(1.5)}
"""Half-widths of 0.3 cm3 by burette and plate, 1.5 cm3 for a catalogue figure: common practice, no source."""
DEPTH_U_MM = rectangular(0.02)
"""How surely a piston is set down its bore with an indicator: common practice, no source."""

RANGES_CC = {VolumePart.CHAMBER: (0.1, 1500.0), VolumePart.PISTON: (-500.0, 500.0)}
DEEPEST_MM = 100.0


_TOUCHED: Mapping[VolumePart, Touched] = {VolumePart.CHAMBER: Touched.CHAMBER, VolumePart.PISTON: Touched.PISTON}


def _echo_chamber(asked: Asked) -> str:
    return f"{format_volume(parse_volume(asked.text))} cc"


def _echo_piston(asked: Asked) -> str:
    typed = parse_piston(asked.text, asked.unit)
    if typed.depth_mm:
        return f"{format_volume(typed.cc)} cc over it, {format_both(typed.depth_mm, asked.unit)} down"
    return format_piston_volume(typed.cc)


@reading_kind(
    name="volume",
    listed="volumes",
    words="volume",
    station=Station.VOLUMES,
    of=lambda reading: reading.part,
    reads=lambda reading: _TOUCHED[reading.part],
    echo={"chamber": _echo_chamber, "piston": _echo_piston},
)
@dataclass(frozen=True, slots=True, kw_only=True)
class VolumeReading(Reading):
    """One volume [cm3]; a piston's is positive where it adds room (dish), negative for a dome.

    ``depth_mm`` [mm], 0 to 100: of a piston filled under a plate, how far down its bore the crown's flat stood;
    ``cc`` is then the fluid that went in. ``cylinder`` None stands for every cylinder without a reading of its
    own. ``known_to_cc``: how truly it is known, +- [cm3], 0 for the usual. Raises FaultsError outside RANGES_CC.
    """

    part: VolumePart
    cc: float
    cylinder: int | None = None
    known: Known = Known.MEASURED
    depth_mm: Mm = 0.0
    known_to_cc: float = 0.0

    def __post_init__(self) -> None:
        low, high = (0.1, 3000.0) if self.depth_mm else RANGES_CC[self.part]
        found = []
        if not low <= self.cc <= high:
            found.append(Fault("cc", f"A {self.part} volume of {abs(low):g} to {high:g} cc."))
        if not 0 <= self.depth_mm <= DEEPEST_MM:
            found.append(Fault("depth_mm", "A piston 0 to 100 mm (3.94 in) down its bore."))
        if not 0 <= self.known_to_cc <= 50:
            found.append(Fault("known_to_cc", "Known to within 0 to 50 cc."))
        refuse(found)

    def volume(self, engine: Engine) -> Value:
        """The part's own volume [cm3]: fluid - pi/4 bore^2 depth for a piston filled down its bore, which is said."""
        own = rectangular(self.known_to_cc) if self.known_to_cc else VOLUME_U_CC[self.known]
        if not self.depth_mm:
            return Value(self.cc, own)
        bore = engine.sizes.bore_mm
        above = cylinder_volume(bore, self.depth_mm)
        parts = (own, above * 2 * engine.u_of("bore_mm") / bore, above * DEPTH_U_MM / self.depth_mm)
        return Value(self.cc - above, math.hypot(*parts))


@dataclass(frozen=True, slots=True)
class VolumeFigure:
    """A cylinder's chamber or piston volume [cm3], how it is known, the readings it is the mean of, their spread.

    ``carried``: what was changed since they were taken, in words, and is only reckoned in.
    """

    volume: Value
    known: Known
    readings: tuple[VolumeReading, ...]
    spread_cc: float = 0.0
    carried: tuple[str, ...] = ()


def volume_figures(basis: "Basis", part: VolumePart) -> dict[int, VolumeFigure]:
    """The volume of ``part`` that holds for each cylinder, by number; cylinders without one are left out.

    A cylinder's own readings govern, then those given for all; measured ones before stated ones. Several fills
    are averaged (GUM 4.2.3); of several stated figures the newest holds. A piston's are void once others are in; what
    a cut head, sunk valves or deeper reliefs make of a volume is reckoned in until it is read again.
    """
    job, engine = basis.job, basis.engine
    alive = [r for r in standing(job.of(VolumeReading)) if r.part is part and not _gone(r, basis.changes)]
    # Fluid down a bore says nothing of a piston while nobody said how wide the bore is.
    alive = [reading for reading in alive if engine.bore_mm or not reading.depth_mm]
    found = {}
    for cylinder in engine.cylinder_numbers:
        here = _governing(alive, cylinder, engine, job.changes)
        if here:
            found[cylinder] = _carried(here, part, cylinder, engine, basis.changes)
    return found


def _governing(
    readings: Sequence[VolumeReading], cylinder: int, engine: Engine, changes: Sequence[Change]
) -> Sequence[VolumeReading]:
    """The readings that hold for one cylinder: of the newest engine, its own before those given for all."""
    here = of_the_newest_engine(
        [reading for reading in readings if reading.cylinder in (cylinder, None)], engine, changes, cylinder
    )
    return [reading for reading in here if reading.cylinder == cylinder] or here


def _gone(reading: VolumeReading, changes: Iterable[Change]) -> bool:
    if reading.part is not VolumePart.PISTON:
        return False
    since = done_since(changes, reading.after)
    return any(change.kind is ChangeKind.PISTONS and not change.supposed for change in since)


def _carried(
    readings: Sequence[VolumeReading], part: VolumePart, cylinder: int, engine: Engine, changes: Sequence[Change]
) -> VolumeFigure:
    """The figure of some readings with what was changed since reckoned in."""
    figure = _figure(readings, engine)
    volume, carried = figure.volume, []
    for change in done_since(changes, readings[0].after):
        effect = change.kind.effect_on(_TOUCHED[part])
        if isinstance(effect, Volume) and change.touches(cylinder, engine):
            volume += effect.figure(change, cylinder, engine)
            carried.append(since_words(change, "filled"))
    return replace(figure, volume=volume, carried=tuple(carried)) if carried else figure


def _figure(readings: Sequence[VolumeReading], engine: Engine) -> VolumeFigure:
    measured = [reading for reading in readings if reading.known is Known.MEASURED]
    if not measured:
        return VolumeFigure(readings[-1].volume(engine), Known.STATED, (readings[-1],))
    volumes = [reading.volume(engine) for reading in measured]
    values = [volume.value for volume in volumes]
    mean = mean_of_repeats(values, max(volume.u for volume in volumes))
    return VolumeFigure(mean, Known.MEASURED, tuple(measured), max(values) - min(values))
