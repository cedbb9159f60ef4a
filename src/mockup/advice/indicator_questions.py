"""What is surprising in indicator readings: valves that seem shut, outliers, scatter, drift."""

from collections.abc import Iterator, Sequence

from mockup.fit.swept_valve import SweepFigure
from mockup.job import Job
from mockup.quantity.shown import format_both
from mockup.quantity.typed_angle import format_crank_angle
from mockup.report import Question


def sweep_questions(job: Job, sweeps: Sequence[SweepFigure]) -> Iterator[Question]:
    """Yield everything worth asking about the sweeps."""
    for figure in sweeps:
        label = figure.place.label(job.engine.row(figure.place.side).count)
        key = figure.readings[-1].key
        if figure.shut:
            yield Question(
                f"{label}: the readings follow the piston alone. Was it firing TDC? Turn the crank one whole turn and "
                "read again: at overlap both valves move.",
                key,
            )
        for reading in figure.readings:
            if reading.surprising:
                shown = format_both(reading.clearance_mm, job.unit)
                yield Question(f"{label}: {shown} is a lot. Is it right, and was it overlap TDC?", reading.key)
        if figure.drop and figure.along and figure.drop.value < max(value.value for value in figure.along) * 0.5:
            yield Question(
                f"{label}: the drop is less than the readings about overlap. Were the TDCs mixed up? At overlap both "
                "valves move when the crank is turned a little; turn it one whole turn and read again.",
                key,
                (label,),
            )
        yield from _fit(figure, label)
    yield from _scatter(sweeps)


SCATTERED = 2.2
"""Readings that repeat this many times worse than their instrument's statement are asked about: our own bound."""


def _scatter(sweeps: Sequence[SweepFigure]) -> Iterator[Question]:
    """Yield one question for each instrument, since all readings of a form share its noise."""
    for name in sorted({figure.instrument.name for figure in sweeps}):
        found = [one.closest.scatter for one in sweeps if one.closest and one.instrument.name == name]
        if found and max(found) > SCATTERED:
            yield Question(
                f"Readings with the {name} scatter {max(found):.1f} times more than its stated repeatability: U "
                "counts it. Is the valve pushed home each time?"
            )


def _fit(figure: SweepFigure, label: str) -> Iterator[Question]:
    closest = figure.closest
    if closest is None:
        return
    if closest.cam_off:
        off, way = abs(closest.cam_off.value), "behind" if closest.cam_off.value > 0 else "ahead of"
        yield Question(
            f"{label}: these readings show the cam about {off:.0f}° {way} from where it should be. Is it this card’s "
            "cam, and on its marks? Degree it.",
            figure.readings[-1].key,
            (label,),
        )
    if closest.doubtful or closest.suspect is not None:
        yield _which_is_wrong(figure, label)
        return
    for reading, out in zip(figure.readings, closest.outlier, strict=False):
        if out:
            at = format_crank_angle(reading.crank_deg)
            yield Question(f"{label}: the reading at {at} is far from the others. Read it again.", reading.key)
    values = {round(value.value, 4) for value in figure.along}
    if len(figure.along) > 2 and len(values) == 1:
        yield Question(f"{label}: every reading is the same. Does the dial move?")


def _which_is_wrong(figure: SweepFigure, label: str) -> Question:
    """Return a question about readings that no curve explains, with the wrong one if known."""
    closest = figure.closest
    if closest is None or closest.suspect is None:
        return Question(
            f"{label}: no curve explains these readings, so they give no figure. Which one is wrong?",
            figure.readings[-1].key,
            (label,),
        )
    reading = figure.readings[closest.suspect]
    at = format_crank_angle(reading.crank_deg)
    return Question(
        f"{label}: without the reading at {at} the others fit. Did the needle go backwards there, or past a turn? "
        "Read it again, and strike out the wrong one.",
        reading.key,
        (label,),
    )
