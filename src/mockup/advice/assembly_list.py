"""The list for final assembly: what the mock-up left in the build, and what must change.

Common practice, no source; makers' figures come first.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from mockup.changes.options import WorkedOn
from mockup.changes.since import done_since
from mockup.checks.valves import FACE_KINDS
from mockup.engine.gasket import GasketState
from mockup.engine.mockup import Bolts, Fasteners, Lifters, MockUp, PistonsIn, Springs
from mockup.engine.pushrods import Lifter
from mockup.engine.valves import Side
from mockup.quantity.shown import format_bench, format_dimension
from mockup.quantity.value import BENCH_UNIT
from mockup.readings.clay import ClayReading, HeadReading
from mockup.readings.volumes import VolumePart
from mockup.report import Report

LEFT_IN: tuple[tuple[str, str, str, Callable[[MockUp], bool]], ...] = (
    (
        "stretch",
        "New head bolts: stretch bolts that were tightened in mock-up are used once.",
        "stretch bolts",
        lambda mockup: mockup.fasteners is Fasteners.STRETCH,
    ),
    (
        "old-bolts",
        "Mock-up bolts out; the running head bolts or studs cleaned and prepared as their maker says.",
        "old bolts",
        lambda mockup: mockup.fasteners is Fasteners.OLD,
    ),
    (
        "lifters",
        "Running lifters in; every blocked one out, and counted.",
        "lifters blocked",
        lambda mockup: mockup.lifters in (Lifters.BLOCKED, Lifters.NOT_STATED),
    ),
    (
        "springs",
        "Checking springs off, on each bank they were on; running springs on: proper compressor, eye protection. "
        "Coil bind checked.",
        "checking springs",
        lambda mockup: mockup.springs in (Springs.CHECKING, Springs.NOT_STATED),
    ),
    (
        "rockers",
        "Running rockers on, the mock-up’s off.",
        "other rockers",
        lambda mockup: mockup.rocker_ratio is not None,
    ),
    (
        "backwards",
        "Pistons turned the right way round before they go in.",
        "pistons reversed",
        lambda mockup: mockup.pistons is PistonsIn.REVERSED,
    ),
)
"""What a mock-up leaves in an engine: the item's key, its words, the condition that asks for it, and when."""


@dataclass(frozen=True, slots=True)
class ToDo:
    """One item of the list; ``key`` identifies it, ``why`` is what in the build asks for it."""

    key: str
    words: str
    why: str = ""


def final_assembly(report: Report) -> tuple[ToDo, ...]:
    """Return the list, in working order."""
    return (
        *_from_mockups(report),
        *_machined(report),
        *_noted(report),
        *_stack(report),
        *_train(report),
        *_always(report),
    )


def _from_mockups(report: Report) -> Iterator[ToDo]:
    job = report.job
    if any(not reading.record.struck for reading in (*job.of(ClayReading), *job.of(HeadReading))):
        yield ToDo(
            "clay", "Clay cleaned off crowns, valves and chambers; none in ring lands or gas ports.", "clay check"
        )
    for key, words, why, left_in in LEFT_IN:
        mockups = ", ".join(mockup.key for mockup in job.mockups if left_in(mockup))
        if mockups:
            yield ToDo(key, words, f"{why} in mock-up {mockups}")


def _machined(report: Report) -> Iterator[ToDo]:
    done = done_since(report.job.changes, 0)
    pistons = [change for change in done if change.kind.worked_on is WorkedOn.PISTON]
    if pistons:
        why = ", ".join(sorted({str(change.kind) for change in pistons}))
        yield ToDo("balance", "Pistons weighed again and the assembly balanced after piston work.", why)
        yield ToDo("edges", "Relief edges broken and smooth; crown thickness measured at the deepest.", why)
    if any(change.kind.worked_on is WorkedOn.BLOCK for change in done):
        yield ToDo("deck-clean", "Deck cut: chamfer bores and bolt holes, wash block and galleries.", "deck cut")
    if any(change.kind.worked_on is WorkedOn.HEAD for change in done):
        yield ToDo(
            "head-work", "Head work: seats and heights checked, head washed, ports and passages clear.", "head work"
        )


def _noted(report: Report) -> Iterator[ToDo]:
    """Yield what else was in a mock-up, in its builder's words; the newest mock-up's list holds."""
    told = [mockup for mockup in report.job.mockups if mockup.also]
    for at, line in enumerate(told[-1].also if told else (), start=1):
        yield ToDo(
            f"also-{told[-1].key}-{at}", f"As in the mock-up: {line}.".replace("..", "."), f"mock-up {told[-1].key}"
        )


