"""What is surprising in indicator readings: valves that seem shut, readings that stand out, scatter, drift."""

from collections.abc import Iterator, Sequence

from mockup.job import Job
from mockup.quantity.shown import format_both
from mockup.quantity.typed_angle import format_crank_angle
from mockup.readings.sweep import SweepFigure
from mockup.report import Question


def sweep_questions(job: Job, sweeps: Sequence[SweepFigure]) -> Iterator[Question]:
    """Everything worth asking about the sweeps."""
    for figure in sweeps:
        label = figure.place.label(job.engine.row(figure.place.side).count)
        key = figure.readings[-1].key
        if figure.shut:
            yield Question(f"{label}: the readings follow the piston alone. Was it firing TDC? Turn a full turn.", key)
        for reading in figure.readings:
            if reading.surprising:
                shown = format_both(reading.clearance_mm, job.unit)
                yield Question(f"{label}: {shown} is a great deal. Is it right, and was it overlap TDC?", reading.key)
        if figure.drop and figure.along and figure.drop.value < max(value.value for value in figure.along) * 0.5:
            yield Question(f"{label}: the drop is less than what was read about overlap. Which TDC was which?", key)
        yield from _fit(figure, label)


def _fit(figure: SweepFigure, label: str) -> Iterator[Question]:
    closest = figure.closest
    if closest is None:
        return
    for reading, out in zip(figure.readings, closest.outlier, strict=False):
        if out:
            at = format_crank_angle(reading.crank_deg)
            yield Question(f"{label}: the reading at {at} stands out from the others. Read it again.", reading.key)
    if closest.scatter > 1:
        yield Question(f"{label}: the readings scatter {closest.scatter:.1f} times more than the instrument should.")
    values = {round(value.value, 4) for value in figure.along}
    if len(figure.along) > 2 and len(values) == 1:
        yield Question(f"{label}: every reading is the same. Does the dial move?")
