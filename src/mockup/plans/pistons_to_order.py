"""Pistons to order: height, reliefs and volume from what is wanted and what stays.

Solved in this order, each rounded to the maker's step on the safe side, with the maker's tolerance in U:

crown at d = quench - gasket, so that H = H_now + (d_now - d) relief deeper by what the tightest valve lacks of its
minimum and the extra wanted, with the new deck relief radius by the edge, in the same way V_piston = V_swept / (ratio -
1) - chamber - gasket - deck

Decided changes (a head to be milled, a block to be cut) count as done. Source: closed forms of docs/how-it-computes.md,
"Pistons to order"; checked against ``evaluate`` on random engines in tests/core/test_pistons_to_order.py.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Annotated

from mockup.base.faults import Fault, refuse
from mockup.changes.change import CHANGE_U_MM, Change, ChangeKind
from mockup.changes.pistons import PISTONS_CHANGED, RELIEF_DEEPENED, RELIEF_SHARE, RELIEF_WIDENED, discs_cc
from mockup.checks.check import Check
from mockup.checks.running import budget
from mockup.checks.valves import FACE_KINDS, RADIAL_CHECK
from mockup.engine.valves import Relief, Side
from mockup.evaluate import evaluate
from mockup.job import Job
from mockup.plans.what_if import WhatIf, done, supposed
from mockup.quantity.fields import Mm, Within, outside
from mockup.quantity.shown import mm_range
from mockup.quantity.typed_units import MASS
from mockup.quantity.value import Value, rectangular
from mockup.report import Report

ROUNDING = 1e-9


_WISH = Within(0, 5, f"An extra of {mm_range(0, 5)} above the minimum.")
_LENGTH = Within(0, 50, f"A length of {mm_range(0, 50)}.")
_STEP = Within(0.001, 5, "A step above zero, up to 5.")
_EITHER_WAY = Within(0, 5, "A tolerance of 0 to 5, either way.")


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """What new pistons should give; None leaves a figure unchanged.

    ``quench_mm`` of the middle deck; ``face_mm``, ``edge_mm``: a wish above the minimum; ``ratio`` [1].
    ``height_now_mm``: compression height of the ones that are in; ``intake_relief_mm``, ``exhaust_relief_mm``: how deep
    their reliefs are; ``crown_mm`` under the relief and ``land_mm`` above the top ring now, each with what the maker
    allows at least. Steps and tolerances are the maker's: heights and reliefs [mm], volumes [cm3]. ``moving_g``:
    reciprocating mass with the new ones [g]. Raises FaultsError.
    """

    quench_mm: Annotated[Mm | None, Within(0.05, 10, f"A quench of {mm_range(0.05, 10)}.")] = None
    face_mm: Annotated[Mm, _WISH] = 0.0
    edge_mm: Annotated[Mm, _WISH] = 0.0
    ratio: Annotated[float | None, Within(3, 30, "A ratio of 3 to 30.")] = None
    height_now_mm: Annotated[Mm | None, Within(5, 200, f"A compression height of {mm_range(5, 200)}.")] = None
    intake_relief_mm: Annotated[Mm | None, _LENGTH] = None
    exhaust_relief_mm: Annotated[Mm | None, _LENGTH] = None
    crown_mm: Annotated[Mm | None, _LENGTH] = None
    crown_least_mm: Annotated[Mm | None, _LENGTH] = None
    land_mm: Annotated[Mm | None, _LENGTH] = None
    land_least_mm: Annotated[Mm | None, _LENGTH] = None
    height_step_mm: Annotated[Mm, _STEP] = 0.05
    relief_step_mm: Annotated[Mm, _STEP] = 0.1
    volume_step_cc: Annotated[float, _STEP] = 0.1
    tolerance_mm: Annotated[Mm, _EITHER_WAY] = 0.025
    relief_tolerance_mm: Annotated[Mm, _EITHER_WAY] = 0.05
    volume_tolerance_cc: Annotated[float, _EITHER_WAY] = 0.5
    moving_g: Annotated[float | None, Within(10, 10000, f"From {MASS.range_words(10, 10000)}.")] = None

    def __post_init__(self) -> None:
        pairs = (("crown_mm", "crown_least_mm"), ("land_mm", "land_least_mm"))
        refuse(
            [
                *outside(self),
                *(
                    Fault(least, "Give both the present and the least allowed, or neither.")
                    for name, least in pairs
                    if (getattr(self, name) is None) != (getattr(self, least) is None)
                ),
            ]
        )

    @property
    def relief_now_mm(self) -> Mapping[Side, float]:
        """The relief depths of the present pistons, of the sides where they are stated [mm]."""
        said = {Side.INTAKE: self.intake_relief_mm, Side.EXHAUST: self.exhaust_relief_mm}
        return {side: depth for side, depth in said.items() if depth is not None}


@dataclass(frozen=True, slots=True, kw_only=True)
class Order:
    """The pistons to order, and what they make of the engine.

    ``higher_mm``: the crown against the one that is in [mm]; ``height``: the compression height, None while the
    present one is not known [mm]; ``deeper_mm`` and ``wider_mm`` of the reliefs, by side [mm]; ``depths``,
    ``radii``: the same as ordered, where they are known [mm]. ``volume``: of the piston, reliefs and all, positive adds
    room [cm3], None where it stays or is not known. ``after``: the engine with them in, evaluated. ``counted``: what is
    decided and not done, counted as done. ``unknown``: what could not be solved, and why, in words. ``faults``: limits
    of crown or ring land that it breaks, in words. ``uses_mm``: what the running estimate would use at the worst
    cylinder, before and after [mm].
    """

    higher_mm: float
    height: Value | None
    deeper_mm: Mapping[Side, float]
    wider_mm: Mapping[Side, float]
    depths: Mapping[Side, Value]
    radii: Mapping[Side, Value]
    volume: Value | None
    before: Report
    after: Report
    what_if: WhatIf
    counted: tuple[Change, ...]
    unknown: tuple[str, ...]
    faults: tuple[str, ...]
    uses_mm: tuple[float, float] | None


def with_plans(job: Job) -> Job:
    """The job with everything that is decided done."""
    for change in job.changes:
        if change.order is None:
            job = done(job, replace(change, supposed=True))
    return job


def pistons_to_order(job: Job, wanted: Wanted) -> Order:
    """Solve for the pistons, with all that is decided counted as done.

    Raises FaultsError where they could not be.
    """
    planned = with_plans(job)
    counted = tuple(change for change in job.changes if change.order is None)
    before = evaluate(planned)
    unknown: list[str] = []
    higher = _higher(before, wanted, unknown)
    crowned = _as_if(planned, _pistons(higher, 0.0)) if higher else before
    deeper = _deeper(crowned, wanted, unknown)
    wider = _wider(crowned, wanted)
    volume, more_cc = _volume(crowned, before, wanted, deeper, unknown)
    changes = [
        *([_pistons(higher, more_cc)] if higher or more_cc else []),
        *_of_sides(RELIEF_DEEPENED, deeper),
        *_of_sides(RELIEF_WIDENED, wider),
    ]
    what_if = WhatIf(changes=tuple(changes))
    height_now = _height_now(planned, wanted)
    return Order(
        higher_mm=higher,
        height=None if height_now is None else Value(round(height_now + higher, 9), rectangular(wanted.tolerance_mm)),
        deeper_mm=deeper,
        wider_mm=wider,
        depths=_depths(wanted, deeper),
        radii=_radii(crowned, wanted, wider),
        volume=volume,
        before=before,
        after=evaluate(supposed(planned, what_if)) if changes else before,
        what_if=what_if,
        counted=counted,
        unknown=tuple(unknown),
        faults=tuple(_limits(before, wanted, higher, deeper)),
        uses_mm=_uses(before, wanted, higher),
    )


def _pistons(higher_mm: float, more_cc: float) -> Change:
    return Change(key="pistons", kind=PISTONS_CHANGED, front_mm=higher_mm, rear_mm=higher_mm, amount=round(more_cc, 6))


def _of_sides(kind: ChangeKind, amounts: Mapping[Side, float]) -> list[Change]:
    return [Change(key=f"{kind}-{side}", kind=kind, side=side, amount=more) for side, more in amounts.items() if more]


def _as_if(job: Job, *changes: Change) -> Report:
    return evaluate(supposed(job, WhatIf(changes=changes)))


def _height_now(job: Job, wanted: Wanted) -> float | None:
    if wanted.height_now_mm is not None:
        return wanted.height_now_mm
    return job.running.compression_height_mm if job.running else None


def _higher(report: Report, wanted: Wanted, unknown: list[str]) -> float:
    """How much higher the crown must be, to the maker's step, the lower where between [mm]."""
    final, decks = report.job.final_gasket, report.context.known_decks
    if wanted.quench_mm is None:
        return 0.0
    if final is None or not decks:
        unknown.append("compression height: read the decks, or clay on the pads, and choose the final gasket")
        return 0.0
    middle = sum(deck.clearance.value for deck in decks.values()) / len(decks)
    target = wanted.quench_mm - final.compressed_mm
    step, now = wanted.height_step_mm, _height_now(report.job, wanted) or 0.0
    ordered = math.floor((now + middle - target) / step + ROUNDING) * step
    return round(ordered - now, 9)


