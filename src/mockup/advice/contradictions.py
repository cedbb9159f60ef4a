"""Readings that contradict each other: methods at one valve, and one valve against others.

While such a question is open, no figure it contradicts is clear. The bounds are common practice, no source, unless
stated.
"""

import math
import statistics
from collections.abc import Iterator, Mapping, Sequence

from mockup.checks.check import Check, Finding, Trust
from mockup.checks.valves import FACE_KINDS
from mockup.engine.parts import PART_U_MM
from mockup.engine.valves import Side
from mockup.fit.deck_figures import DeckFigure
from mockup.job import Job
from mockup.limits.judge import Bound
from mockup.quantity.corrections import UncertaintySource
from mockup.quantity.shown import format_bench, format_both
from mockup.quantity.value import BENCH_UNIT, MM_PER_THOU, Unit
from mockup.report import Question

FLEX_MM = 35 * MM_PER_THOU
"""Clay reads up to this much more than the indicator, which bends nothing: common practice, no source."""
DIAL_TURNS_MM = {Unit.INCH: (100 * MM_PER_THOU, 50 * MM_PER_THOU), Unit.MILLIMETRE: (1.0, 0.5)}
"""The length of a whole turn of the usual dials."""
TURN_WITHIN_MM = 10 * MM_PER_THOU
ASKED_MM, SISTERS_MM = 8 * MM_PER_THOU, 12 * MM_PER_THOU
"""Valves of a kind differ by less than this once their decks are counted; beyond the second none is clear."""
PAIR_MM = 30 * MM_PER_THOU
"""With two valves the wrong one cannot be told; this far apart, neither is clear."""
ASKED_TIMES, SISTERS_TIMES = 3.0, 4.0
"""And by less than this many standard uncertainties of the two."""

Decks = Mapping[int, DeckFigure]


def contradictions(job: Job, checks: Sequence[Check], deck: Decks) -> Iterator[Question]:
    """Yield a question for every pair of methods and every valve that does not fit."""
    for check in checks:
        if check.side is not None:
            yield from _methods(job, check)
    for side in Side:
        faces = [check for check in checks if check.kind is FACE_KINDS[side] and _is_sound(check.governing)]
        yield from _sisters(job, side, faces, deck)


def _is_sound(finding: Finding | None) -> bool:
    return finding is not None and finding.figure is not None and finding.bound in (Bound.EXACT, Bound.AT_MOST)


def _methods(job: Job, check: Check) -> Iterator[Question]:
    """Yield a question where two methods at one valve cannot both be right."""
    findings = [one for one in (check.governing, *check.others) if one is not None and one.figure is not None]
    touching = [one for one in findings if one.contact]
    for at, one in enumerate(findings):
        for other in findings[at + 1 :]:
            words = _disagree(job, one, other)
            if words:
                yield Question(f"{check.label}: {words}", against=(check.label,))
    for one in touching:
        apart = [other for other in findings if not other.contact and other.figure and _least(other) > 0]
        if apart and one.figure:
            shown = format_both(_value(apart[0]), job.unit)
            yield Question(
                f"{check.label}: {one.method} touches, but {apart[0].method} says {shown}. Which was misread, "
                "or read at another valve?",
                against=(check.label,),
            )


def _value(finding: Finding) -> float:
    assert finding.figure is not None
    return float(finding.figure.value)


def _least(finding: Finding) -> float:
    assert finding.figure is not None
    return float(finding.figure.value - finding.figure.expanded)


def _disagree(job: Job, one: Finding, other: Finding) -> str:
    """Return why two findings of one gap cannot both be right; empty where they can."""
    small, large = sorted((one, other), key=_value)
    assert small.figure is not None
    assert large.figure is not None
    apart = large.figure.value - small.figure.value
    both = math.hypot(small.figure.expanded, large.figure.expanded)
    if small.bound is Bound.AT_LEAST or Bound.ABOUT in (small.bound, large.bound) or small.contact or large.contact:
        return ""
    shown = f"{format_bench(_value(large), job.unit)} against {format_bench(_value(small), job.unit)}"
    shown = f"{shown} {BENCH_UNIT[job.unit]}"
    if large.bound is Bound.AT_LEAST:
        return f"{large.method} was not touched, {shown} by {small.method}. Which is wrong?" if apart > both else ""
    if large.bound is Bound.AT_MOST or Trust.LOADED in (large.trust,):
        return ""
    allowed = both + (FLEX_MM if large.by_clay and not small.by_clay else 0.0)
    if apart <= allowed:
        return ""
    turn = next((turn for turn in DIAL_TURNS_MM[job.unit] if _is_whole(apart, turn, both)), None)
    if not large.by_clay and turn:
        dial = format_bench(turn, job.unit)
        return (
            f"{large.method} and {small.method} read {shown}: apart by about a whole turn of the dial ({dial} "
            f"{BENCH_UNIT[job.unit]}). Count the dial’s turns again."
        )
    return f"{large.method} and {small.method} read {shown}: further apart than U allows. Read both again."


