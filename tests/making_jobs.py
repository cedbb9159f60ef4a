"""Jobs that several tests evaluate: plans, batches, signatures, job files."""

import json
from dataclasses import replace
from pathlib import Path

from mockup.changes.change import Change
from mockup.changes.cuts import DECK_CUT, HEAD_CUT
from mockup.changes.pistons import PISTONS_CHANGED
from mockup.changes.stack import GASKET_CHANGED, SHIMS_CHANGED
from mockup.checks.head_clay import CROWN_LIMIT
from mockup.checks.sign_off import signing
from mockup.checks.valve_limits import RADIAL_LIMIT
from mockup.engine.gasket import FinalGasket
from mockup.engine.mockup import GasketState
from mockup.engine.pushrods import Lifter, PushrodChoice
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.formats.job_write import write_job
from mockup.limits.limit_set import Edit
from mockup.plans.shim_stacks import ShimKind
from mockup.readings.clay import Gap, HeadSpot
from mockup.readings.record import Record
from tests.making import clay, deck, engine, inclined, job, mockup, short_eight, thou, with_readings
from tests.making_readings import degree, head, sweep, table, trial

SHIMS = (ShimKind(0.10, 6), ShimKind(0.15, 4), ShimKind(0.25, 6), ShimKind(0.40, 4), ShimKind(0.50, 4))


def change_of(lever, amount, made):
    plain = {"key": "x", "kind": lever.kind, "side": lever.side}
    if lever.kind is GASKET_CHANGED:
        thicker = replace(made.final_gasket, compressed_mm=made.final_gasket.compressed_mm + amount)
        return Change(key="x", kind=lever.kind, gasket=thicker)
    if lever.kind.along:
        return Change(**plain, front_mm=amount, rear_mm=amount)
    return Change(**plain, amount=amount)


GASKETS = tuple(FinalGasket(name=f"{t}", compressed_mm=thou(t), bore_mm=97.0) for t in (30, 36, 41, 46, 51, 60))


def swept_four():
    """A four with measured lobes: one intake swept, one exhaust clayed, an edge read."""
    four = engine(cylinders=4, intake=inclined(12.0), exhaust=inclined(14.0), rocker_ratio=1.5)
    read = tuple(sweep(angle, down) for angle, down in ((0, 100), (5, 88), (10, 86), (15, 95), (20, 120)))
    snug = mockup(key="B", gasket_state=GasketState.SNUGGED, gasket_mm=thou(45))
    return short_eight(
        engine=four,
        mockups=(mockup(), snug),
        deck=tuple(deck(cylinder, 5) for cylinder in four.cylinder_numbers),
        clay=(clay(120, 2, Side.EXHAUST, mockup="B"), clay(40, 2, Side.EXHAUST, gap=Gap.RADIAL, mockup="B", key="e")),
        sweeps=read,
        lobe_tables=(table(), table(side=Side.EXHAUST)),
        degrees=(degree(Side.INTAKE, 70.0, 146.0), degree(Side.EXHAUST, -146.0, -70.0)),
        pushrods=(trial(),),
    )


def clayed_to_the_head(lifter):
    """The four with clay at pad, plug and dome, and leaning pushrods chosen for these lifters."""
    spots = tuple(
        head(t, spot, 1 + at)
        for at, (t, spot) in enumerate(((45, HeadSpot.PAD), (80, HeadSpot.PLUG), (90, HeadSpot.DOME)))
    )
    window = {"low_mm": thou(10), "aim_mm": thou(16), "high_mm": thou(60), "lean_deg": 6.0, "chosen_mm": 7.395 * 25.4}
    plain = swept_four()
    edits = {CROWN_LIMIT: Edit(thou(50)), RADIAL_LIMIT: Edit(thou(30))}
    return replace(
        with_readings(plain, heads=spots),
        pushrod_choice=PushrodChoice(lifter=lifter, **window),
        limits=replace(plain.limits, edits=plain.limits.edits | edits),
    )


JOBS = {
    "card and clay": short_eight(),
    "measured and swept": swept_four(),
    "clay to the head, hydraulic": clayed_to_the_head(Lifter.HYDRAULIC),
    "clay to the head, solid": clayed_to_the_head(Lifter.SOLID),
}


READ = tuple(clay(t, c, s) for c in (1, 2) for t, s in ((95, Side.INTAKE), (109, Side.EXHAUST)))


SHORT = job(clay=(*READ, clay(91, 2, Side.EXHAUST)))


BY = Record(by="Ottoline", at="2026-11-25T09:00:00")


def label(report, name="Exhaust 2"):
    return next(check for check in report.checks if check.label == name)


def signed(plain=SHORT, name="Exhaust 2", record=BY):
    one = replace(signing(label(evaluate(plain), name), "the cam maker says 0.080"), key="s1", record=record)
    return replace(plain, sign_offs=(one,))


EXAMPLE = Path("docs/example.job.json")


def data(**changes):
    return json.loads(write_job(job())) | changes


ALONG = (DECK_CUT, HEAD_CUT, GASKET_CHANGED, SHIMS_CHANGED, PISTONS_CHANGED)


GASKET = FinalGasket(name="steel", compressed_mm=1.15, bore_mm=97.0)
