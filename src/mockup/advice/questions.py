"""What is surprising in a job: kept as entered, but asked about."""

from collections.abc import Iterator, Mapping, Sequence

from mockup.advice.contradictions import contradictions
from mockup.advice.indicator_questions import sweep_questions
from mockup.advice.outlying_cylinders import cylinders_apart
from mockup.advice.plausibility import slips_in
from mockup.advice.usage import usage_questions
from mockup.checks.check import Check
from mockup.checks.quench import QUENCH_CHECK
from mockup.checks.valves import RADIAL_CHECK
from mockup.engine.cam import END_LIFT_MM
from mockup.engine.mockup import PistonsIn
from mockup.fit.cam_report import CamReport
from mockup.fit.deck_figures import DeckFigure, edge_at_rest
from mockup.fit.swept_valve import SweepFigure
from mockup.fit.volume_figures import VolumeFigure
from mockup.job import Job
from mockup.limits.judge import Bound
from mockup.motion.lobes import TableLobe
from mockup.quantity.shown import format_both, format_deck
from mockup.readings.clay import ClayReading
from mockup.readings.deck import OPPOSITE, DeckReading
from mockup.readings.record import standing
from mockup.readings.tdc import TdcReading
from mockup.readings.volumes import VolumePart
from mockup.report import Question

UNUSUAL_RATIO = (5.0, 16.0)
THICK_GASKET_MM = 3.0


CONTRADICTS_MM = 0.1
"""Edges whose middle is this far from the crown's centre, more than their U: common practice, no source."""
MUCH_ROCK_MM = 0.2
SPREAD_CC = 0.8
"""Fills of one volume further apart than good burette work: common practice, no source."""

Decks = Mapping[int, DeckFigure]
Parts = Mapping[VolumePart, Mapping[int, VolumeFigure]]


def questions_of(
    job: Job,
    checks: Sequence[Check],
    deck: Decks,
    parts: Parts,
    cam: CamReport,
    sweeps: Sequence[SweepFigure],
) -> tuple[Question, ...]:
    """Return everything worth asking about, readings first."""
    return (
        *_tdc(job),
        *_readings(job),
        *_crowns(job, deck),
        *cylinders_apart(job, deck, parts),
        *_fills(parts),
        *_cam(job, cam),
        *sweep_questions(job, sweeps),
        *_contradictions(checks),
        *contradictions(job, checks, deck),
        *_quench(job, checks),
        *_ratios(checks),
        *_sheet(job, checks),
        *_pistons(job),
        *slips_in(job, deck),
        *usage_questions(job, deck),
    )


def _crowns(job: Job, deck: Decks) -> Iterator[Question]:
    for cylinder, figure in deck.items():
        edges = _edges_apart(figure, job)
        if edges is not None:
            yield Question(
                f"Cylinder {cylinder}: its edges are {format_both(abs(edges), job.unit)} "
                f"{'above' if edges < 0 else 'below'} its middle. Is the crown flat there, and was the piston held?"
            )
        if figure.rock and figure.rock.value > MUCH_ROCK_MM:
            yield Question(
                f"Cylinder {cylinder} rocks {format_both(figure.rock.value, job.unit)} each way. Is it right?"
            )
        if not figure.crank_held:
            yield Question(f"Cylinder {cylinder}: the piston was pushed without watching the crank. Did it move?")


LEAST_SPAN_DEG = 180.0
HIGH_VALVE_LIFT_SHARE = 0.25
"""A valve that lifts more than this share of the bore is asked about: common practice, no source."""


def _cam(job: Job, cam: CamReport) -> Iterator[Question]:
    for one in cam.contradictions:
        yield Question(
            f"The cam card contradicts itself: {one.what} {abs(one.given_deg):.0f}° as given, "
            f"{abs(one.computed_deg):.0f}° from its durations and centreline."
        )
    for table in job.lobe_tables:
        above = [a for a, lift in zip(table.angles_deg, table.lifts_mm, strict=True) if lift > END_LIFT_MM]
        if above[-1] - above[0] < LEAST_SPAN_DEG:
            yield Question(
                f"The {table.side} lobe is open for {above[-1] - above[0]:.0f}° only. Are those cam degrees?"
            )
    for side, found in cam.sides.items():
        lobe = found.train.lobe
        if isinstance(lobe, TableLobe) and lobe.coarse:
            yield Question(f"The {side} table steps by more than 10°: the curve between is uncertain by a few thou.")
        if found.train.lift_max_mm > HIGH_VALVE_LIFT_SHARE * job.engine.sizes.bore_mm:
            shown = format_both(found.train.lift_max_mm, job.unit)
            yield Question(f"The {side} valve would lift {shown}. Are lift, ratio and where it was measured right?")