def _is_whole(apart_mm: float, turn_mm: float, u_mm: float) -> bool:
    count = round(apart_mm / turn_mm)
    return count >= 1 and abs(apart_mm - count * turn_mm) <= max(TURN_WITHIN_MM, min(u_mm, 0.25 * turn_mm))


def _sisters(job: Job, side: Side, checks: Sequence[Check], deck: Decks) -> Iterator[Question]:
    """Yield a question for a valve far from the others, with the decks counted."""
    if len(checks) < 2:
        return
    k = job.engine.row(side).axial_factor
    known = all(check.cylinder in deck for check in checks)
    level = {
        check.label: _value_of(check) - (k * deck[check.cylinder].clearance.value if known else 0.0) for check in checks
    }
    for check in checks:
        others = _sisters_of(check, checks)
        if not others:
            continue
        apart = level[check.label] - statistics.median(level[one.label] for one in others)
        u = _u_apart(job, check, others, k * deck[check.cylinder].clearance.u if known else 0.0)
        by_deck = 0.0 if known else 2 * SISTERS_MM
        if abs(apart) <= max(ASKED_MM + by_deck, ASKED_TIMES * u):
            continue
        # With two valves the wrong one cannot be told; with more it is the one far from the rest.
        if len(others) > 1 and not _stands_alone(
            check, {one.label: level[one.label] for one in (check, *others)}, apart
        ):
            continue
        far = SISTERS_MM if len(others) > 1 else PAIR_MM
        against = abs(apart) > max(far + by_deck, SISTERS_TIMES * u)
        yield _sister_question(job, check, others, apart, known=known, against=against)


def _sisters_of(check: Check, checks: Sequence[Check]) -> list[Check]:
    """Return the valves to compare with: read by the same kind of method.

    Clay reads more than an indicator.
    """
    return [one for one in checks if one is not check and _is_by_clay(one) is _is_by_clay(check)]


def _is_by_clay(check: Check) -> bool:
    return check.governing is not None and check.governing.by_clay


def _u_apart(job: Job, check: Check, others: Sequence[Check], deck_u_mm: float) -> float:
    """Return the standard uncertainty of a valve's distance from the median of the others [mm].

    Read alike, they share the uncertainty of gasket, instrument, tilt and curve, so only their noise counts.
    """
    alike = [one for one in others if _read_like(one) == _read_like(check)]
    of = _noise_of if len(alike) == len(others) else _u_of
    part_u = job.parts_differ.u_mm if job.parts_differ else PART_U_MM
    theirs = statistics.median(of(one) for one in others)
    return math.hypot(of(check), theirs, math.sqrt(2) * part_u, math.sqrt(2) * deck_u_mm)


def _read_like(check: Check) -> tuple[str, int]:
    """Return how a valve was read: its method without the angle, and how many readings it has."""
    found = check.governing
    return (found.method.partition(", closest at")[0], len(found.evidence)) if found else ("", 0)


def _value_of(check: Check) -> float:
    assert check.figure is not None
    return check.figure.value


def _u_of(check: Check) -> float:
    assert check.figure is not None
    return check.figure.u


def _noise_of(check: Check) -> float:
    assert check.governing is not None
    return math.hypot(*(part.u for part in check.governing.parts if part.of is UncertaintySource.REPEATABILITY))


def _stands_alone(check: Check, level: Mapping[str, float], apart: float) -> bool:
    """Return whether this valve is further from the median of the others than any of them."""
    middle = statistics.median(level.values())
    return abs(level[check.label] - middle) >= 0.6 * abs(apart)


def _sister_question(
    job: Job, check: Check, others: Sequence[Check], apart: float, *, known: bool, against: bool
) -> Question:
    figures = ", ".join(format_bench(_value_of(one), job.unit) for one in others[:6])
    counted = " with the decks counted" if known else ""
    words = (
        f"{check.label}: {format_bench(_value_of(check), job.unit)}, its sisters {figures} {BENCH_UNIT[job.unit]}, "
        f"{format_bench(abs(apart), job.unit)} {'more' if apart > 0 else 'less'}{counted}. Was it read at "
        "this valve, at overlap TDC, with the dial’s turns counted? Read it again."
    )
    return Question(
        words,
        check.governing.evidence[0] if check.governing and check.governing.evidence else "",
        (check.label,) if against else (),
    )
