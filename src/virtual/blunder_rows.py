"""The rows of the proof with mistakes."""

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Any

import numpy as np

from mockup.engine.mockup import DialTurns, Overlap
from mockup.engine.valves import Place, Side
from mockup.job import Job
from mockup.quantity.value import MM_PER_INCH
from mockup.readings.clay import ClayReading
from mockup.readings.deck import DeckReading
from mockup.readings.sweep import SweepReading
from mockup.readings.volumes import VolumePart, VolumeReading
from virtual.blunders import Blunder, Scene
from virtual.engine import true_engine
from virtual.hand import cam_card, measured_table
from virtual.lobes import THOU

FIRST = Place(1, Side.INTAKE)
TURN_MM = 100 * THOU


def plain(rng: np.random.Generator, count: int) -> Scene:
    """No lobe known."""
    return Scene(rng, count)


def with_card(rng: np.random.Generator, count: int) -> Scene:
    """The cam's card."""
    return Scene(rng, count, lobe="card")


def with_table(rng: np.random.Generator, count: int) -> Scene:
    """The lobe measured."""
    return Scene(rng, count, lobe="table")


def clayed(rng: np.random.Generator, count: int) -> Scene:
    """Clay cut at every intake."""
    return Scene(rng, count, clay=True)


def unstated(rng: np.random.Generator, count: int) -> Scene:
    """How overlap was told, and how the dial's turns were counted, are not stated."""
    return Scene(rng, count, told={"overlap": Overlap.NOT_STATED, "dial_turns": DialTurns.NOT_STATED})


def _firing(scene: Scene, **told: Any) -> Job:
    mock = replace(scene.mock, told=replace(scene.mock.told, **told))
    return scene.swept(scene.shut, mock).job()


def _one_at_firing(scene: Scene) -> Job:
    """The first cylinder was read one whole turn off; the others at overlap."""
    bench = scene.bench()
    for cylinder in scene.engine.designed.cylinder_numbers:
        bench.engine = scene.shut if cylinder == 1 else scene.engine
        scene.read(bench, cylinder)
    return bench.job()


def _more(scene: Scene, more_mm: float, *, every: bool = False) -> Job:
    def off(one: SweepReading) -> SweepReading:
        return replace(one, clearance_mm=one.clearance_mm + more_mm) if every or one.place == FIRST else one

    return scene.but(off)


def _turn_beside_clay(scene: Scene) -> Job:
    job = _more(scene, TURN_MM, every=True)
    bench = scene.bench()
    for cylinder in scene.engine.designed.cylinder_numbers:
        bench.clay(cylinder, Side.INTAKE, 2, 3.0)
    clay = tuple(replace(one, key=f"clay-{one.key}") for one in bench.kept["clay"])
    return replace(job, readings=(*job.readings, *clay))


def _turn_unsaid(scene: Scene) -> Job:
    job = _more(scene, TURN_MM, every=True)
    return replace(job, mockups=(replace(job.mockups[0], dial_turns=DialTurns.NOT_STATED),))


def _one_reading(scene: Scene, off: Callable[[float], float]) -> Job:
    """One random reading of the first valve is replaced."""
    mine = [one.key for one in scene.honest.of(SweepReading) if one.place == FIRST]
    key = mine[scene.rng.integers(len(mine))]
    return scene.but(lambda one: replace(one, clearance_mm=max(off(one.clearance_mm), 0.0)) if one.key == key else one)


def _backwards(read_mm: float) -> float:
    """Return what a dial of 100 divisions shows if its needle went the other way."""
    return float(-read_mm % TURN_MM)


def _some_off(scene: Scene) -> Job:
    """One reading in twenty is off by 5 to 20 thou; at least one of the first valve."""

    def off(one: SweepReading) -> SweepReading:
        if scene.rng.random() > 0.05:
            return one
        return replace(one, clearance_mm=max(one.clearance_mm + _five_to_twenty(scene), 0.0))

    spoiled = scene.but(off)
    return spoiled if spoiled != scene.honest else _one_reading(scene, lambda mm: mm + _five_to_twenty(scene))


