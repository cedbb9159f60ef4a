"""The least work that makes every check clear, each plan held against ``evaluate`` before it is offered."""

from dataclasses import dataclass

from mockup.changes.change import Change
from mockup.checks.check import Check
from mockup.evaluate import evaluate
from mockup.limits.judge import SLACK, State
from mockup.plans.levers import Lever, ShopLimits
from mockup.plans.search import Search
from mockup.plans.what_if import WhatIf, supposed
from mockup.report import FAILING, Report

MOST_PLANS = 8
MOST_TRIED = 24
"""So many of the least plans are held against ``evaluate`` at most."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """Changes that together make every check clear. ``report``: what evaluate makes of the engine so changed."""

    levers: tuple[Lever, ...]
    changes: tuple[Change, ...]
    report: Report

    @property
    def what_if(self) -> WhatIf:
        """The plan as a what-if."""
        return WhatIf(changes=self.changes)


@dataclass(frozen=True, slots=True, kw_only=True)
class Remedies:
    """What was found: plans, least work first; without any, the check in the way and what it still lacks [mm or 1].

    ``tried``: how many combinations were reckoned.
    """

    plans: tuple[Plan, ...]
    obstacle: Check | None
    lacks: float
    tried: int


def remedies(report: Report, limits: ShopLimits) -> Remedies:
    """The plans of one, two or three parts that make every judged check clear, least work first.

    Of the same parts only the one with the least change is offered, and none that is clear without one of its parts.
    Nothing is offered where nothing that was read is in the way.
    """
    if not still_in_the_way(report):
        return Remedies(plans=(), obstacle=None, lacks=0.0, tried=0)
    search = Search(report, limits)
    found, obstacle, lacks = search.run()
    plans: list[Plan] = []
    for row in found[:MOST_TRIED]:
        changes = search.changes(row)
        after = evaluate(supposed(report.job, WhatIf(changes=changes)))
        if not still_in_the_way(after):
            plans.append(Plan(levers=search.levers_of(row), changes=changes, report=after))
        if len(plans) == MOST_PLANS:
            break
    return Remedies(plans=tuple(plans), obstacle=None if plans else obstacle, lacks=lacks, tried=search.tried)


def still_in_the_way(report: Report) -> list[Check]:
    """The checks with a figure and a limit that are short, over or too close to call, signed off or not.

    One that is in question wants a reading, and no work: nothing that is cut answers it.
    """
    return [check for check in report.checks if check.state in FAILING and check.state is not State.QUESTIONED]


def worth_measuring(report: Report) -> list[tuple[Check, float]]:
    """The checks too close to call that are inside their limit, each with the U it would be clear with [mm or 1].

    Measuring better is the least work of all: known to within its daylight, such a check is clear as it stands.
    """
    close = [check for check in report.checks if check.state is State.CLOSE and check.daylight is not None]
    return [(check, check.daylight) for check in close if check.daylight and check.daylight > SLACK]
