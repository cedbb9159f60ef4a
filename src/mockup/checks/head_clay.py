"""Clay between crown and head, away from the valves: at the quench pads, the plug and the dome.

Along the bore a gasket, shims or a cut count whole. The thinnest governs; clay that was not pressed is a lower bound.
"""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import replace

from mockup.checks.check import Check, Finding, Kind, Trust
from mockup.checks.clearance import DOUGH_U_MM, NO_FINAL_GASKET, AsItWillRun
from mockup.checks.conditions import standing_of
from mockup.checks.judge import Bound, Limit
from mockup.checks.margins import LimitName
from mockup.checks.weigh import weigh
from mockup.engine.changes import crown_rungs
from mockup.engine.gasket import shims_under
from mockup.engine.mockup import Clay, Lifters, MockUp, Springs
from mockup.quantity.ladder import Rung, running_figure
from mockup.quantity.value import Value
from mockup.readings.clay import HeadReading, Spot
from mockup.readings.record import standing


def head_checks(
    readings: Iterable[HeadReading], mockup_of: Callable[[str], MockUp], run: AsItWillRun
) -> Iterator[Check]:
    """A check of every place that was read; the pads against the quench's lower limit, plug and dome by their own."""
    places: dict[tuple[int, Spot], dict[str, list[HeadReading]]] = {}
    for reading in standing(readings):
        places.setdefault((reading.cylinder, reading.spot), {}).setdefault(reading.mockup, []).append(reading)
    for (cylinder, spot), by_mockup in sorted(places.items()):
        limit = run.sheet.minimum(LimitName.QUENCH_LOW if spot is Spot.PAD else LimitName.CROWN)
        findings = [_finding(found, mockup_of(letter), run) for letter, found in by_mockup.items()]
        yield _check(cylinder, spot, limit, findings, run)


def _check(cylinder: int, spot: Spot, limit: Limit, findings: list[Finding], run: AsItWillRun) -> Check:
    governing, others = weigh(findings, run.sheet, limit)
    return Check(
        kind=Kind.CROWN,
        cylinder=cylinder,
        label=f"{spot.capitalize()} {cylinder}",
        limit=limit,
        governing=governing,
        others=others,
        required=False,
    )


def _finding(readings: list[HeadReading], mockup: MockUp, run: AsItWillRun) -> Finding:
    newest = max(reading.after for reading in readings)
    alive = sorted((r for r in readings if r.after == newest), key=lambda reading: reading.thickness_mm)
    touched = [reading for reading in alive if reading.touched]
    thinnest = touched[0] if touched else alive[-1]
    # No valve moves here: of the conditions only what the clay itself is worth counts.
    clay = standing_of(replace(mockup, lifters=Lifters.SOLID, springs=Springs.CHECKING))
    u_mm = run.instruments[thinnest.instrument].u_mm
    rungs = [
        Rung("as read" if touched else "thickness of clay that was not touched", Value(thinnest.thickness_mm, u_mm))
    ]
    moved = crown_rungs(run.changes, thinnest.after, thinnest.cylinder, run.engine)
    figure = None
    cautions = list(clay.cautions)
    if run.final is None:
        cautions.append(NO_FINAL_GASKET)
    else:
        rungs.append(Rung("gasket as mocked up, to the final one", run.final.thickness + mockup.gasket.scaled(-1)))
        shims = shims_under(run.shims, thinnest.cylinder) if run.engine.separate_barrels else None
        if shims and shims.total_mm != mockup.shims_mm:
            rungs.append(Rung("base shims as mocked up, to the final ones", Value(shims.total_mm - mockup.shims_mm)))
        rungs += moved
        if mockup.clay is Clay.DOUGH:
            rungs.append(Rung("soft dough springs back", Value(0.0, DOUGH_U_MM)))
        figure = None if clay.trust is Trust.VOID else running_figure(rungs)
    bound = clay.bound(run.sheet)
    return Finding(
        figure=figure,
        bound=bound if touched or bound is not Bound.EXACT else Bound.AT_LEAST,
        trust=clay.trust,
        method=f"clay, mock-up {mockup.key}",
        ladder=tuple(rungs),
        evidence=tuple(reading.key for reading in alive),
        cautions=tuple(cautions),
        carried=tuple(rung.text for rung in moved),
        read_again=bool(moved),
    )
