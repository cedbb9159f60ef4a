"""Figures in templates: each tag calls the core's words, which choose units."""

from collections.abc import Mapping
from typing import Any

from django import template
from django.utils.safestring import SafeString, mark_safe

from mockup.checks.check import Check, Finding, Kind
from mockup.checks.methods import differences
from mockup.checks.valves import FACE_INTAKE_CHECK, FACE_KINDS
from mockup.fit.closest_point import Closest
from mockup.limits.judge import State
from mockup.plans.relief_edges import lay_back
from mockup.plans.what_if import lash_left_mm
from mockup.quantity import shown
from mockup.quantity.corrections import Correction
from mockup.quantity.typed_angle import format_crank_angle
from mockup.quantity.value import BENCH_UNIT, Unit, Value
from mockup.report import Report
from mockup.words import report_text
from mockup.words.uncertainty import certainty_lines
from web.page.margin_strip import STATE_CLASSES
from web.page.shown_digest import check_words, digest_of

register = template.Library()


@register.simple_tag
def shown_of_check(check: Check, unit: Unit) -> str:
    """Return the digest of what is shown of a check, for the form that signs it off."""
    return digest_of(check_words(check, unit))


@register.simple_tag
def figure(check: Check, unit: Unit) -> str:
    """Return a check's figure ± U."""
    return report_text.figure_text(check, unit)


@register.simple_tag
def as_mocked_up(check: Check, unit: Unit) -> str:
    """Return a check's figure as read that cannot be carried yet."""
    return report_text.as_mocked_up_text(check, unit)


@register.simple_tag
def finding(item: Finding, kind: Kind, unit: Unit) -> str:
    """Return one finding's figure ± U."""
    return report_text.finding_text(item, kind, unit)


@register.simple_tag
def beside(check: Check, unit: Unit) -> list[str]:
    """Return what other methods found at the same valve, and what the difference means."""
    return [
        f"{other.method}, {report_text.finding_text(other, check.kind, unit)}, {other.trust}: "
        f"{shown.format_bench(abs(more), unit)} {'more' if more >= 0 else 'less'}; {why}."
        for other, more, why in differences(check)
    ]


@register.simple_tag
def laid_back(check: Check, report: Report | None) -> str:
    """Return how far a relief's edge must be laid back on each side; empty if not."""
    unit = report.job.unit if report else Unit.INCH
    sides = [
        f"{shown.bench_text(one.by_mm, unit)}{f' at the {one.where}' if one.where else ''}"
        for one in (lay_back(report, check) if report else ())
    ]
    return f"Lay the relief’s edge back by {', '.join(sides)}." if sides else ""


@register.simple_tag
def minimum(check: Check, unit: Unit) -> str:
    """Return a check's limit."""
    return report_text.limit_text(check.limit, check.kind, unit)


@register.simple_tag
def margin(check: Check, unit: Unit) -> str:
    """Return a check's margin."""
    return report_text.margin_text(check, unit)


@register.simple_tag
def correction(item: Correction, *, first: bool, kind: Kind, unit: Unit) -> str:
    """Return a correction's amount."""
    return report_text.correction_text(item, first=first, kind=kind, unit=unit)


@register.simple_tag
def certainty(item: Finding, kind: Kind, unit: Unit) -> str:
    """Return what a finding's U is made of, and what would halve it."""
    return " ".join(certainty_lines(item.parts, item.figure, kind, unit, of_clay=item.by_clay))


@register.simple_tag
def made_of_closest(item: Closest, unit: Unit) -> str:
    """Like ``certainty``, of a closest point as mocked up."""
    return " ".join(certainty_lines(item.parts, item.minimum, FACE_INTAKE_CHECK, unit))


@register.simple_tag(takes_context=True)
def running_lash(context: Any, check: Check) -> str:
    """Return what running lash would add to a valve's figure; empty where none."""
    report, face = context.get("report"), check.side and check.kind is FACE_KINDS.get(check.side)
    left = lash_left_mm(report, check.side) if report and face and check.side else None
    return f"+{shown.format_bench(left, report.job.unit)}" if left else ""


@register.simple_tag
def both(mm: float, unit: Unit) -> str:
    """Return a length in both units."""
    return shown.format_both(mm, unit)


@register.simple_tag
def length(mm: float, unit: Unit) -> str:
    """Return a bench length in the build's unit."""
    return shown.format_bench(mm, unit)


@register.simple_tag
def crank_angle(degrees: float) -> str:
    """Return a crank angle with its letters, to the tenth."""
    return format_crank_angle(round(degrees, 1))


@register.simple_tag
def deck_words(mm: float, unit: Unit) -> str:
    """Return a deck clearance in words."""
    return shown.format_deck(mm, unit)


@register.simple_tag
def expanded(value: Value, unit: Unit) -> str:
    """Return the U of a length."""
    return shown.format_expanded(value.expanded, unit)


@register.simple_tag
def slope(value: Value | None, downward: str, upward: str, unit: Unit) -> str:
    """Return a slope with its U and direction; one not determined is never shown as zero."""
    if value is None:
        return "not determined"
    amount = f"{shown.format_bench(abs(value.value), unit)} ±{shown.format_expanded(value.expanded, unit)}"
    return f"{amount} {downward if value.value >= 0 else upward}"


@register.simple_tag
def dimension(mm: float | None, unit: Unit) -> str:
    """Return a large length in the build's unit, or that it is not stated."""
    return "not stated" if mm is None else shown.format_dimension(mm, unit)


@register.filter
def at(found: Mapping[str, Any], name: str) -> Any:
    """Return the value of a mapping under a name, or None."""
    return found.get(name) if found else None


@register.filter
def tone(state: State) -> str:
    """Return the tone and shape for a state."""
    return STATE_CLASSES[state]


@register.filter
def bench_unit(unit: Unit) -> str:
    """Return the word for the unit of bench lengths."""
    return BENCH_UNIT[unit]


# The gap mark, our own: a valve above, a crown below, and the gap between them.
_VALVE = "M3,{y} H21 M12,{y} V1.5"
_CROWN = "M3,{y} H21 M3,{y} V23 M21,{y} V23"
_GAPS = {
    "clear": (5, 19),
    "close": (8, 15.2),
    "short": (11.6, 13.2),
    "over": (3, 21),
    "none": (5, 19),
    "unset": (5, 19),
}


@register.simple_tag
def gap_mark(tone_name: str) -> SafeString:
    """Return the gap mark of a state as SVG; its word is beside it, so screen readers skip it."""
    valve, crown = _GAPS[tone_name]
    paths = [f'<path d="{_VALVE.format(y=valve)}"/>', f'<path class="crown" d="{_CROWN.format(y=crown)}"/>']
    if tone_name in ("close", "over"):
        paths.append(f'<path class="limit" d="M3,{11.6 if tone_name == "close" else 8} H21"/>')
    svg = f'<svg class="gap {tone_name}" viewBox="0 0 24 24" aria-hidden="true">{"".join(paths)}</svg>'
    return mark_safe(svg)  # noqa: S308, made of constants above


@register.simple_tag
def signed_length(mm: float, unit: Unit) -> str:
    """Return a difference of lengths with its sign."""
    return f"{'+' if mm > 0 else '−'}{shown.format_bench(abs(mm), unit)}"


@register.simple_tag
def signed_margin(mm: float, unit: Unit) -> str:
    """Return a margin that is not a check's own, with its sign, rounded down."""
    return shown.format_margin(mm, unit)
