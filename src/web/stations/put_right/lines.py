"""The effect of a change in rows: each kind of check before and after."""

from collections.abc import Sequence
from dataclasses import dataclass
from urllib.parse import urlencode

from mockup.advice.outlook import outlook, would_be
from mockup.changes.since import change_words
from mockup.checks.check import Check
from mockup.engine.valves import Side
from mockup.plans.remedies import Plan
from mockup.plans.what_if import CurveChange, WhatIf, effects_of, lash_left_mm
from mockup.quantity.shown import format_bench
from mockup.quantity.value import BENCH_UNIT, Unit
from mockup.report import Report
from web.builds.entry_kinds import item_of
from web.drawings.margin_bars import MarginBar, margin_bars
from web.page.build_page import BuildPage
from web.page.figure_pairs import FigurePair, pairs
from web.page.read_fields import record_line
from web.page.shown_digest import digest_of
from web.shelf.models import ShelfGasket
from web.shops.clock import stamp
from web.stations.put_right.form import typed_of


def every_check(before: Report, after: Report) -> list[tuple[Check, Check]]:
    """Return every check with a figure before or after, side by side."""
    would = {check.label: check for check in after.checks}
    both = [(check, would[check.label]) for check in before.checks if check.label in would]
    return [(was, now) for was, now in both if was.figure or now.figure]


def lost(every: Sequence[tuple[Check, Check]]) -> list[str]:
    """Return why a present figure would be lost: what its governing reading would need first."""
    gone = [now.governing for was, now in every if was.figure and not now.figure and now.governing]
    return list(dict.fromkeys(caution for finding in gone for caution in finding.cautions))


def estimate(before: Report, after: Report) -> tuple[str, str] | None:
    """Return what the running estimate uses before and after; None where unchanged."""
    was, would, unit = before.budget_mm, after.budget_mm, before.job.unit
    if was is None or would is None or was == would:
        return None
    return format_bench(was, unit), format_bench(would, unit)


def lash_rows(report: Report) -> list[str]:
    """Return what running lash adds at the closest point, which nothing counts on."""
    unit, found = report.job.unit, []
    for side in Side:
        left = lash_left_mm(report, side)
        if left:
            found.append(f"{side} {format_bench(left, unit)}")
    return found


def ratio_words(curves: Sequence[CurveChange], unit: Unit) -> list[str]:
    """Return why subtracting a rocker change at full lift is too pessimistic."""
    return [
        f"{curve.label}: at full lift the rockers alone are {format_bench(abs(curve.full_lift_mm), unit)} "
        f"{BENCH_UNIT[unit]} {'more' if curve.full_lift_mm > 0 else 'less'}; where the valve comes nearest "
        f"{format_bench(abs(curve.at_closest_mm), unit)}. It is the closest point that counts."
        for curve in curves
        if curve.full_lift_mm
    ]


def shown_of(what_if: WhatIf, effects: Sequence[FigurePair], report: Report) -> str:
    """Return the digest of what a page shows of a what-if: changes, states of checks."""
    found = ([pair.label, pair.after, pair.state, pair.figure, pair.wants] for pair in effects)
    return digest_of([what_words(what_if, report), *(word for words in found for word in words)])


@dataclass(frozen=True, slots=True)
class KeptRow:
    """A stored what-if."""

    key: str
    pk: int
    name: str
    words: str
    record: str
    item: WhatIf


def kept_rows(page: BuildPage) -> list[KeptRow]:
    """Return the stored what-ifs that are not struck out, oldest first."""
    found = []
    for row in page.log:
        if row.kind == "what-if" and not row.struck_reason:
            item = item_of(row.kind, row.data)
            record = record_line(row.by.shown_name, stamp(row.at), "")
            found.append(KeptRow(row.key, row.pk, item.name, what_words(item, page.report), record, item))
    return found


def what_words(what_if: WhatIf, report: Report) -> str:
    """Return a what-if in one line."""
    unit, ratio = report.job.unit, report.engine.rocker_ratio
    parts = [change_words(change, unit, ratio=ratio) for change in what_if.changes]
    parts += [f"{what_if.rpm:g} rpm"] if what_if.rpm is not None else []
    parts += [f"{what_if.rod} rods"] if what_if.rod else []
    return "; ".join(parts) or "nothing changed"


@dataclass(frozen=True, slots=True)
class RemedyRow:
    """A remedy as shown: its parts, its effect, what must follow it, and its form values."""

    words: list[str]
    moved: list[FigurePair]
    same: list[str]
    again: list[str]
    cautions: list[str]
    outlook: str
    cost: str
    bars: list[MarginBar]
    posted: list[tuple[str, str]]
    query: str
    shown: str


def plan_line(plan: Plan, report: Report, gaskets: Sequence[ShelfGasket], checks: Sequence[Check]) -> RemedyRow:
    """Return one remedy, with the margins of ``checks`` as bars."""
    ratio = report.engine.rocker_ratio
    typed = typed_of(plan.what_if, report, gaskets)
    shown = pairs(effects_of(report, plan.report), report.job.unit)
    return RemedyRow(
        words=[change_words(change, report.job.unit, ratio=ratio) for change in plan.changes],
        moved=[pair for pair in shown if pair.moved],
        same=[pair.label for pair in shown if not pair.moved],
        again=[change.kind.again for change in plan.changes],
        cautions=[said for change in plan.changes if (said := change.kind.caution(change))],
        outlook=would_be(outlook(plan.report, report)),
        cost="; ".join(dict.fromkeys(lever.remedy.cost for lever in plan.levers)),
        bars=margin_bars(checks, plan.report, report.job.unit),
        posted=list(typed.items()),
        query=urlencode(typed),
        shown=shown_of(plan.what_if, shown, report),
    )