def _five_to_twenty(scene: Scene) -> float:
    return float(scene.rng.choice([-1, 1]) * scene.rng.uniform(5, 20) * THOU)


def _turned(scene: Scene, *, told: float | None) -> Job:
    """The smallest found by turning in steps of ten degrees, from a random start."""
    bench = scene.bench()
    for cylinder in scene.engine.designed.cylinder_numbers:
        valve = scene.engine.valves[cylinder, Side.INTAKE]
        begun = scene.rng.uniform(-10, 0)
        rooms = valve.room_mm(begun + np.arange(0.0, 60.0, 10.0), scene.engine.crank, scene.mock.true)
        for _ in range(scene.count):
            read = scene.hand.dial(float(rooms.min()))
            bench.kept["sweeps"].append(
                SweepReading(
                    key=bench.key(),
                    mockup="A",
                    place=Place(cylinder, Side.INTAKE),
                    clearance_mm=read,
                    by_turning=True,
                    turned_step_deg=told,
                )
            )
    return bench.job()


def _wrong_valve(scene: Scene) -> Job:
    """The exhaust's readings were typed at the intake."""
    bench = scene.bench()
    for cylinder in scene.engine.designed.cylinder_numbers:
        side = Side.EXHAUST if cylinder == 1 else Side.INTAKE
        read = scene.engine.valves[cylinder, side]
        bench.engine = replace(scene.engine, valves=scene.engine.valves | {(cylinder, Side.INTAKE): read})
        scene.read(bench, cylinder)
    return bench.job()


def _swapped(scene: Scene) -> Job:
    other = {1: 2, 2: 1}

    def swap(one: SweepReading) -> SweepReading:
        number = one.place.cylinder
        return replace(one, place=replace(one.place, cylinder=other.get(number, number)))

    return scene.but(swap)


def _inches(scene: Scene) -> Job:
    """A dial in inches, typed into a build in millimetres."""
    return _more_by(scene, 1 / MM_PER_INCH)


def _in_the_train(scene: Scene, **how: float) -> Job:
    """The first valve's train differed from what was stated."""
    mock = replace(scene.mock, true=replace(scene.mock.true, **how))
    bench = scene.bench()
    for cylinder in scene.engine.designed.cylinder_numbers:
        bench.mock = mock if cylinder == 1 else scene.mock
        scene.read(bench, cylinder)
    bench.mock = scene.mock
    return bench.job()


def _bled(scene: Scene) -> Job:
    return _in_the_train(scene, bled_mm=scene.rng.uniform(0.1, 0.8))


def _other_gasket(scene: Scene) -> Job:
    mock = replace(scene.mock, true=replace(scene.mock.true, raised_mm=scene.rng.uniform(5, 20) * THOU))
    return scene.swept(mock=mock).job()


def _tooth_out(scene: Scene) -> Job:
    """The whole cam is off its card, and was not degreed."""
    scene.mock = replace(scene.mock, true=replace(scene.mock.true, advanced_deg=_a_tooth(scene)))
    return scene.swept().job()


def _a_tooth(scene: Scene) -> float:
    return float(scene.rng.choice([-1, 1])) * scene.rng.uniform(9, 15)


def _as_it_stands(scene: Scene) -> float:
    return scene.engine.valves[1, Side.INTAKE].closest(scene.engine.crank, scene.mock.true)[0]


def _other_card(scene: Scene) -> Job:
    return replace(scene.honest, cam_card=cam_card(scene.rng, true_engine(scene.rng, 1)))


def _other_lobe(scene: Scene) -> Job:
    other = measured_table(scene.rng, true_engine(scene.rng, 1).valves[1, Side.INTAKE], 0.01)
    return replace(scene.honest, lobe_tables=(other,))


def _tilted(scene: Scene) -> Job:
    tilt = scene.rng.uniform(10, 20)
    return _more_by(scene, 1 / float(np.cos(np.radians(tilt))))


def _more_by(scene: Scene, times: float) -> Job:
    return scene.but(lambda one: replace(one, clearance_mm=one.clearance_mm * times) if one.place == FIRST else one)


