"""What builders ask beyond the readings: more room for rods and speed, two tools compared.

Common practice, no source; the makers' figures come first.
"""

from collections.abc import Iterator, Mapping

from mockup.checks.valve_limits import FACE_EXHAUST_LIMIT, FACE_INTAKE_LIMIT
from mockup.engine.running import Material
from mockup.fit.deck_figures import DeckFigure
from mockup.job import Job
from mockup.quantity.shown import format_bench, format_deck, mm_range
from mockup.quantity.value import BENCH_UNIT, MM_PER_THOU
from mockup.readings.deck import DeckReading
from mockup.report import Question

ALUMINIUM_RODS_MM = (30 * MM_PER_THOU, 50 * MM_PER_THOU)
"""What builders add to the minimums for aluminium rods, which grow and stretch."""
FAST_RPM = 7500.0
TWO_WAYS_MM = 2 * MM_PER_THOU
"""Two tools on one crown that differ by more are looked into."""


def usage_questions(job: Job, deck: Mapping[int, DeckFigure]) -> Iterator[Question]:
    """Yield what the engine's use and two tools on one crown ask for."""
    yield from _more_room(job)
    for figure in deck.values():
        yield from _two_tools(figure, job)


def _more_room(job: Job) -> Iterator[Question]:
    limits = [job.limits.minimum(name) for name in (FACE_INTAKE_LIMIT, FACE_EXHAUST_LIMIT)]
    # A minimum that was edited for this build is the builder's answer.
    if job.running is None or any(limit.edited or limit.low is None for limit in limits):
        return
    now = " and ".join(format_bench(limit.low or 0.0, job.unit) for limit in limits)
    asked = f"The limits ask for {now} {BENCH_UNIT[job.unit]}: enter the makers’ figures, or the reason to keep these."
    if job.running.rod is Material.WROUGHT:
        yield Question(f"Aluminium rods grow and stretch: builders add {mm_range(*ALUMINIUM_RODS_MM)}. {asked}")
    if job.running.rpm > FAST_RPM:
        yield Question(f"At {job.running.rpm:,.0f} rpm a valve may leave its lobe: builders ask for more room. {asked}")


def _two_tools(figure: DeckFigure, job: Job) -> Iterator[Question]:
    by_tool: dict[str, list[DeckReading]] = {}
    for reading in figure.readings:
        if not reading.spot.is_edge:
            by_tool.setdefault(reading.instrument, []).append(reading)
    means = {tool: sum(one.clearance_mm for one in found) / len(found) for tool, found in by_tool.items()}
    if len(means) < 2 or max(means.values()) - min(means.values()) <= TWO_WAYS_MM:
        return
    said = ", ".join(f"{job.instruments[tool].name} {format_deck(mm, job.unit)}" for tool, mm in means.items())
    yield Question(
        f"Cylinder {figure.readings[0].cylinder}: {said}. Two ways on one crown are compared, not averaged: strike out "
        "the one that is wrong."
    )