def _deeper(report: Report, wanted: Wanted, unknown: list[str]) -> dict[Side, float]:
    found = {}
    for side, kind in FACE_KINDS.items():
        k = report.engine.row(side).axial_factor
        made = math.hypot(k * rectangular(wanted.tolerance_mm), rectangular(wanted.relief_tolerance_mm))
        lacks = _lacks(report.of_kind(kind), wanted.face_mm, made)
        if lacks is None:
            unknown.append(f"{side} reliefs: no {side} valve is read, or it has no minimum")
            continue
        found[side] = _up_to_step(lacks, wanted.relief_step_mm)
    return found


def _wider(report: Report, wanted: Wanted) -> dict[Side, float]:
    found = {}
    edges = report.of_kind(RADIAL_CHECK)
    for side in Side:
        lacks = _lacks([c for c in edges if c.side is side], wanted.edge_mm, rectangular(wanted.relief_tolerance_mm))
        if lacks is not None:
            found[side] = _up_to_step(lacks, wanted.relief_step_mm)
    return found


def _lacks(checks: Sequence[Check], wish_mm: float, made_u_mm: float) -> float | None:
    """How much the tightest valve lacks of its minimum and the wish, all U counted [mm]."""
    lacks = []
    for check in checks:
        if check.figure is None or check.limit.low is None:
            continue
        # What is known for sure makes a coverage factor smaller: the larger U of with and without the maker's counts.
        bare, made = (check.figure + Value(0.0, math.hypot(u, CHANGE_U_MM)) for u in (0.0, made_u_mm))
        lacks.append(check.limit.low + wish_mm - bare.value + max(bare.expanded, made.expanded))
    return max(lacks) if lacks else None


