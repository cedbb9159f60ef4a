"""From a job to its report: the one way anything is computed here."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace

from mockup.checks.check import FACE_KINDS, Check, Finding, Kind
from mockup.checks.clearance import AsItWillRun, clay_finding
from mockup.checks.compression import Volumes, ratio_finding
from mockup.checks.head_clay import head_checks
from mockup.checks.inferred import with_inferred
from mockup.checks.pushrods import pushrod_finding
from mockup.checks.quench import edge_finding, quench_finding
from mockup.checks.running import budget
from mockup.checks.sign_off import with_signatures
from mockup.checks.sweeps import sweep_finding
from mockup.checks.weigh import weigh
from mockup.engine.block import Engine, valve_places
from mockup.engine.changes import as_changed
from mockup.engine.mockup import Lifters, Springs
from mockup.engine.pushrods import Lifter
from mockup.engine.valves import Place, Relief, Side
from mockup.job import Job
from mockup.limits.judge import Limit
from mockup.limits.margins import Coverage, LimitName
from mockup.motion.slider_crank import SliderCrank, slider_crank
from mockup.motion.valve_lift import ValveTrain
from mockup.quantity.value import MM_PER_INCH
from mockup.questions import questions_of
from mockup.readings.approach import state_in, train_in, train_when
from mockup.readings.cam import ArrivedLift, CamReport, arrived_lifts, cam_report
from mockup.readings.cam_timing import DegreeReading, LiftReading, centrelines, newest_lifts
from mockup.readings.clay import ClayReading, Gap, HeadReading, clay_sets, head_sets
from mockup.readings.deck import DeckConditions, DeckFigure, DeckReading, deck_figures
from mockup.readings.deck_plane import deck_planes
from mockup.readings.pushrods import PushrodConditions, PushrodFigure, PushrodReading, pushrod_figures
from mockup.readings.sweep import SweepConditions, SweepFigure, SweepReading, sweep_figures
from mockup.readings.tdc import TdcFigure, TdcReading, companion, tdc_figure
from mockup.readings.volumes import Part, VolumeFigure, VolumeReading, volume_figures
from mockup.report import Report, Summary, TdcReport, worst
from mockup.steps import steps_of

_FACE_LIMITS = {Side.INTAKE: LimitName.FACE_INTAKE, Side.EXHAUST: LimitName.FACE_EXHAUST}

NEEDLE_STEP_MM = 0.0005 * MM_PER_INCH
"""The finest a usual indicator is read to."""

Found = Mapping[tuple[Place, Gap], Sequence[Finding]]
Parts = Mapping[Part, Mapping[int, VolumeFigure]]


def evaluate(job: Job) -> Report:
    """Judge everything that was read of ``job`` and say what is left to do."""
    crank = slider_crank(job.engine)
    wheel = tdc_figure(job.of(TdcReading), crank, job.instruments)
    cam = _cam(job, wheel)
    engine = as_changed(job.engine, job.changes)
    deck = deck_figures(job.of(DeckReading), _deck_conditions(job))
    run = _as_it_will_run(job, engine, crank, cam)
    sweeps = tuple(sweep_figures(job.of(SweepReading), _sweep_conditions(job, engine, crank, cam, wheel)))
    parts = {part: volume_figures(job.of(VolumeReading), part, engine, job.changes) for part in Part}
    pushrods = pushrod_figures(job.of(PushrodReading), _pushrod_conditions(job))
    ratio_checks, volumes = _ratio_checks(job, deck, parts)
    found = (
        *_valve_checks(job, run, sweeps, deck),
        *head_checks(head_sets(job.of(HeadReading), job.engine, job.changes), job.mockup, run),
        *_quench_checks(job, deck),
        *ratio_checks,
        *_pushrod_checks(job, engine, pushrods),
    )
    checks = with_signatures(found, job.sign_offs)
    return Report(
        job=job,
        checks=checks,
        tdc=_tdc(job, crank, wheel),
        deck=deck,
        planes=deck_planes(deck, job.engine, job.instruments),
        parts=parts,
        budgets={c: budget(figure, crank, job.running) for c, figure in deck.items()} if job.running else {},
        engine=engine,
        crank=crank,
        cam=cam,
        sweeps=sweeps,
        arrived=_arrived(job, cam),
        pushrods=pushrods,
        volumes=volumes,
        summaries=tuple(_summaries(checks)),
        questions=questions_of(job, checks, deck, parts, cam, sweeps),
        steps=steps_of(job, checks, deck, parts, cam),
    )


def _cam(job: Job, wheel: TdcFigure | None) -> CamReport:
    degreed = centrelines(job.of(DegreeReading), wheel.error_deg if wheel else None, job.engine, job.changes)
    tables = {table.side: table for table in job.lobe_tables}
    return cam_report(job.engine, job.cam_card, tables, degreed, job.cam_steps_deg, job.changes)


def _arrived(job: Job, cam: CamReport) -> tuple[ArrivedLift, ...]:
    ratio = job.engine.rocker_ratio
    loaded = {mockup.key: mockup.springs is Springs.RUNNING for mockup in job.mockups}
    lash = {(mockup.key, side): mockup.lash_at_valve_mm(ratio, side) for mockup in job.mockups for side in Side}
    return arrived_lifts(newest_lifts(job.of(LiftReading)), cam.sides, loaded, lash)


def _sweep_conditions(
    job: Job, engine: Engine, crank: SliderCrank, cam: CamReport, wheel: TdcFigure | None
) -> SweepConditions:
    # The train as it stood in the mock-up, its lash and other rockers included. One that bends, or bleeds down, does
    # not lift by its lobe: then no lobe is better.
    def train_of(side: Side, after: int, letter: str) -> ValveTrain | None:
        one, mockup = cam.sides.get(side), job.mockup(letter)
        if one is None or mockup.springs is Springs.RUNNING or mockup.lifters is Lifters.UNBLOCKED:
            return None
        train = train_when(one, engine, job.changes, after)
        return train_in(train, state_in(mockup, train.ratio, side))

    return SweepConditions(
        engine=engine,
        crank=crank,
        train_of=train_of,
        degreed=frozenset(side for side, one in cam.sides.items() if one.degreed),
        instruments=job.instruments,
        wheel_error_deg=wheel.error_deg if wheel else None,
        changes=job.changes,
    )


def _deck_conditions(job: Job) -> DeckConditions:
    return DeckConditions(
        engine=job.engine, instruments=job.instruments, changes=job.changes, final_shims=job.final_shims
    )


def _pushrod_conditions(job: Job) -> PushrodConditions:
    return PushrodConditions(
        engine=job.engine,
        final=job.final_gasket,
        changes=job.changes,
        mockups={mockup.key: mockup for mockup in job.mockups},
        lean_deg=job.pushrod_choice.lean_deg if job.pushrod_choice else 0.0,
    )


def _as_it_will_run(job: Job, engine: Engine, crank: SliderCrank, cam: CamReport) -> AsItWillRun:
    return AsItWillRun(
        engine=engine,
        final=job.final_gasket,
        shims=job.final_shims,
        changes=job.changes,
        sheet=job.sheet,
        cams=cam.sides,
        crank=crank,
        instruments=job.instruments,
    )


def _tdc(job: Job, crank: SliderCrank, wheel: TdcFigure | None) -> TdcReport:
    order = job.engine.firing_order
    return TdcReport(
        wheel,
        crank.dwell_deg(NEEDLE_STEP_MM),
        companion(order, order[0]) if order else None,
    )


def _valve_checks(
    job: Job, run: AsItWillRun, sweeps: Sequence[SweepFigure], deck: Mapping[int, DeckFigure]
) -> Iterator[Check]:
    found: dict[tuple[Place, Gap], list[Finding]] = {}
    for (place, gap, _), readings in clay_sets(job.of(ClayReading), job.engine, job.changes).items():
        found.setdefault((place, gap), []).append(clay_finding(readings, job.mockup(readings[0].mockup), run))
    for figure in sweeps:
        found.setdefault((figure.place, Gap.FACE), []).append(sweep_finding(figure, job.mockup(figure.mockup), run))
    for gap in Gap:
        for side in Side:
            checks = list(_side_checks(job, side, gap, found))
            yield from with_inferred(checks, job.engine.row(side), deck) if gap is Gap.FACE else checks


def _side_checks(job: Job, side: Side, gap: Gap, found: Found) -> Iterator[Check]:
    """The checks of one gap at every valve of one side.

    Unmeasured valves are required until the sheet's coverage is reached; measured ones always are. A check
    without a minimum is required for the faces (somebody must set one) and not for the edge, which is left
    out altogether where nobody read it.
    """
    every = (place for cylinder in job.engine.cylinder_numbers for place in valve_places(job.engine, cylinder))
    places = [place for place in every if place.side is side]
    limit = job.sheet.minimum(LimitName.RADIAL if gap is Gap.RADIAL else _FACE_LIMITS[side])
    checks = [_valve_check(job, place, limit, gap, found.get((place, gap), [])) for place in places]
    # A flat crown has no relief whose edge a valve could meet.
    flat = job.engine.row(side).relief is Relief.FLAT
    optional = gap is Gap.RADIAL and (flat or not checks[0].limit.is_set)
    if optional and not any(check.governing for check in checks):
        return
    covered = _covered(job, checks)
    for check in checks:
        skipped = covered and check.governing is None
        yield replace(check, required=False) if optional or skipped else check


def _valve_check(job: Job, place: Place, limit: Limit, gap: Gap, findings: Sequence[Finding]) -> Check:
    radial = gap is Gap.RADIAL
    # What one method read of the engine as it is stands before what another read before it was changed.
    findings = [finding for finding in findings if finding.figure and not finding.read_again] or findings
    governing, others = weigh(findings, job.sheet, limit) if findings else (None, ())
    return Check(
        kind=Kind.RADIAL if radial else FACE_KINDS[place.side],
        cylinder=place.cylinder,
        side=place.side,
        number=place.number,
        label=place.label(job.engine.row(place.side).count) + (" edge" if radial else ""),
        limit=limit,
        governing=governing,
        others=others,
        missing="" if governing else "not read",
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
    window = job.sheet.window(LimitName.QUENCH_LOW, LimitName.QUENCH_HIGH)
    final = job.final_gasket
    for cylinder in job.engine.cylinder_numbers:
        known = final is not None and cylinder in deck
        yield Check(
            kind=Kind.QUENCH,
            cylinder=cylinder,
            label=f"Quench {cylinder}",
            limit=window,
            governing=quench_finding(deck[cylinder], final) if known and final else None,
            required=window.is_set,
            missing="" if known else ("no final gasket" if cylinder in deck else "deck not read"),
        )
    # A rocked edge is nearer than the middle by its nature; only coming too near is held against it.
    least = job.sheet.minimum(LimitName.QUENCH_LOW)
    for cylinder, figure in deck.items():
        edge = edge_finding(figure, final) if final else None
        if edge:
            yield Check(
                kind=Kind.QUENCH_EDGE,
                cylinder=cylinder,
                label=f"Quench {cylinder} edge",
                limit=least,
                governing=edge,
                required=False,
            )


def _ratio_checks(job: Job, deck: Mapping[int, DeckFigure], parts: Parts) -> tuple[list[Check], dict[int, Volumes]]:
    limit = job.sheet.window(LimitName.RATIO_LOW, LimitName.RATIO_HIGH)
    chambers, pistons = parts[Part.CHAMBER], parts[Part.PISTON]
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


def _pushrod_checks(job: Job, engine: Engine, pushrods: Mapping[Place, PushrodFigure]) -> Iterator[Check]:
    choice = job.pushrod_choice
    if choice is None or choice.chosen_mm is None:
        return
    hydraulic = choice.lifter is Lifter.HYDRAULIC
    limit = Limit(choice.low_mm, choice.high_mm, "the window the pushrods are chosen by")
    for place, figure in pushrods.items():
        yield Check(
            kind=Kind.PUSHROD,
            cylinder=place.cylinder,
            side=place.side,
            number=place.number,
            label=f"{place.label(job.engine.row(place.side).count)} {'preload' if hydraulic else 'lash'}",
            limit=limit,
            governing=pushrod_finding(figure, choice, choice.chosen_mm, engine.rocker_ratio),
        )


def _summaries(checks: tuple[Check, ...]) -> Iterator[Summary]:
    for kind in Kind:
        found = [check for check in checks if check.kind is kind]
        if found:
            measured = sum(check.figure is not None for check in found)
            wanted = sum(check.required and check.figure is None for check in found)
            yield Summary(kind, worst(found), measured, len(found), wanted)
