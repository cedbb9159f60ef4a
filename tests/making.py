"""The one factory of test data: small jobs of a made-up engine, shops, builds."""

from collections.abc import Iterable
from dataclasses import replace
from decimal import Decimal
from typing import Any

from mockup.changes.change import Change, ChangeKind
from mockup.changes.cuts import DECK_CUT
from mockup.changes.train import CAM_MOVED, CAMSHAFT_CHANGED, ROCKERS_CHANGED
from mockup.checks.compression import RATIO_HIGH_LIMIT, RATIO_LOW_LIMIT
from mockup.checks.quench import QUENCH_HIGH_LIMIT
from mockup.engine.block import Engine, Layout
from mockup.engine.cam import CamCard, Duration, LobeCard
from mockup.engine.camshaft import Camshaft
from mockup.engine.gasket import FinalGasket, GasketState
from mockup.engine.mockup import DialTurns, Lifters, MockUp, Overlap, Springs
from mockup.engine.valves import Place, Relief, Side, ValveRow
from mockup.job import Job
from mockup.limits.limit_set import Edit
from mockup.limits.schools import READY_MADE
from mockup.quantity.value import Unit
from mockup.readings.clay import ClayReading, Gap
from mockup.readings.deck import CrownSpot, DeckReading, Pushed
from mockup.readings.kinds import READING_KINDS
from mockup.readings.record import Reading
from mockup.readings.volumes import Known, VolumePart, VolumeReading


def thou(count: float) -> float:
    # As typing goes, through decimals: 97 thou is 2.4638 mm and not a hair less.
    return float(Decimal(str(count)) * Decimal("0.0254"))


def engine(**changes: Any) -> Engine:
    """An inline two, 95.25 x 98.425 mm, valves square to the bore, for easy figures."""
    plain: dict[str, Any] = {"cylinders": 2, "bore_mm": 95.25, "stroke_mm": 98.425, "rod_length_mm": 172.72}
    plain |= {"rocker_ratio": 1.0, "intake": ValveRow(angle_deg=0.0), "exhaust": ValveRow(angle_deg=0.0)}
    return Engine(**(plain | changes))


def inclined(angle_deg: float, relief: Relief = Relief.PARALLEL, count: int = 1) -> ValveRow:
    return ValveRow(angle_deg=angle_deg, relief=relief, count=count)


def mockup(**changes: Any) -> MockUp:
    """Used gasket of 36 thou, everything as the careful do it."""
    plain: dict[str, Any] = {"key": "A", "gasket_state": GasketState.COMPRESSED, "gasket_mm": thou(36)}
    plain |= {"lifters": Lifters.BLOCKED, "springs": Springs.CHECKING, "two_turns": True, "overlap": Overlap.MOVING}
    plain |= {"dial_turns": DialTurns.COUNTER}
    return MockUp(**(plain | changes))


def clay(thickness_thou: float, cylinder: int = 1, side: Side = Side.INTAKE, **changes: Any) -> ClayReading:
    plain: dict[str, Any] = {
        "key": f"{side}-{cylinder}-{thickness_thou}-{len(changes)}",
        "mockup": "A",
        "place": Place(cylinder, side, changes.pop("number", 1)),
        "gap": Gap.FACE,
        "thickness_mm": thou(thickness_thou),
    }
    return ClayReading(**(plain | changes))


def deck(cylinder: int, down_thou: float, **changes: Any) -> DeckReading:
    key = f"deck-{cylinder}-{down_thou}-{'-'.join(changes)}"
    return DeckReading(**({"key": key, "cylinder": cylinder, "clearance_mm": thou(down_thou)} | changes))


def edges(cylinder: int, thrust_down: float, thrust_up: float, other_up: float, other_down: float) -> list[DeckReading]:
    """Both edges across the pin, in thou down: pushed and risen, at either side."""
    return [
        deck(cylinder, down, spot=spot, pushed=pushed, key=f"edge-{cylinder}-{spot}-{pushed}")
        for spot, pushed, down in (
            (CrownSpot.THRUST, Pushed.THRUST, thrust_down),
            (CrownSpot.THRUST, Pushed.OTHER, thrust_up),
            (CrownSpot.OTHER, Pushed.THRUST, other_up),
            (CrownSpot.OTHER, Pushed.OTHER, other_down),
        )
    ]


def barrels(**changes: Any) -> Engine:
    """A flat twin with separate barrels."""
    return engine(**({"layout": Layout.FLAT, "separate_barrels": True} | changes))


def cut(front: float, rear: float | None = None, order: int | None = 1, bank: int | None = None) -> Change:
    """A deck cut in thou, done as the first change unless its order is None."""
    ends = {"front_mm": thou(front), "rear_mm": thou(front if rear is None else rear)}
    return Change(key="cut", kind=DECK_CUT, order=order, bank=bank, **ends)


