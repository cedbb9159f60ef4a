"""The least work that makes every check clear; ``evaluate`` checks each plan."""

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
"""At most this many of the smallest plans are checked by ``evaluate``."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """Changes that together make every check clear. ``report``: the evaluated result."""

    levers: tuple[Lever, ...]
    changes: tuple[Change, ...]
    report: Report

    @property
    def what_if(self) -> WhatIf:
        """The plan as a what-if."""
        return WhatIf(changes=self.changes)


@dataclass(frozen=True, slots=True, kw_only=True)
class Remedies:
    """The plans found, least work first, or the obstructing check and what it lacks [mm or 1].

    ``tried``: how many combinations were computed.
    """

    plans: tuple[Plan, ...]
    obstacle: Check | None
    lacks: float
    tried: int


def remedies(report: Report, limits: ShopLimits) -> Remedies:
    """Return plans of one to three parts that make every judged check clear.

    For the same parts only the smallest change is offered, and no plan that is clear without one of its parts. Nothing
    is offered where every measured check is clear.
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
    """Return the checks that are short, over or too close to call, signed off or not.

    A questioned check needs a reading, not work, since no cut answers a question.
    """
    return [check for check in report.checks if check.state in FAILING and check.state is not State.QUESTIONED]


def worth_measuring(report: Report) -> list[tuple[Check, float]]:
    """Return the checks too close inside their limit, each with the U that clears it [mm or 1].

    Measuring better is the least work: a check known to within its margin is clear without a change.
    """
    close = [check for check in report.checks if check.state is State.CLOSE and check.margin is not None]
    return [(check, check.margin) for check in close if check.margin and check.margin > SLACK]
