"""From a job to its report: the only way anything is computed in this program."""

from collections.abc import Iterable, Iterator
from dataclasses import replace

import mockup.checks  # noqa: F401, importing the package registers the kinds of check
from mockup.advice.next_steps import steps_of
from mockup.advice.questions import questions_of
from mockup.checks.calibration import with_calibration
from mockup.checks.check import Check, Kind
from mockup.checks.compression import Volumes, volumes_of
from mockup.checks.running import Budget, budget
from mockup.checks.sign_off import with_signatures
from mockup.context import EvaluationContext
from mockup.engine.valves import Side
from mockup.fit.cam_report import ArrivedLift, arrived_lifts
from mockup.fit.deck_plane import deck_planes
from mockup.job import Job
from mockup.quantity.value import MM_PER_INCH
from mockup.readings.cam_timing import LiftReading, newest_lifts
from mockup.readings.tdc import companion
from mockup.report import Question, Report, Summary, TdcReport, worst

NEEDLE_STEP_MM = 0.0005 * MM_PER_INCH
"""The finest step a common dial indicator shows."""


def evaluate(job: Job) -> Report:
    """Judge everything measured on ``job`` and return the report, with what is left to do."""
    context = EvaluationContext(job)
    checks = tuple(with_calibration(_checks(context), job))
    deck, parts = context.deck, context.parts
    questions = questions_of(job, checks, deck, parts, context.cam, context.sweeps)
    checks = with_signatures(_questioned(checks, questions), job.sign_offs)
    return Report(
        job=job,
        context=context,
        checks=checks,
        tdc=_tdc(context),
        deck=deck,
        planes=deck_planes(deck, job.engine, job.instruments),
        parts=parts,
        budgets=_budgets(context),
        engine=context.engine,
        crank=context.crank,
        cam=context.cam,
        sweeps=context.sweeps,
        arrived=_arrived(context),
        pushrods=context.pushrods,
        volumes=_volumes(context),
        summaries=tuple(_summaries(checks)),
        questions=questions,
        steps=steps_of(job, checks, deck, parts, context.cam),
    )


def _questioned(checks: Iterable[Check], questions: Iterable[Question]) -> tuple[Check, ...]:
    """Return the checks, each with the questions that contradict it."""
    against: dict[str, list[str]] = {}
    for question in questions:
        for label in question.against:
            against.setdefault(label, []).append(question.text)
    return tuple(
        replace(check, questioned=tuple(against[check.label])) if check.label in against else check for check in checks
    )


def _checks(context: EvaluationContext) -> Iterator[Check]:
    """Yield every required check, and those measured anyway, marked as not required."""
    for kind in Kind.all():
        asked = not kind.topics.isdisjoint(context.job.topics)
        for check in kind.make(context):
            if asked:
                yield check
            elif check.governing:
                yield replace(check, required=False, asked=False)


def _budgets(context: EvaluationContext) -> dict[int, Budget]:
    """Return the running budget of each cylinder whose deck is known.

    It is empty without stroke and rod length.
    """
    engine, running = context.job.engine, context.job.running
    if running is None or engine.stroke_mm is None or engine.rod_length_mm is None:
        return {}
    return {cylinder: budget(figure, context.crank, running) for cylinder, figure in context.deck.items()}


def _volumes(context: EvaluationContext) -> dict[int, Volumes]:
    found = ((cylinder, volumes_of(context, cylinder)) for cylinder in context.job.engine.cylinder_numbers)
    return {cylinder: volumes for cylinder, volumes in found if volumes}


def _arrived(context: EvaluationContext) -> tuple[ArrivedLift, ...]:
    job = context.job
    ratio = job.engine.rocker_ratio
    loaded = {mockup.key: mockup.is_loaded for mockup in job.mockups}
    lash = {(mockup.key, side): mockup.lash_at_valve_mm(ratio, side) for mockup in job.mockups for side in Side}
    return arrived_lifts(newest_lifts(job.of_this_cam(LiftReading)), context.cam.sides, loaded, lash)


def _tdc(context: EvaluationContext) -> TdcReport:
    order = context.job.engine.firing_order
    first = companion(order, order[0]) if order else None
    return TdcReport(context.wheel, context.crank.dwell_deg(NEEDLE_STEP_MM), first)


def _summaries(checks: tuple[Check, ...]) -> Iterator[Summary]:
    for kind in Kind.all():
        found = [check for check in checks if check.kind is kind]
        if found:
            measured = sum(check.figure is not None for check in found)
            wanted = sum(check.required and check.figure is None for check in found)
            read = [(check.as_mocked_up.value, at) for at, check in enumerate(found) if check.as_mocked_up]
            waiting = tuple(found[at] for _, at in sorted(read))
            yield Summary(kind, worst(found), measured, len(found), wanted, waiting)