def _edges_apart(figure: DeckFigure, job: Job) -> float | None:
    """Return how far the middle of opposite edges is below the crown's centre [mm], if it is."""
    if all(reading.spot.is_edge for reading in figure.readings):
        return None
    for one, two in OPPOSITE:
        pair = [edge_at_rest(figure.readings, spot, job.instruments) for spot in (one, two)]
        if pair[0] and pair[1]:
            apart = (pair[0].delta + pair[1].delta).scaled(0.5) + figure.as_read.scaled(-1)
            if abs(apart.value) > max(CONTRADICTS_MM, apart.expanded):
                return apart.value
    return None


def _fills(parts: Parts) -> Iterator[Question]:
    seen = set()
    for part, figures in parts.items():
        for figure in figures.values():
            key = figure.readings[-1].key
            if figure.spread_cc > SPREAD_CC and key not in seen:
                seen.add(key)
                yield Question(f"Fills of one {part} differ by {figure.spread_cc:.1f} cc. A bubble, or a leak?", key)


def _readings(job: Job) -> Iterator[Question]:
    for reading in standing(job.of(DeckReading)):
        if reading.surprising:
            shown = (
                f"{format_deck(reading.clearance_mm, job.unit)} ({format_both(abs(reading.clearance_mm), job.unit)})"
            )
            yield Question(f"Cylinder {reading.cylinder}: {shown} is far from the deck. Is it right?", reading.key)
    for clay in standing(job.of(ClayReading)):
        if clay.surprising:
            shown = format_both(clay.thickness_mm, job.unit)
            yield Question(f"Clay of {shown} is a lot. Is it right, and was it overlap TDC?", clay.key)
    if job.final_gasket and job.final_gasket.compressed_mm > THICK_GASKET_MM:
        yield Question(f"A final gasket of {format_both(job.final_gasket.compressed_mm, job.unit)}. Is it right?")
    sealed = job.final_gasket.bore_mm if job.final_gasket else None
    if sealed is not None and job.engine.bore_mm is not None and sealed < job.engine.bore_mm:
        yield Question("The final gasket’s bore is smaller than the cylinder’s. Is it right?")


FURTHEST_APART_DEG = 3.0


def _tdc(job: Job) -> Iterator[Question]:
    found = standing(job.of(TdcReading))
    errors = [(reading.after_deg - reading.before_deg) / 2 for reading in found]
    if errors and max(errors) - min(errors) > FURTHEST_APART_DEG:
        yield Question("The TDC readings disagree by more than 3°. Did the stop or the pointer move?", found[-1].key)


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


def _quench(job: Job, checks: Sequence[Check]) -> Iterator[Question]:
    """Ask when pad clay and deck disagree about the quench."""
    for check in checks:
        for other in check.others if check.kind is QUENCH_CHECK else ():
            one, two = check.figure, other.figure
            if one and two and other.bound is Bound.EXACT and abs(one.value - two.value) > one.expanded + two.expanded:
                shown = f"{format_both(two.value, job.unit)} against {format_both(one.value, job.unit)}"
                yield Question(
                    f"{check.label}: {other.method} says {shown}. It is the same gap: which of the two is wrong?"
                )


def _ratios(checks: Sequence[Check]) -> Iterator[Question]:
    low, high = UNUSUAL_RATIO
    for check in checks:
        if not check.kind.is_length and check.figure and not low <= check.figure.value <= high:
            yield Question(f"{check.label}: {check.figure.value:.1f} to 1 is unusual. Are the volumes right?")


def _sheet(job: Job, checks: Sequence[Check]) -> Iterator[Question]:
    if job.limits.question:
        yield Question(job.limits.question)
    if any(check.kind is RADIAL_CHECK and not check.limit.is_set for check in checks):
        yield Question("These limits have no minimum for the edge. Enter what the makers ask: see the verdict.")


def _pistons(job: Job) -> Iterator[Question]:
    """Yield a question if the pistons were the other way round than they will run."""
    for mockup in job.mockups:
        stood = mockup.pistons is PistonsIn.REVERSED
        if mockup.pistons is not PistonsIn.UNKNOWN and stood is not job.engine.pistons_reversed:
            way = "reversed" if stood else "the right way round, though the engine will run them reversed"
            yield Question(
                f"In mock-up {mockup.key} the pistons were in {way}. Will it run so? Enter it on the block page. Or "
                "was it a mistake? Then the readings of that mock-up prove nothing."
            )
