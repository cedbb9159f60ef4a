"""The chamber and piston volume of each cylinder, by valid readings and changes since."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from mockup.changes.change import Change, Volume
from mockup.changes.pistons import PISTONS_CHANGED
from mockup.changes.since import done_since, since_words
from mockup.engine.block import Engine
from mockup.fit.engine_history import EngineHistory
from mockup.quantity.value import Value, mean_of_repeats
from mockup.readings.kinds import of_the_newest_engine
from mockup.readings.record import standing
from mockup.readings.volumes import _AFFECTED, Known, VolumePart, VolumeReading


@dataclass(frozen=True, slots=True)
class VolumeFigure:
    """A cylinder's chamber or piston volume [cm3], how it is known, its readings and spread.

    ``carried``: what was changed since they were taken, in words; its effect is only computed.
    """

    volume: Value
    known: Known
    readings: tuple[VolumeReading, ...]
    spread_cc: float = 0.0
    carried: tuple[str, ...] = ()


def volume_figures(history: EngineHistory, part: VolumePart) -> dict[int, VolumeFigure]:
    """Return each cylinder's volume of ``part``, by number; those without one are left out.

    A cylinder's own readings govern, then those given for all; measured ones before stated ones. Several fills are
    averaged (GUM 4.2.3); the newest of several stated figures holds. Other pistons void a piston's readings. The effect
    of a cut head, sunk valves or deeper reliefs is computed until the volume is read again.
    """
    job, engine = history.job, history.engine
    alive = [r for r in standing(job.of(VolumeReading)) if r.part is part and not _gone(r, history.changes)]
    # Without a stated bore, fluid down the bore tells nothing about the piston.
    alive = [reading for reading in alive if engine.bore_mm or not reading.depth_mm]
    found = {}
    for cylinder in engine.cylinder_numbers:
        here = _governing(alive, cylinder, engine, job.changes)
        if here:
            found[cylinder] = _carried(here, part, cylinder, engine, history.changes)
    return found


def _governing(
    readings: Sequence[VolumeReading], cylinder: int, engine: Engine, changes: Sequence[Change]
) -> Sequence[VolumeReading]:
    """Return the readings of one cylinder's newest engine, its own before those for all."""
    here = of_the_newest_engine(
        [reading for reading in readings if reading.cylinder in (cylinder, None)], engine, changes, cylinder
    )
    return [reading for reading in here if reading.cylinder == cylinder] or here


def _gone(reading: VolumeReading, changes: Iterable[Change]) -> bool:
    if reading.part is not VolumePart.PISTON:
        return False
    since = done_since(changes, reading.after)
    return any(change.kind is PISTONS_CHANGED and not change.supposed for change in since)


def _carried(
    readings: Sequence[VolumeReading], part: VolumePart, cylinder: int, engine: Engine, changes: Sequence[Change]
) -> VolumeFigure:
    """Return the figure of some readings with the effect of changes since."""
    figure = _figure(readings, engine)
    volume, carried = figure.volume, []
    for change in done_since(changes, readings[0].after):
        effect = change.kind.effect_on(_AFFECTED[part])
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
