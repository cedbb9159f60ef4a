"""Clay between crown and head, away from the valves: at the quench pads, the plug and the dome.

Along the bore a gasket, shims or a cut count whole. The thinnest governs; clay that was not pressed is a lower bound.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import replace

from mockup.checks.check import Check, Finding, Kind
from mockup.checks.clearance import AsItWillRun, Read, pressed_finding, thinnest_of
from mockup.checks.conditions import standing_of
from mockup.checks.weigh import weigh
from mockup.engine.mockup import Lifters, MockUp, Springs
from mockup.limits.margins import LimitName
from mockup.readings.clay import HeadKey, HeadReading, Spot


def head_checks(
    sets: Mapping[HeadKey, Sequence[HeadReading]], mockup_of: Callable[[str], MockUp], run: AsItWillRun
) -> Iterator[Check]:
    """A check of every place that was read; the pads against the quench's lower limit, plug and dome by their own."""
    found: dict[tuple[int, Spot], list[Finding]] = {}
    for (cylinder, spot, letter), readings in sets.items():
        found.setdefault((cylinder, spot), []).append(_finding(readings, _limit(spot), mockup_of(letter), run))
    for (cylinder, spot), findings in sorted(found.items()):
        limit = run.sheet.minimum(_limit(spot))
        governing, others = weigh(findings, run.sheet, limit)
        yield Check(
            kind=Kind.CROWN,
            cylinder=cylinder,
            label=f"{spot.capitalize()} {cylinder}",
            limit=limit,
            governing=governing,
            others=others,
            required=False,
        )


def _limit(spot: Spot) -> LimitName:
    return LimitName.QUENCH_LOW if spot is Spot.PAD else LimitName.CROWN


def _finding(readings: Sequence[HeadReading], limit: LimitName, mockup: MockUp, run: AsItWillRun) -> Finding:
    thinnest = thinnest_of(readings)
    spot = thinnest.spot
    of = Read(cylinder=thinnest.cylinder, after=thinnest.after, limit=limit, what=spot.touched, factor=1.0)
    # No valve moves here: of the conditions only what the clay itself is worth counts.
    worth = standing_of(
        replace(mockup, lifters=Lifters.SOLID, springs=Springs.CHECKING), reversed_runs=run.engine.pistons_reversed
    )
    return pressed_finding(of, readings, mockup, run, worth)
