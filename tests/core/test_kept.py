"""Whole reports and plans, word by word and figure by figure, as they were when somebody last read them through.

Nothing here knows what is right: the other tests do. These notice that something has become another thing. After a
change that is meant, ``MOLE_KEEP=1 ./mole test core -k kept`` writes them anew; read the difference before it lands.
"""

import json
import os
import re
from collections.abc import Iterator
from dataclasses import replace
from inspect import get_annotations
from pathlib import Path
from typing import Any

import pytest

from mockup import PROGRAM
from mockup.advice.assembly_list import final_assembly
from mockup.advice.outlook import outlook, would_be
from mockup.advice.progress import progress_of
from mockup.changes.change import ChangeKind
from mockup.changes.since import change_words
from mockup.checks.before_turning import before_turning
from mockup.checks.check import Kind
from mockup.engine.gasket import FinalGasket
from mockup.engine.pushrods import Lifter
from mockup.engine.running import BLOCKS, PISTONS, RODS, Running
from mockup.engine.valves import Relief, Side
from mockup.evaluate import evaluate
from mockup.formats.job_read import read_job
from mockup.formats.job_write import write_job
from mockup.limits.limit_set import LimitName
from mockup.limits.schools import READY_MADE
from mockup.plans.batch import Batch
from mockup.plans.cuts import cut_plans
from mockup.plans.deck_chart import deck_chart
from mockup.plans.gaskets import gasket_options
from mockup.plans.levers import ShopLimits, can_be_made
from mockup.plans.ratio_solver import ratio_from_intake_closing, solve_ratio
from mockup.plans.remedies import remedies, worth_measuring
from mockup.plans.sensitivity import Tolerances, gains, nudges, tolerance_stack
from mockup.plans.shim_stacks import ShimKind
from mockup.plans.what_if import WhatIf, curve_changes, done, supposed
from mockup.quantity.value import MM_PER_THOU, Unit
from mockup.readings.instruments import DEFAULT_INSTRUMENTS
from mockup.report import Report
from mockup.words.report_text import report_text
from tests.making import barrels, change, deck, edges, engine, inclined, job, thou
from tests.making_jobs import GASKETS, JOBS, clayed_to_the_head
from tests.making_readings import trial

KEPT = Path(__file__).parent / "kept"
FILES = (*sorted(KEPT.glob("*.json")), Path("docs/example.job.json"))
SHIMS = (ShimKind(0.10, 6), ShimKind(0.25, 6), ShimKind(0.50, 4))
LIMITS = ShopLimits(
    gaskets=GASKETS,
    cam_deg=(-4.0, -2.0, 2.0, 4.0),
    ratios=(1.5, 1.6),
    shims_mm=(-0.2, 0.2, 0.5),
    cuts_mm={
        ChangeKind.RELIEF: 2.5,
        ChangeKind.EDGE: 1.0,
        ChangeKind.HEAD_CUT: 0.5,
        ChangeKind.DECK_CUT: 0.5,
    },
    pushrod_step_mm=0.635,
)


def holds(name: str, lines: Iterator[str]) -> None:
    """Hold lines against those kept under ``name``; or keep them, where that was asked for."""
    path = KEPT / f"{name.replace(', ', '-').replace(' ', '-')}.txt"
    text = "".join(f"{line.rstrip()}\n" for line in "\n".join(lines).splitlines())
    if os.environ.get("MOLE_KEEP"):
        path.write_text(text)
    assert text == path.read_text()


def number(value: float | None) -> str:
    # Rounded first: what is left of a subtraction beyond that is another number on another machine.
    return "none" if value is None else f"{round(value, 6) + 0.0:.5g}"


def told(report: Report) -> Iterator[str]:
    # Without the version, so that a release changes no kept report.
    yield report_text(report).replace(f"Made with {PROGRAM}.\n", "")
    yield "The run"
    yield from (f"    {stop.station}: {stop.progress}. {stop.note}" for stop in progress_of(report))
    yield "Final assembly"
    yield from (f"    {one.key}: {one.words} {one.why}".rstrip() for one in final_assembly(report))
    for one in report.job.mockups:
        yield f"Before turning mock-up {one.key}"
        yield from (f"    {look}" for look in before_turning(one))
    for cylinder, budget in report.budgets.items():
        yield f"Budget of {cylinder}: {budget.total_mm:.5f}"


@pytest.mark.parametrize("path", FILES, ids=lambda path: path.name)
def test_a_report_is_as_it_was_kept(path):
    holds(path.name.removesuffix(".json"), told(evaluate(read_job(path.read_text()))))


@pytest.mark.parametrize("name", JOBS)
def test_a_made_report_is_as_it_was_kept(name):
    holds(name, told(evaluate(replace(JOBS[name], running=Running(compression_height_mm=40.0, rpm=6500.0)))))