def volumes(
    chamber_cc: float = 70.0, piston_cc: float = 5.0, known: Known = Known.MEASURED
) -> tuple[VolumeReading, ...]:
    return (
        VolumeReading(key="chamber", part=VolumePart.CHAMBER, cc=chamber_cc),
        VolumeReading(key="piston", part=VolumePart.PISTON, cc=piston_cc, known=known),
    )


def job(**changes: Any) -> Job:
    """A whole build that is clear by the usual street sheet."""
    plain: dict[str, Any] = {
        "name": "Test two",
        "unit": Unit.INCH,
        "engine": engine(),
        "limits": READY_MADE["street"],
        "final_gasket": FinalGasket(compressed_mm=thou(36), bore_mm=97.0),
        "mockups": (mockup(),),
        "deck": (deck(1, 4), deck(2, 5)),
        "clay": tuple(clay(t, c, s) for c in (1, 2) for t, s in ((95, Side.INTAKE), (115, Side.EXHAUST))),
        "volumes": volumes(),
    }
    return job_of(**(plain | changes))


def job_of(**given: Any) -> Job:
    """A job whose readings are given by the names of their lists."""
    listed = [kind.listed for kind in READING_KINDS]
    readings = tuple(one for name in listed for one in given.pop(name, ()))
    return Job(readings=readings, **given)


def job_with_clay(*readings: ClayReading, **changes: Any) -> Job:
    return job(clay=readings, **changes)


def twelve() -> Job:
    """Twelve cylinders of four valves, over 400 readings: the size of the speed figures."""
    rows = {"intake": inclined(14.0, count=2), "exhaust": inclined(15.0, count=2)}
    big = engine(cylinders=12, **rows)
    readings = [
        replace(clay(100 + slot, cylinder, side, number=number), key=f"{cylinder}{side}{number}-{slot}")
        for cylinder in big.cylinder_numbers
        for side in Side
        for number in (1, 2)
        for slot in range(8)
    ]
    decks = tuple(deck(cylinder, 5) for cylinder in big.cylinder_numbers)
    return job(engine=big, clay=tuple(readings), deck=decks)


def change(kind: ChangeKind, amount: float = 0.0, order: int | None = 1, **changes: Any) -> Change:
    """A change done as the first: an amount in thou for lengths, else as it is."""
    if kind.along:
        changes = {"front_mm": thou(amount), "rear_mm": thou(amount)} | changes
    else:
        changes = {"amount": amount if kind in (CAM_MOVED, ROCKERS_CHANGED) else thou(amount)} | changes
    if kind is CAMSHAFT_CHANGED:
        changes = {"cam": OTHER_CAM} | changes
    return Change(**({"key": str(kind), "kind": kind, "order": order} | changes))


LOBE = LobeCard(lift_mm=thou(300), durations=(Duration(264.0, thou(20)), Duration(226.0, thou(50))))
CARD = CamCard(intake=LOBE, exhaust=LOBE, icl_deg=106.0, lsa_deg=110.0)
BIGGER = LobeCard(lift_mm=thou(320), durations=(Duration(274.0, thou(20)), Duration(236.0, thou(50))))
OTHER_CAM = Camshaft(name="the other", card=CamCard(intake=BIGGER, exhaust=BIGGER, icl_deg=106.0, lsa_deg=110.0))
"""A cam with more lift and duration than CARD, of the same construction."""


def short_eight(**changes: Any) -> Job:
    """Eight cylinders by street limits, a card, windows: intakes short, exhausts close."""
    rows = {"intake": inclined(12.0), "exhaust": inclined(12.0), "rocker_ratio": 1.5}
    eight = engine(cylinders=8, **rows)
    limits = READY_MADE["street"].edited(
        {RATIO_LOW_LIMIT: Edit(9.3), RATIO_HIGH_LIMIT: Edit(10.4), QUENCH_HIGH_LIMIT: Edit(thou(60))}
    )
    plain: dict[str, Any] = {
        "engine": eight,
        "limits": limits,
        "cam_card": CARD,
        "deck": tuple(deck(cylinder, 5) for cylinder in eight.cylinder_numbers),
        "clay": tuple(
            replace(clay(base + cylinder, cylinder, side), key=f"{side}{cylinder}")
            for cylinder in eight.cylinder_numbers
            for side, base in ((Side.INTAKE, 72), (Side.EXHAUST, 97))
        ),
    }
    return job(**(plain | changes))


def with_readings(job: Job, **lists: Iterable[Reading]) -> Job:
    """The job with the readings of some kinds replaced; keys are list names of the job file."""
    others = {kind.listed: job.of(kind.core) for kind in READING_KINDS}
    assert set(lists) <= set(others)
    return replace(job, readings=tuple(one for found in (others | lists).values() for one in found))
