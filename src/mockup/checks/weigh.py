"""Weighing several findings of the same thing: the smallest sound figure governs, the rest are shown."""

from collections.abc import Sequence

from mockup.checks.check import Finding, Trust
from mockup.limits.judge import Bound, Limit, State, judge
from mockup.limits.margins import MarginSheet


def weigh(findings: Sequence[Finding], sheet: MarginSheet, limit: Limit) -> tuple[Finding, tuple[Finding, ...]]:
    """The finding that governs, and the others. ``findings`` holds at least one.

    A figure the truth can only lie below governs where no sound one exists, or where even it is short.
    Where the sheet judges loaded readings, they come before others.
    """
    governing = _governing(findings, sheet, limit)
    return governing, tuple(finding for finding in findings if finding is not governing)


def _governing(findings: Sequence[Finding], sheet: MarginSheet, limit: Limit) -> Finding:
    with_figure = [finding for finding in findings if finding.figure is not None]
    if not with_figure:
        return findings[0]
    bounded = [finding for finding in with_figure if finding.bound is Bound.AT_LEAST]
    with_figure = [finding for finding in with_figure if finding.bound is not Bound.AT_LEAST]
    if not with_figure:
        # Of lower bounds the highest says most; and none of them takes anything from another.
        return max(bounded, key=_smallest)
    surely_short = [f for f in with_figure if judge(f.figure, limit, f.bound) is State.SHORT]
    sound = [finding for finding in with_figure if finding.bound is Bound.EXACT]
    loaded = [finding for finding in sound if finding.trust is Trust.LOADED]
    if sheet.judged_loaded and loaded:
        return min(loaded, key=_smallest)
    if not sound and not surely_short and any(judge(f.figure, limit, f.bound) is State.CLEAR for f in bounded):
        return max(bounded, key=_smallest)
    return min(surely_short or sound or with_figure, key=_smallest)


def _smallest(finding: Finding) -> tuple[float, float]:
    assert finding.figure is not None
    return finding.figure.value, -finding.figure.u