def made(kind: ChangeKind) -> Iterator:
    """A change of one kind, for each side where it has one."""
    for side in Side if kind.of_a_side else (None,):
        if kind is ChangeKind.GASKET:
            yield change(kind, gasket=FinalGasket(name="thick", compressed_mm=thou(51), bore_mm=97.5))
        elif kind is ChangeKind.PISTONS:
            yield replace(change(kind, 4), amount=-2.5)
        else:
            yield change(
                kind, {ChangeKind.CAM: 2.0, ChangeKind.ROCKERS: 0.1, ChangeKind.CAMSHAFT: 0.0}.get(kind, 6), side=side
            )


def moved(before: Report, after: Report) -> Iterator[str]:
    afterwards = {check.label: check for check in after.checks}
    for check in before.checks:
        one = afterwards[check.label]
        if check.figure and check.figure != one.figure:
            figures = (
                f"{number(each and each.value)} ±{number(each and each.u)}" for each in (check.figure, one.figure)
            )
            yield f"    {check.label}: {' -> '.join(figures)}{' (read again)' if one.read_again else ''}"


def declared(kind: Any) -> Iterator[str]:
    """What a kind says of itself, line by line; of what it computes, only that it does."""
    for name in get_annotations(type(kind)):
        value = getattr(kind, name)
        told = sorted(value) if isinstance(value, frozenset) else value
        words = re.sub(r"<(?:function|bound method) .*? at 0x[0-9a-f]+>", "reckoned", str(told))
        yield f"  {name}: {words}"


@pytest.mark.parametrize("kinds", [ChangeKind, Kind, LimitName], ids=lambda one: one.__name__)
def test_what_is_declared_is_as_it_was_kept(kinds):
    def lines() -> Iterator[str]:
        for kind in kinds:
            yield f"{kind} ({kind.name}, {kind.order})"
            yield from declared(kind)

    holds(f"declared {kinds.__name__}", lines())


def test_what_every_kind_of_change_moves_is_as_it_was_kept():
    flat = clayed_to_the_head(Lifter.SOLID)
    jobs = {
        "measured and swept": clayed_to_the_head(Lifter.HYDRAULIC),
        "flat crowns": replace(flat, engine=replace(flat.engine, intake=inclined(20.0, Relief.FLAT, count=1))),
        "barrels": job(engine=barrels(), deck=(deck(1, 4), deck(2, 6))),
    }

    def lines() -> Iterator[str]:
        for kind in ChangeKind:
            yield f"{kind}"
            for one in made(kind):
                yield f"  {change_words(one, Unit.INCH, ratio=1.5)} · {change_words(one, Unit.MILLIMETRE)}"
                yield f"  {kind.caution(one)}".rstrip()
                for name, plain in jobs.items():
                    if not can_be_made(kind, plain):
                        continue
                    before, after = evaluate(plain), evaluate(done(plain, one))
                    yield f"  {name}: {would_be(outlook(after, before))}"
                    yield from moved(before, after)

    holds("changes", lines())


@pytest.mark.parametrize("name", JOBS)
def test_plans_are_as_they_were_kept(name):
    report = evaluate(JOBS[name])
    many = Batch(report)

    def lines() -> Iterator[str]:
        found = remedies(report, LIMITS)
        yield f"{found.tried} tried, lacks {number(found.lacks)}"
        for plan in found.plans:
            yield f"    {'; '.join(change_words(one, Unit.INCH, ratio=1.5) for one in plan.changes)}"
        yield from (f"worth measuring {check.label} to {number(u)}" for check, u in worth_measuring(report))
        labels = [check.label for check in many.checks]
        for one in gains(many, nudges(thou(1), report.job)):
            each = ", ".join(f"{label} {number(gain)}" for label, gain in zip(labels, one.gains, strict=True) if gain)
            yield f"{one.step.words} {one.step.amount:g}: {each}"
        stack = tolerance_stack(many, Tolerances(deck_mm=0.03), draws=4000)
        yield from (f"{one.check.label} holds {one.holds:.3f}" for one in stack.each)
        yield f"all hold {stack.all_hold:.3f}"
        for curve in curve_changes(
            report, evaluate(supposed(report.job, WhatIf(changes=(change(ChangeKind.CAM, 3),))))
        ):
            least = (curve.before_mm.min(), curve.after_mm.min(), curve.at_closest_mm, curve.full_lift_mm)
            yield f"{curve.label}: {', '.join(number(one) for one in least)}"

    holds(f"plans, {name}", lines())


