"""From a job to its report: the one way anything is computed here."""

from collections.abc import Iterable, Iterator
from dataclasses import replace

import mockup.checks  # noqa: F401, kinds of check declare themselves as they are read in
from mockup.checks.calibration import with_calibration
from mockup.checks.check import Check, Kind
from mockup.checks.compression import Volumes, volumes_of
from mockup.checks.running import Budget, budget
from mockup.checks.sign_off import with_signatures
from mockup.engine.valves import Side
from mockup.job import Job
from mockup.quantity.value import MM_PER_INCH
from mockup.questions import questions_of
from mockup.readings.basis import Basis
from mockup.readings.cam import ArrivedLift, arrived_lifts
from mockup.readings.cam_timing import LiftReading, newest_lifts
from mockup.readings.deck_plane import deck_planes
from mockup.readings.tdc import companion
from mockup.report import Question, Report, Summary, TdcReport, worst
from mockup.steps import steps_of

NEEDLE_STEP_MM = 0.0005 * MM_PER_INCH
"""The finest a usual indicator is read to."""


def evaluate(job: Job) -> Report:
    """Judge everything that was read of ``job`` and say what is left to do."""
    basis = Basis(job)
    checks = tuple(with_calibration(_checks(basis), job))
    deck, parts = basis.deck, basis.parts
    questions = questions_of(job, checks, deck, parts, basis.cam, basis.sweeps)
    checks = with_signatures(_questioned(checks, questions), job.sign_offs)
    return Report(
        job=job,
        basis=basis,
        checks=checks,
        tdc=_tdc(basis),
        deck=deck,
        planes=deck_planes(deck, job.engine, job.instruments),
        parts=parts,
        budgets=_budgets(basis),
        engine=basis.engine,
        crank=basis.crank,
        cam=basis.cam,
        sweeps=basis.sweeps,
        arrived=_arrived(basis),
        pushrods=basis.pushrods,
        volumes=_volumes(basis),
        summaries=tuple(_summaries(checks)),
        questions=questions,
        steps=steps_of(job, checks, deck, parts, basis.cam),
    )


def _questioned(checks: Iterable[Check], questions: Iterable[Question]) -> tuple[Check, ...]:
    """The checks, those that an open question contradicts with the words of it."""
    against: dict[str, list[str]] = {}
    for question in questions:
        for label in question.against:
            against.setdefault(label, []).append(question.text)
    return tuple(
        replace(check, questioned=tuple(against[check.label])) if check.label in against else check for check in checks
    )


def _checks(basis: Basis) -> Iterator[Check]:
    """Every check that is asked for; of the others those that were read all the same, which nobody has to read."""
    for kind in Kind:
        asked = not kind.topics.isdisjoint(basis.job.topics)
        for check in kind.make(basis):
            if asked:
                yield check
            elif check.governing:
                yield replace(check, required=False, asked=False)


def _budgets(basis: Basis) -> dict[int, Budget]:
    """The running budget of each cylinder whose deck is known; none without the stroke and rod it is made of."""
    engine, running = basis.job.engine, basis.job.running
    if running is None or engine.stroke_mm is None or engine.rod_length_mm is None:
        return {}
    return {cylinder: budget(figure, basis.crank, running) for cylinder, figure in basis.deck.items()}


def _volumes(basis: Basis) -> dict[int, Volumes]:
    found = ((cylinder, volumes_of(basis, cylinder)) for cylinder in basis.job.engine.cylinder_numbers)
    return {cylinder: volumes for cylinder, volumes in found if volumes}


def _arrived(basis: Basis) -> tuple[ArrivedLift, ...]:
    job = basis.job
    ratio = job.engine.rocker_ratio
    loaded = {mockup.key: mockup.is_loaded for mockup in job.mockups}
    lash = {(mockup.key, side): mockup.lash_at_valve_mm(ratio, side) for mockup in job.mockups for side in Side}
    return arrived_lifts(newest_lifts(job.of_this_cam(LiftReading)), basis.cam.sides, loaded, lash)


def _tdc(basis: Basis) -> TdcReport:
    order = basis.job.engine.firing_order
    first = companion(order, order[0]) if order else None
    return TdcReport(basis.wheel, basis.crank.dwell_deg(NEEDLE_STEP_MM), first)


def _summaries(checks: tuple[Check, ...]) -> Iterator[Summary]:
    for kind in Kind:
        found = [check for check in checks if check.kind is kind]
        if found:
            measured = sum(check.figure is not None for check in found)
            wanted = sum(check.required and check.figure is None for check in found)
            read = [(check.as_mocked_up.value, at) for at, check in enumerate(found) if check.as_mocked_up]
            waiting = tuple(found[at] for _, at in sorted(read))
            yield Summary(kind, worst(found), measured, len(found), wanted, waiting)
