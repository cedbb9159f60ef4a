"""Each kind of check before and after a change, as shown, and the filled fields of a query."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from django.http import QueryDict

from mockup.checks.check import Check
from mockup.plans.what_if import Effect
from mockup.quantity.value import Unit
from mockup.words.report_text import amount, figure_text, limit_text, margin_text
from web.page.margin_strip import STATE_CLASSES


@dataclass(frozen=True, slots=True)
class FigurePair:
    """One kind of check: its tightest before and after, as shown."""

    label: str
    before: str
    before_tone: str
    after: str
    after_tone: str
    state: str
    figure: str
    wants: str
    moved: bool


def pairs(effects: Sequence[Effect], unit: Unit) -> list[FigurePair]:
    """Return the strip before and after."""
    return [_pair(effect, unit) for effect in effects]


def _pair(effect: Effect, unit: Unit) -> FigurePair:
    before, after = _shown(effect.before, unit), _shown(effect.after, unit)
    return FigurePair(
        label=effect.kind.label,
        before=before,
        before_tone=STATE_CLASSES[effect.before.state],
        after=after,
        after_tone=STATE_CLASSES[effect.after.state],
        state=str(effect.after.state),
        figure=f"{effect.after.label}: {figure_text(effect.after, unit)}",
        wants=limit_text(effect.after.limit, effect.kind, unit),
        moved=before != after,
    )


def _shown(check: Check, unit: Unit) -> str:
    if check.limit.is_set or check.figure is None:
        return margin_text(check, unit)
    return amount(check.figure.value, check.kind, unit)


def asked(query: QueryDict) -> dict[str, Any]:
    """Return the filled fields of a form."""
    return {name: value for name, value in query.items() if value}
