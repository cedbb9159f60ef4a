"""Weigh several findings of one thing: the smallest sound figure governs."""

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
    at_least = [finding for finding in with_figure if finding.bound is Bound.AT_LEAST]
    others = [finding for finding in with_figure if finding.bound is not Bound.AT_LEAST]
    if not with_figure:
        return findings[0]
    return _lowest(others, at_least, limits, limit) if others else _highest(at_least)


def _highest(at_least: Sequence[Finding]) -> Finding:
    """Return the highest lower bound: it tells most, and no lower bound reduces another."""
    return max(at_least, key=_smallest)


def _lowest(others: Sequence[Finding], at_least: Sequence[Finding], limits: LimitSet, limit: Limit) -> Finding:
    """Return what governs where some findings, the ``others``, are more than a lower bound."""
    sound = [finding for finding in others if finding.bound is Bound.EXACT]
    loaded = [finding for finding in sound if finding.trust is Trust.LOADED]
    if limits.judged_loaded and loaded:
        return min(loaded, key=_smallest)
    surely_short = [finding for finding in others if _judged(finding, limit) is State.SHORT]
    if not sound and not surely_short and any(_judged(bound, limit) is State.CLEAR for bound in at_least):
        return _highest(at_least)
    return min(surely_short or sound or others, key=_smallest)


def _judged(finding: Finding, limit: Limit) -> State:
    return judge(finding.figure, limit, finding.bound)


def _smallest(finding: Finding) -> tuple[float, float]:
    assert finding.figure is not None
    return finding.figure.value, -finding.figure.u
