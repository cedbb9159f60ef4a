"""Plans of the stack in words: cuts, gaskets from the shelf, the deck-height chart."""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from mockup.changes.cuts import DECK_CUT
from mockup.checks.compression import RATIO_HIGH_LIMIT
from mockup.plans.cuts import CutPlan, cut_plans
from mockup.plans.deck_chart import ChartRow, deck_chart, deck_ranges
from mockup.plans.gaskets import GasketOption
from mockup.plans.shim_stacks import ShimKind, parse_shims
from mockup.plans.what_if import Effect, done, effects
from mockup.quantity.shown import format_bench, format_deck, format_exact
from mockup.quantity.typed import LengthError
from mockup.quantity.value import Unit
from mockup.report import Report


@dataclass(frozen=True, slots=True)
class CutRow:
    """One way to cut: its words, its effect on every kind of check, and its form values."""

    words: str
    cut: str
    leaves: str
    refused: str
    effects: tuple[Effect, ...]
    posted: dict[str, str]


def plan_rows(report: Report, target_mm: float) -> list[CutRow]:
    """Return every way to cut every bank to the target, each evaluated as if done."""
    banks = range(len(report.job.engine.banks))
    many = len(banks) > 1
    return [_plan_line(report, plan, many=many) for bank in banks for plan in cut_plans(report, bank, target_mm)]


def _plan_line(report: Report, plan: CutPlan, *, many: bool) -> CutRow:
    unit = report.job.unit
    words = f"bank {plan.bank + 1}, {plan.words}" if many else plan.words
    if plan.refused:
        return CutRow(words, "", "", plan.refused, (), {})
    left = list(plan.leaves_mm.values())
    edges = f", highest edge {format_deck(min(plan.edge_mm.values()), unit)}" if plan.edge_mm else ""
    posted = {
        "kind": str(DECK_CUT),
        "bank": str(plan.bank) if many else "",
        "front_mm": format_exact(plan.front_mm, unit),
        "rear_mm": format_exact(plan.rear_mm, unit),
    }
    return CutRow(
        words=words,
        cut=_ends(plan.front_mm, plan.rear_mm, unit),
        leaves=f"crowns {format_deck(min(left), unit)} to {format_deck(max(left), unit)}{edges}",
        refused="",
        effects=effects(report, done(report.job, plan.change())),
        posted=posted,
    )


def _ends(front_mm: float, rear_mm: float, unit: Unit) -> str:
    front, rear = format_bench(front_mm, unit), format_bench(rear_mm, unit)
    return front if front == rear else f"{front} front, {rear} rear"


def gasket_rows(report: Report, options: Iterable[tuple[GasketOption, Any]]) -> list[dict[str, Any]]:
    """Return the shelf's gaskets, best first, with quench, ratio and the shims needed."""
    unit = report.job.unit
    lines = []
    for option, row in options:
        shims = [shim_words(stack, unit) for stack in option.shims_mm]
        per_barrel = [f"{c}: {words}" for c, words in zip(option.cylinders, shims, strict=True)]
        ratios = [ratio for ratio in option.ratio if math.isfinite(ratio)]
        lines.append(
            {
                "pk": row.pk,
                "name": row.name,
                "thickness": format_bench(row.compressed_mm, unit),
                "quench": _span(option.quench_mm, unit),
                "ratio": f"{min(ratios):.2f}–{max(ratios):.2f}" if ratios else "—",
                "fits": option.fits,
                "shims": ", ".join(per_barrel) if report.job.engine.separate_barrels else "",
            }
        )
    return lines


def shim_words(stack: tuple[float, ...] | None, unit: Unit) -> str:
    """Return a stack of shims in words, thickest first."""
    if stack is None:
        return "none left"
    return " + ".join(format_bench(shim, unit) for shim in stack) or "no shim"


def _span(values: Sequence[float], unit: Unit) -> str:
    low, high = (format_bench(value, unit) for value in (min(values), max(values)))
    return low if low == high else f"{low}–{high}"


@dataclass(frozen=True, slots=True)
class DeckChart:
    """The deck-height chart in words, or what it lacks."""

    targets: str
    ratios: tuple[float, ...]
    rows: tuple[ChartRow, ...]
    shims: str
    wrong: str = ""
    wrong_shims: str = ""
    missing: str = ""
    ranges: tuple[tuple[float, list[str]], ...] = ()

    @property
    def refused(self) -> bool:
        """Whether something typed for it was not understood."""
        return bool(self.wrong or self.wrong_shims)


MOST_TARGETS = 4


def chart_of(report: Report, on_the_shelf: Sequence[ShimKind], typed: str, other_shims: str = "") -> DeckChart:
    """Return the chart for typed ratios, ``9.0, 9.5``, else for the build's own limit.

    ``other_shims``: shims that are not on the shelf, as typed.
    """
    own = report.job.limits.effective.get(RATIO_HIGH_LIMIT)
    text = typed.strip() or (f"{own:g}" if own else "9.0, 9.5")
    try:
        shims, wrong_shims = (*on_the_shelf, *parse_shims(other_shims, report.job.unit)), ""
    except LengthError as error:
        shims, wrong_shims = tuple(on_the_shelf), str(error)
    on_shelf = ", ".join(f"{format_bench(kind.thickness_mm, report.job.unit)} × {kind.stock}" for kind in on_the_shelf)
    ratios = _ratios(text)
    if not ratios:
        return DeckChart(text, (), (), on_shelf, wrong=f"Up to {MOST_TARGETS} ratios from 3 to 30, as in 9.0, 9.5.")
    rows = deck_chart(report, shims, ratios, report.job.makers_chart)
    missing = "" if rows else "The chart needs deck readings, the final gasket, and chamber and piston volumes."
    ranges = tuple((ratio, _range_lines(report, shims, ratio)) for ratio in ratios) if rows else ()
    return DeckChart(text, ratios, rows, on_shelf, wrong_shims=wrong_shims, missing=missing, ranges=ranges)


def _range_lines(report: Report, shims: Sequence[ShimKind], ratio: float) -> list[str]:
    """Return the chart of one ratio as ranges: ``0.05 down to 0.30 down: 0.50 + 0.25``."""
    unit = report.job.unit
    return [
        f"{format_deck(one.low_mm, unit)} to {format_deck(one.high_mm, unit)}: "
        f"{one.refused or shim_words(one.shims_mm, unit)}"
        for one in deck_ranges(report, shims, ratio)
    ]


def _ratios(text: str) -> tuple[float, ...]:
    try:
        found = (
            tuple(float(part) for part in text.replace(";", ",").split(",") if part.strip()) if len(text) < 60 else ()
        )
    except ValueError:
        return ()
    return found if 0 < len(found) <= MOST_TARGETS and all(3 <= ratio <= 30 for ratio in found) else ()