def test_decks_gaskets_and_shims_are_as_they_were_kept():
    four = engine(cylinders=4)
    sloped = (*(deck(c, 12 + c) for c in four.cylinder_numbers), *edges(2, 18, 10, 11, 17))
    high = evaluate(job(engine=four, deck=sloped))
    twin = evaluate(job(engine=barrels(), deck=(deck(1, 4), deck(2, 9.5)), pushrods=(trial(),)))

    def lines() -> Iterator[str]:
        for target in (0.0, thou(5), thou(-4)):
            for plan in cut_plans(high, 0, target):
                left = ", ".join(number(one) for one in (*plan.leaves_mm.values(), *plan.edge_mm.values()))
                yield f"{plan.words}: {number(plan.front_mm)} {number(plan.rear_mm)} leaves {left} {plan.refused}"
        for report in (high, twin):
            for one in gasket_options(report, GASKETS, SHIMS):
                each = ", ".join(map(number, (*one.quench_mm, *one.ratio, one.off_mm)))
                yield f"{one.gasket.name} {one.shims_mm} fits {one.fits}: {each}"
            for one in solve_ratio(report, 1, 9.6):
                now, value, worth = map(number, (one.now, one.value, one.gain))
                yield f"{one.unknown}: {now} to {value}, worth {worth}, length {one.is_length} {one.refused}"
            yield f"from where the intake closes: {number(ratio_from_intake_closing(report, 1, 48.0))}"
        for row in deck_chart(twin, SHIMS, (9.4, 9.8)):
            for cell in row.cells:
                each = map(number, (cell.ratio, cell.quench_mm, cell.valve_margin_mm))
                yield f"{number(row.deck_mm)} of {row.cylinders}: {cell.shims_mm} {cell.quench_state} {', '.join(each)}"

    holds("decks", lines())


VALVE = {"mockup": "A", "cylinder": 1, "side": "intake"}
BARE = {
    "format": "astute-mole/job",
    "version": 2,
    "unit": "mm",
    "name": "Bare",
    "limits": {"set": "street"},
    "engine": {"cylinders": 2, "bore": 90, "stroke": 80, "rod_length": 140},
    "mockups": [{"key": "A", "gasket_state": "none"}],
    "final_gasket": {"compressed": 1, "bore": 92},
    "final_shims": [{"total": 1}],
    "running": {"compression_height": 40},
    "changes": [{"key": "c", "kind": "cam"}],
    "pushrod_choice": {"low": 0.5, "aim": 1, "high": 2},
    "tdc": [{"key": "t", "before_deg": 20, "after_deg": 21}],
    "deck": [{"key": "d", "cylinder": 1, "clearance": "0.1 mm down"}],
    "clay": [VALVE | {"key": "e", "thickness": 2}],
    "heads": [{"key": "h", "mockup": "A", "cylinder": 1, "spot": "plug", "thickness": 1}],
    "sweeps": [VALVE | {"key": "s", "crank_deg": 10, "clearance": 2}],
    "volumes": [{"key": "v", "part": "chamber", "cc": 60}],
    "degrees": [{"key": "g", "side": "intake", "lift": 1.27, "opening_deg": -10, "closing_deg": 220}],
    "lifts": [VALVE | {"key": "l", "lift": 10}],
    "pushrods": [VALVE | {"key": "p", "closed": 170, "turns": 2, "pitch": 1}],
    "wipes": [VALVE | {"key": "w", "start": 2, "end": 4, "tip": 8}],
    "valve_gaps": [{"key": "y", "mockup": "A", "cylinder": 1, "gap": 2}],
}


def test_what_a_job_file_leaves_out_is_as_it_was_kept():
    holds("a bare job", iter([write_job(read_job(json.dumps(BARE))).replace(PROGRAM, "PROGRAM")]))


def test_every_sheet_instrument_and_material_is_as_it_was_kept():
    def lines() -> Iterator[str]:
        for limits in READY_MADE.values():
            yield f"{limits.title}: {limits.coverage}, loaded {limits.judged_loaded}. {limits.says} {limits.question}"
            for name, value in limits.limits.items():
                yield f"    {name.label}: {number(value)} ({number(value / MM_PER_THOU)} thou)"
        for own in DEFAULT_INSTRUMENTS.values():
            step, accuracy, repeats = (number(one) for one in (own.resolution_mm, own.accuracy_mm, own.repeats_mm))
            yield f"{own.name}: {step}, {accuracy}, {repeats}; noise {number(own.noise_mm)}, own {number(own.own_mm)}"
        for part, materials in (("block", BLOCKS), ("rod", RODS), ("piston", PISTONS)):
            for one in materials:
                running = Running(**{"compression_height_mm": 40.0, part: one})
                yield f"{part} of {one}: {number(evaluate(job(running=running)).budgets[1].total_mm)}"

    holds("sheets", lines())
