"""From a job to its report: the one way anything is computed here."""

from collections.abc import Iterator, Mapping
from dataclasses import replace

from mockup.checks.check import Check, Finding, Kind
from mockup.checks.clearance import clay_finding
from mockup.checks.compression import Volumes, ratio_finding
from mockup.checks.margins import Coverage, LimitName
from mockup.checks.quench import quench_finding
from mockup.checks.weigh import weigh
from mockup.engine.valves import Side
from mockup.job import Job
from mockup.questions import questions_of
from mockup.readings.clay import ClayReading, Gap, Place, clay_sets
from mockup.readings.deck import DeckFigure, deck_figures
from mockup.readings.volumes import Part, volume_figures
from mockup.report import Report, Summary, worst
from mockup.steps import steps_of

_FACE_KINDS = {Side.INTAKE: Kind.FACE_INTAKE, Side.EXHAUST: Kind.FACE_EXHAUST}
_FACE_LIMITS = {Side.INTAKE: LimitName.FACE_INTAKE, Side.EXHAUST: LimitName.FACE_EXHAUST}

ClayByPlace = Mapping[tuple[Place, Gap], list[tuple[ClayReading, ...]]]


def evaluate(job: Job) -> Report:
    """Judge everything that was read of ``job`` and say what is left to do."""
    deck = deck_figures(job.deck, job.instruments)
    clay = _clay_by_place(job)
    ratio_checks, volumes = _ratio_checks(job, deck)
    checks = (*_valve_checks(job, clay), *_quench_checks(job, deck), *ratio_checks)
    summaries = tuple(_summaries(checks))
    return Report(
        job=job,
        checks=checks,
        deck=deck,
        volumes=volumes,
        summaries=summaries,
        questions=questions_of(job, checks),
        steps=steps_of(job, checks, deck),
    )


def _clay_by_place(job: Job) -> ClayByPlace:
    found: dict[tuple[Place, Gap], list[tuple[ClayReading, ...]]] = {}
    for (place, gap, _), readings in clay_sets(job.clay).items():
        found.setdefault((place, gap), []).append(readings)
    return found


def _valve_checks(job: Job, clay: ClayByPlace) -> Iterator[Check]:
    for gap in Gap:
        for side in Side:
            yield from _side_checks(job, side, gap, clay)


def _side_checks(job: Job, side: Side, gap: Gap, clay: ClayByPlace) -> Iterator[Check]:
    """The checks of one gap at every valve of one side.

    Unmeasured valves are required until the sheet's coverage is reached; measured ones always are. A check
    without a minimum is required for the faces (somebody must set one) and not for the edge, which is left
    out altogether where nobody read it.
    """
    numbers = range(1, job.engine.row(side).count + 1)
    places = [Place(cylinder, side, number) for cylinder in job.engine.cylinder_numbers for number in numbers]
    checks = [_valve_check(job, place, gap, clay) for place in places]
    optional = gap is Gap.RADIAL and not checks[0].limit.is_set
    if optional and not any(check.governing for check in checks):
        return
    covered = _covered(job, checks)
    for check in checks:
        skipped = covered and check.governing is None
        yield replace(check, required=False) if optional or skipped else check


def _valve_check(job: Job, place: Place, gap: Gap, clay: ClayByPlace) -> Check:
    radial = gap is Gap.RADIAL
    limit = job.sheet.minimum(LimitName.RADIAL if radial else _FACE_LIMITS[place.side])
    findings = [
        clay_finding(readings, job.mockup(readings[0].mockup), job.engine, job.final_gasket, job.sheet, job.instruments)
        for readings in clay.get((place, gap), [])
    ]
    governing, others = weigh(findings, job.sheet, limit) if findings else (None, ())
    return Check(
        kind=Kind.RADIAL if radial else _FACE_KINDS[place.side],
        cylinder=place.cylinder,
        number=place.number,
        label=place.label(job.engine.row(place.side).count) + (" edge" if radial else ""),
        limit=limit,
        governing=governing,
        others=others,
        missing="" if governing else "not clayed",
    )


def _covered(job: Job, checks: list[Check]) -> bool:
    """Whether enough cylinders were measured: every one, or two and one in each bank."""
    missing = {check.cylinder for check in checks if check.figure is None}
    measured = set(job.engine.cylinder_numbers) - missing
    if job.sheet.coverage is Coverage.EVERY:
        return not missing
    enough = len(measured) >= min(2, job.engine.cylinders)
    return enough and all(measured & set(bank) for bank in job.engine.banks)


def _quench_checks(job: Job, deck: Mapping[int, DeckFigure]) -> Iterator[Check]:
    limit = job.sheet.window(LimitName.QUENCH_LOW, LimitName.QUENCH_HIGH)
    final = job.final_gasket
    for cylinder in job.engine.cylinder_numbers:
        known = final is not None and cylinder in deck
        yield Check(
            kind=Kind.QUENCH,
            cylinder=cylinder,
            label=f"Quench {cylinder}",
            limit=limit,
            governing=quench_finding(deck[cylinder], final) if known and final else None,
            required=limit.is_set,
            missing="" if known else ("no final gasket" if cylinder in deck else "deck not read"),
        )


def _ratio_checks(job: Job, deck: Mapping[int, DeckFigure]) -> tuple[list[Check], dict[int, Volumes]]:
    limit = job.sheet.window(LimitName.RATIO_LOW, LimitName.RATIO_HIGH)
    chambers = volume_figures(job.volumes, Part.CHAMBER, job.engine.cylinder_numbers)
    pistons = volume_figures(job.volumes, Part.PISTON, job.engine.cylinder_numbers)
    checks, volumes = [], {}
    for cylinder in job.engine.cylinder_numbers:
        inputs = {"deck not read": deck, "no chamber volume": chambers, "no piston volume": pistons}
        missing = [reason for reason, known in inputs.items() if cylinder not in known]
        finding: Finding | None = None
        if not missing and job.final_gasket:
            finding, volumes[cylinder] = ratio_finding(
                job.engine, deck[cylinder], job.final_gasket, chambers[cylinder], pistons[cylinder]
            )
        checks.append(
            Check(
                kind=Kind.RATIO,
                cylinder=cylinder,
                label=f"Ratio {cylinder}",
                limit=limit,
                governing=finding,
                required=limit.is_set,
                missing="" if finding else ", ".join(missing or ["no final gasket"]),
            )
        )
    return checks, volumes


def _summaries(checks: tuple[Check, ...]) -> Iterator[Summary]:
    for kind in Kind:
        found = [check for check in checks if check.kind is kind]
        if found:
            measured = sum(check.figure is not None for check in found)
            wanted = sum(check.required and check.figure is None for check in found)
            yield Summary(kind, worst(found), measured, len(found), wanted)
