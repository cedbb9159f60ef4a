"""What is surprising in a job: kept as it was entered, but asked about."""

from collections.abc import Iterator, Sequence

from mockup.checks.check import Check
from mockup.checks.judge import Bound
from mockup.job import Job
from mockup.quantity.shown import format_both, format_deck
from mockup.readings.record import standing
from mockup.report import Question

UNUSUAL_RATIO = (5.0, 16.0)
THICK_GASKET_MM = 3.0


def questions_of(job: Job, checks: Sequence[Check]) -> tuple[Question, ...]:
    """Everything worth asking about, readings first."""
    return (*_readings(job), *_contradictions(checks), *_ratios(checks), *_sheet(job))


def _readings(job: Job) -> Iterator[Question]:
    for reading in standing(job.deck):
        if reading.surprising:
            shown = (
                f"{format_deck(reading.clearance_mm, job.unit)} ({format_both(abs(reading.clearance_mm), job.unit)})"
            )
            yield Question(f"Cylinder {reading.cylinder}: {shown} is far from the deck. Is it right?", reading.key)
    for clay in standing(job.clay):
        if clay.surprising:
            shown = format_both(clay.thickness_mm, job.unit)
            yield Question(f"Clay of {shown} is a great deal. Is it right, and was it overlap TDC?", clay.key)
    if job.final_gasket and job.final_gasket.compressed_mm > THICK_GASKET_MM:
        yield Question(f"A final gasket of {format_both(job.final_gasket.compressed_mm, job.unit)}. Is it right?")
    if job.final_gasket and job.final_gasket.bore_mm < job.engine.bore_mm:
        yield Question("The final gasket’s bore is smaller than the cylinder’s. Is it right?")


def _contradictions(checks: Sequence[Check]) -> Iterator[Question]:
    for check in checks:
        governs = check.governing
        if governs is None or governs.figure is None or governs.bound is not Bound.EXACT:
            continue
        for other in check.others:
            if other.figure and other.bound is Bound.AT_MOST and other.figure.value < governs.figure.value:
                yield Question(
                    f"{check.label}: {other.method} reads smaller though it can only read large. Measure again."
                )


def _ratios(checks: Sequence[Check]) -> Iterator[Question]:
    low, high = UNUSUAL_RATIO
    for check in checks:
        if not check.kind.is_length and check.figure and not low <= check.figure.value <= high:
            yield Question(f"{check.label}: {check.figure.value:.1f} to 1 is unusual. Are the volumes right?")


def _sheet(job: Job) -> Iterator[Question]:
    if job.sheet.question:
        yield Question(job.sheet.question)
