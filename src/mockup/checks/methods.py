"""What it means when two methods at one valve differ: flex, soft clay, a bleeding lifter.

Common practice, no source: a loaded train bends, so the valve opens less and clay reads more. The indicator bends
nothing and reads least; if it is good there, it is good.
"""

from collections.abc import Iterator

from mockup.checks.check import Check, Finding, Trust

CORRECTED = ", after counting the gaskets and everything else that differs between the two mock-ups"


def differences(check: Check) -> Iterator[tuple[Finding, float, str]]:
    """Yield the other findings, how much more each reads than the governing one [mm], and why."""
    governs = check.governing
    if governs is None or governs.figure is None:
        return
    for other in check.others:
        if other.figure is None:
            continue
        more = other.figure.value - governs.figure.value
        both = (other.figure + governs.figure).expanded
        if abs(more) > both:
            yield other, more, _why(governs, other, more)
        else:
            yield other, more, "they agree within their U" + (CORRECTED if abs(_as_read(governs, other)) > both else "")


def _as_read(governs: Finding, other: Finding) -> float:
    """Return how much more the other method read, before either was carried [mm]."""
    if not (governs.corrections and other.corrections):
        return 0.0
    return other.corrections[0].delta.value - governs.corrections[0].delta.value


def _why(governs: Finding, other: Finding, more: float) -> str:
    if governs.trust is Trust.LOADED and other.trust is Trust.SOUND and more < 0:
        return "the train bends under the running springs that govern here, and the valve opens less"
    if more < 0:
        return "it reads less than the one that governs: measure again"
    if other.trust is Trust.LOADED and governs.trust is not Trust.LOADED:
        return "the train bends under running springs, and the valve opens less"
    if other.trust is Trust.OPTIMISTIC:
        return "its cautions name what makes it read large: a bleeding lifter, half a turn, other parts"
    if other.method.startswith("clay") and not governs.method.startswith("clay"):
        return "clay gives a little, and even checking springs bend the train; the smaller one counts"
    return "two sound methods disagree: the smaller one counts, and both need reading again"