def _up_to_step(lacks_mm: float, step_mm: float) -> float:
    return round(math.ceil(max(lacks_mm, 0.0) / step_mm - ROUNDING) * step_mm, 9)


def _volume(
    crowned: Report, before: Report, wanted: Wanted, deeper: Mapping[Side, float], unknown: list[str]
) -> tuple[Value | None, float]:
    """The piston's volume for the ratio [cm3], to the maker's step, and how much more it is.

    Of the second what deeper reliefs are supposed to take from the crown is taken off: it is in the ordered volume.
    """
    if wanted.ratio is None:
        return None, 0.0
    if not crowned.volumes:
        unknown.append("volume: bore, stroke, chambers, pistons and decks are not all known")
        return None, 0.0
    needs = [
        each.swept.value / (wanted.ratio - 1) - (each.clearance_cc - each.piston.value)
        for each in crowned.volumes.values()
    ]
    # The chamber that is smallest must not exceed the ratio: its piston needs the most room.
    step = wanted.volume_step_cc
    ordered = math.ceil(max(needs) / step - ROUNDING) * step
    now = [each.piston.value for each in before.volumes.values()]
    reliefs = sum(RELIEF_SHARE.value * discs_cc(crowned.engine, side, more) for side, more in deeper.items())
    more_cc = ordered - sum(now) / len(now) - reliefs
    return Value(round(ordered, 6), rectangular(wanted.volume_tolerance_cc)), more_cc


def _depths(wanted: Wanted, deeper: Mapping[Side, float]) -> dict[Side, Value]:
    u = rectangular(wanted.relief_tolerance_mm)
    now = wanted.relief_now_mm
    return {side: Value(round(now[side] + more, 9), u) for side, more in deeper.items() if side in now}


def _radii(report: Report, wanted: Wanted, wider: Mapping[Side, float]) -> dict[Side, Value]:
    """The radius of each side's relief: half the valve, and its edge gap or the minimum."""
    found = {}
    u = rectangular(wanted.relief_tolerance_mm)
    for side in Side:
        row = report.engine.row(side)
        if not row.diameter_mm or row.relief is Relief.FLAT:
            continue
        edges = [check for check in report.of_kind(RADIAL_CHECK) if check.side is side]
        read = [check.figure.value for check in edges if check.figure]
        low = next((check.limit.low for check in edges if check.limit.low is not None), None)
        if read:
            gap = min(read) + wider.get(side, 0.0)
        elif low is not None:
            gap = low + wanted.edge_mm + 2 * u
        else:
            continue
        found[side] = Value(_up_to_step(row.diameter_mm / 2 + gap, wanted.relief_step_mm), u)
    return found


def _limits(report: Report, wanted: Wanted, higher_mm: float, deeper: Mapping[Side, float]) -> list[str]:
    """What of the maker's limits the order breaks: crown under relief, land above the ring.

    A crown that stands higher over the same pin has so much more metal; a relief takes its depth along the bore.
    """
    along = [report.engine.row(side).off_the_crown_mm(more) for side, more in deeper.items()]
    taken = max(along, default=0.0)
    found = []
    for what, now, least in (
        ("crown under the relief", wanted.crown_mm, wanted.crown_least_mm),
        ("land above the top ring", wanted.land_mm, wanted.land_least_mm),
    ):
        if now is not None and least is not None and now + higher_mm - taken < least - ROUNDING:
            found.append(f"{what}: {now + higher_mm - taken:.2f} mm would be left, {least:.2f} mm is the least allowed")
    return found


def _uses(report: Report, wanted: Wanted, higher_mm: float) -> tuple[float, float] | None:
    """What the running estimate uses now and with the new pistons [mm]; None without one."""
    running = report.job.running
    if running is None or not report.budgets or not report.deck:
        return None
    mass = running.reciprocating_g if wanted.moving_g is None else wanted.moving_g
    other = replace(running, reciprocating_g=mass, compression_height_mm=running.compression_height_mm + higher_mm)
    after = [
        budget(replace(deck, clearance=deck.clearance + Value(-higher_mm)), report.crank, other).total_mm
        for deck in report.deck.values()
    ]
    return min(one.total_mm for one in report.budgets.values()), min(after)
