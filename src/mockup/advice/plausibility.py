"""Likely slips at a bench: kept as entered, blocking nothing, asked about with the reason.

The bounds are common practice, no source, unless stated.
"""

import statistics
from collections.abc import Iterator, Mapping

from mockup.changes.cuts import DECK_CUT
from mockup.checks.valve_limits import FACE_EXHAUST_LIMIT, FACE_INTAKE_LIMIT
from mockup.engine.valves import Place, Side
from mockup.fit.deck_figures import DeckFigure
from mockup.job import Job
from mockup.quantity.shown import bench_text, format_bench, format_both
from mockup.quantity.typed_train import HAIR_MM
from mockup.quantity.value import BENCH_UNIT, MM_PER_THOU
from mockup.readings.clay import ClayReading, Gap
from mockup.readings.pushrods import PushrodReading
from mockup.readings.record import standing
from mockup.report import Question

NEAR_MM = 20 * MM_PER_THOU
"""Clay this thin may have been squeezed out by metal."""
FEWEST_SLICES = 4
APART_MM = 15 * MM_PER_THOU
"""A slice is an outlier further than this from the median, and than APART_TIMES the others' scatter."""
APART_TIMES = 5.0
MAD_TO_SIGMA = 1.4826
"""1 / Phi^-1(3/4): converts a median deviation into a standard one, exact for normal scatter."""
FAR_OUT_MM = 25.0
"""A checking pushrod screwed out further than this had another closed length, or its turns were miscounted."""


def slips_in(job: Job, deck: Mapping[int, DeckFigure]) -> Iterator[Question]:
    """Yield a question for everything that looks like a slip."""
    yield from _near_nothing(job)
    yield from _over_what_was_laid(job)
    yield from _standing_out(job)
    yield from _ratio_of_one(job)
    yield from _pushrods(job)
    yield from _few_decks(job, deck)
    yield from _turned_limits(job)


def _label(job: Job, place: Place) -> str:
    return place.label(job.engine.row(place.side).count)


def _near_nothing(job: Job) -> Iterator[Question]:
    for one in standing(job.of(ClayReading)):
        if one.gap is Gap.FACE and one.touched and 0 < one.thickness_mm <= NEAR_MM:
            shown = format_both(one.thickness_mm, job.unit)
            yield Question(
                f"{_label(job, one.place)}: clay of {shown} is almost nothing. Do they touch? Check before "
                "the crank is turned again.",
                one.key,
            )


def _over_what_was_laid(job: Job) -> Iterator[Question]:
    laid = {mockup.key: mockup.laid_mm for mockup in job.mockups}
    for one in standing(job.of(ClayReading)):
        most = laid[one.mockup]
        if most and one.thickness_mm > most + HAIR_MM:
            read, thick = format_both(one.thickness_mm, job.unit), bench_text(most, job.unit)
            yield Question(
                f"{_label(job, one.place)}: {read} of clay that was laid {thick} thick. Which one is right?",
                one.key,
            )


def _standing_out(job: Job) -> Iterator[Question]:
    """Yield a question where one slice of several at a valve is far from all others."""
    together: dict[tuple[str, Place, Gap], list[ClayReading]] = {}
    for one in standing(job.of(ClayReading)):
        if one.touched:
            together.setdefault((one.mockup, one.place, one.gap), []).append(one)
    for (_, place, _), slices in together.items():
        if len(slices) < FEWEST_SLICES:
            continue
        middle = statistics.median(one.thickness_mm for one in slices)
        scatter = MAD_TO_SIGMA * statistics.median(abs(one.thickness_mm - middle) for one in slices)
        worst = max(slices, key=lambda one: abs(one.thickness_mm - middle))
        if abs(worst.thickness_mm - middle) > max(APART_MM, APART_TIMES * scatter):
            others = ", ".join(format_bench(one.thickness_mm, job.unit) for one in slices if one is not worst)
            unit = BENCH_UNIT[job.unit]
            yield Question(
                f"{_label(job, place)}: {format_bench(worst.thickness_mm, job.unit)} among {others} {unit} is far off. "
                "Was it the same place, and read right?",
                worst.key,
            )


def _ratio_of_one(job: Job) -> Iterator[Question]:
    if job.engine.rocker_ratio is None and (job.cam_card or job.lobe_tables):
        yield Question(
            "The rocker ratio is not stated: what the cam lifts at the valve is not known, and its card estimates "
            "nothing. Enter it at the block; 1 where a follower acts straight on the valve."
        )
    pushed = job.pushrod_choice is not None or standing(job.of(PushrodReading))
    if pushed and job.engine.rocker_ratio == 1.0:
        yield Question("A rocker ratio of 1 on an engine with pushrods. Is it right? Lift and lash are counted by it.")


def _pushrods(job: Job) -> Iterator[Question]:
    for one in standing(job.of(PushrodReading)):
        out = one.length_mm - one.closed_mm
        if out > FAR_OUT_MM:
            yield Question(
                f"{_label(job, one.place)}: the checking pushrod is {format_both(out, job.unit)} longer than closed. "
                "Are the turns and its closed length right?",
                one.key,
            )


def _few_decks(job: Job, deck: Mapping[int, DeckFigure]) -> Iterator[Question]:
    for change in job.changes:
        if change.kind is not DECK_CUT or change.order is not None:
            continue
        cut = [cylinder for cylinder in job.engine.cylinder_numbers if change.touches(cylinder, job.engine)]
        read = [cylinder for cylinder in cut if cylinder in deck]
        if len(read) < len(cut):
            yield Question(
                f"A deck cut is decided from {len(read)} of the {len(cut)} crowns it affects. Read the others before "
                "cutting: metal cannot be put back."
            )


def _turned_limits(job: Job) -> Iterator[Question]:
    """Yield a question where the intake's limit is above the exhaust's, unlike most makers'."""
    names = {Side.INTAKE: FACE_INTAKE_LIMIT, Side.EXHAUST: FACE_EXHAUST_LIMIT}
    wanted = {side: job.limits.effective.get(name) for side, name in names.items()}
    intake, exhaust = wanted[Side.INTAKE], wanted[Side.EXHAUST]
    edited = any(name in job.limits.edits for name in names.values())
    if edited and intake is not None and exhaust is not None and intake > exhaust:
        more, less = (bench_text(one, job.unit) for one in (intake, exhaust))
        yield Question(
            f"The limits ask more of the intake, {more}, than of the exhaust, {less}; most makers ask the opposite. "
            "Were they entered the other way round?"
        )