def _stack(report: Report) -> Iterator[ToDo]:
    job, unit = report.job, report.job.unit
    if job.final_gasket:
        final = job.final_gasket
        size = f"{format_bench(final.compressed_mm, unit)} {BENCH_UNIT[unit]} compressed"
        mocked = [
            m
            for m in job.mockups
            if m.bolts is Bolts.SNUGGED or (m.gasket and abs(m.gasket.value - final.compressed_mm) > 1e-6)
        ]
        used = [m for m in job.mockups if m.gasket_state in (GasketState.COMPRESSED, GasketState.SAME_USED)]
        why = "not the one it was mocked up with" if mocked else ("a used one was mocked up" if used else "")
        bore = f", bore {format_dimension(final.bore_mm, unit)} {unit}" if final.bore_mm is not None else ""
        yield ToDo("gasket", f"A new gasket as chosen: {final.name or 'gasket'}, {size}{bore}.", why)
    for shims in job.final_shims if job.engine.separate_barrels else ():
        where = f"barrel {shims.cylinder}" if shims.cylinder else "every barrel"
        thick = f"{format_bench(shims.total_mm, unit)} {BENCH_UNIT[unit]}"
        yield ToDo(f"shims-{shims.cylinder or 0}", f"Base shims {thick} under {where}.", shims.words)
    yield ToDo("sealant", "Thread sealant, before torque, on bolts whose holes reach water, oil or a port.", "")
    yield ToDo("washers", "Stepped or special washers, and each bolt length, where they belong.", "")
    yield ToDo("dowels", "Dowels in, both ends; faces clean and dry.", "")


def _train(report: Report) -> Iterator[ToDo]:
    job, unit = report.job, report.job.unit
    choice = job.pushrod_choice
    if choice and choice.chosen_mm:
        yield ToDo("pushrods", f"Pushrods {format_dimension(choice.chosen_mm, unit)} {unit}.", "chosen")
    if choice and choice.lifter is Lifter.HYDRAULIC:
        low, high = (format_bench(one, unit) for one in (choice.low_mm, choice.high_mm))
        yield ToDo("preload", f"Lifter preload set: {low} to {high} {BENCH_UNIT[unit]}.", "hydraulic lifters")
    lash = {side: report.cam.sides[side].train.lash_mm for side in Side if side in report.cam.sides}
    if any(lash.values()):
        words = ", ".join(f"{side} {format_bench(one, unit)}" for side, one in lash.items())
        yield ToDo(
            "lash", f"Running lash set, checked again hot as the cam’s maker says: {words} {BENCH_UNIT[unit]}.", "card"
        )
    for one in report.cam.sides.values():
        name = "ICL" if one.side is Side.INTAKE else "ECL"
        way = "ATDC" if one.side is Side.INTAKE else "BTDC"
        yield ToDo(f"cam-{one.side}", f"Cam at {name} {one.shown_deg:.1f}° {way}; timing bolts locked.", "as degreed")


def _always(report: Report) -> Iterator[ToDo]:
    signed = [check for check in report.checks if check.signed]
    if signed:
        names = ", ".join(check.label for check in signed)
        yield ToDo("signed", f"The customer knows what was signed off: {names}.", "signed off")
    unread = sorted({c.cylinder for kind in FACE_KINDS.values() for c in report.of_kind(kind) if not c.governing})
    if unread:
        words = "Not every valve was read: turned over twice by hand before the plugs go in."
        yield ToDo("unread", words, f"cylinder{'s' * (len(unread) > 1)} {', '.join(map(str, unread))}")
    domed = [volumes for volumes in report.parts[VolumePart.PISTON].values() if volumes.volume.value < 0]
    if domed:
        yield ToDo("plugs", "Spark plugs indexed: the gap and the strap clear of the dome.", "domed pistons")
    yield ToDo("ports", "Ports and their gaskets held against each other: no edge in the way.", "")
    tappets = "Flat tappets, if it has them: assembly lube, turned as little as possible, never on checking springs."
    yield ToDo("tappets", tappets, "")
    yield ToDo("order", "Torque in the maker’s order and stages, lubricant as they say.", "")
    yield ToDo("turn", "Two full turns by hand, plugs out; stop at the first hard resistance.", "")