def _wrong_place(scene: Scene) -> Job:
    """Every slice of the first valve was measured beside the imprint."""
    more = scene.rng.uniform(10, 30) * THOU
    return replace(
        scene.honest,
        readings=tuple(
            replace(one, thickness_mm=one.thickness_mm + more)
            if isinstance(one, ClayReading) and one.place == FIRST
            else one
            for one in scene.honest.readings
        ),
    )


def _crown(scene: Scene, change: Callable[[float], float]) -> Job:
    return replace(
        scene.honest,
        readings=tuple(
            replace(one, clearance_mm=change(one.clearance_mm))
            if isinstance(one, DeckReading) and one.cylinder == 1
            else one
            for one in scene.honest.readings
        ),
    )


def _digit(scene: Scene) -> Job:
    return replace(
        scene.honest,
        readings=tuple(
            replace(one, cc=0.75 * one.cc)
            if isinstance(one, VolumeReading) and one.part is VolumePart.CHAMBER and one.cylinder == 1
            else one
            for one in scene.honest.readings
        ),
    )


_of_the_quench = partial(
    Blunder, scene=plain, counts=(1,), label="Quench 1", truth=lambda scene: scene.engine.quench_mm(1)
)
_of_the_ratio = partial(Blunder, scene=plain, counts=(1,), label="Ratio 1", truth=lambda scene: scene.engine.ratio(1))

BLUNDERS = (
    Blunder("firing TDC, overlap method not stated", partial(_firing, overlap=Overlap.NOT_STATED), plain),
    Blunder("firing TDC, by the wheel alone", partial(_firing, overlap=Overlap.WHEEL), plain),
    Blunder("firing TDC, with the cam’s card", partial(_firing, overlap=Overlap.NOT_STATED), with_card),
    Blunder("firing TDC, with a measured lobe", partial(_firing, overlap=Overlap.NOT_STATED), with_table),
    Blunder("one cylinder at firing TDC, the others at overlap", _one_at_firing, plain),
    Blunder("a turn of the dial too many at one valve", partial(_more, more_mm=TURN_MM), plain),
    Blunder("a turn too many at every valve, beside clay", _turn_beside_clay, plain),
    Blunder("a turn too many at every valve, turn counting not stated", _turn_unsaid, plain),
    Blunder("the needle wound backwards at one reading", partial(_one_reading, off=_backwards), plain),
    Blunder("the same, with the cam’s card", partial(_one_reading, off=_backwards), with_card),
    Blunder("one reading in twenty off by 5 to 20", _some_off, plain),
    Blunder("the same, with the cam’s card", _some_off, with_card),
    Blunder("smallest by turning in steps of 10°, not stated", partial(_turned, told=None), plain),
    Blunder("smallest by turning in steps of 10°, said", partial(_turned, told=10.0), plain),
    Blunder("the exhaust typed at the intake", _wrong_valve, plain),
    Blunder("two cylinders swapped", _swapped, plain, noticed=0.0),
    Blunder("inches typed for millimetres", _inches, plain),
    Blunder("a lifter that bled by 4 to 31 at one valve, said to be solid", _bled, plain, noticed=70.0),
    Blunder("another cam’s card", _other_card, with_card),
    Blunder("another cam’s measured lobe", _other_lobe, with_table),
    Blunder("the cam a tooth out, with its card", _tooth_out, with_card, truth=_as_it_stands),
    Blunder("the cam a tooth out, with its measured lobe", _tooth_out, with_table, truth=_as_it_stands),
    Blunder("the dial tilted 10 to 20° at one valve, said to be in line", _tilted, plain, seen=False),
    Blunder("a print measured beside its thinnest place, 10 to 30 thicker", _wrong_place, clayed, noticed=60.0),
    Blunder("another gasket than was told, 5 to 20 thicker", _other_gasket, plain, seen=False),
    Blunder(
        "a turn too many at every valve, said to be counted",
        partial(_more, more_mm=TURN_MM, every=True),
        plain,
        seen=False,
    ),
    _of_the_quench("a crown’s sign lost", partial(_crown, change=lambda mm: -mm)),
    _of_the_quench("a crown 54 deeper than it is", partial(_crown, change=lambda mm: mm + 54 * THOU)),
    _of_the_ratio("a chamber a quarter smaller than it is", _digit),
)
