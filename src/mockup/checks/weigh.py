"""Weighing several findings of the same thing: the smallest sound figure governs, the rest are shown."""

from collections.abc import Sequence

from mockup.checks.check import Finding, Trust
from mockup.limits.judge import Bound, Limit, State, judge
from mockup.limits.limit_set import LimitSet


def weigh(findings: Sequence[Finding], limits: LimitSet, limit: Limit) -> tuple[Finding, tuple[Finding, ...]]:
    """Return the governing finding, and the others. ``findings`` holds at least one.

    An upper bound of the truth governs where no sound figure exists, or where even it is short. Where the limits judge
    loaded readings, those go first.
    """
    governing = _governing(findings, limits, limit)
    return governing, tuple(finding for finding in findings if finding is not governing)


def _governing(findings: Sequence[Finding], limits: LimitSet, limit: Limit) -> Finding:
    with_figure = [finding for finding in findings if finding.figure is not None]
    if not with_figure:
        return findings[0]
    bounded = [finding for finding in with_figure if finding.bound is Bound.AT_LEAST]
    with_figure = [finding for finding in with_figure if finding.bound is not Bound.AT_LEAST]
    if not with_figure:
        # The highest lower bound tells most, and no lower bound reduces another.
        return max(bounded, key=_smallest)
    surely_short = [f for f in with_figure if judge(f.figure, limit, f.bound) is State.SHORT]
    sound = [finding for finding in with_figure if finding.bound is Bound.EXACT]
    loaded = [finding for finding in sound if finding.trust is Trust.LOADED]
    if limits.judged_loaded and loaded:
        return min(loaded, key=_smallest)
    if not sound and not surely_short and any(judge(f.figure, limit, f.bound) is State.CLEAR for f in bounded):
        return max(bounded, key=_smallest)
    return min(surely_short or sound or with_figure, key=_smallest)


def _smallest(finding: Finding) -> tuple[float, float]:
    assert finding.figure is not None
    return finding.figure.value, -finding.figure.u
