"""Batches of engines: every judged check as ``evaluate`` carries it, for arrays of changes.

A change's amount is an array here, one value for each engine, shape (m,). The functions are those that ``evaluate``
uses for one engine (``Finding.again``); there is no second way to compute or judge a figure.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from mockup.changes.change import Change
from mockup.changes.stack import GASKET_CHANGED
from mockup.checks.check import Check, Trust
from mockup.checks.quench import QUENCH_CHECK
from mockup.context import EvaluationContext
from mockup.engine.gasket import FinalGasket
from mockup.limits.judge import SLACK, Bound
from mockup.plans.levers import Lever
from mockup.quantity.corrections import running_figure
from mockup.quantity.value import Value
from mockup.report import Report

Curve = NDArray[np.float64]
Amounts = Mapping[Lever, Curve]
"""The amount of each lever, each shape (m,): lengths [mm], degrees of cam, added rocker ratio [1].

For the gasket, how much thicker it is [mm], or with ``Batch.gaskets`` its index.
"""


@dataclass(frozen=True, slots=True)
class GasketBatch:
    """A final gasket for each engine of a batch: thickness and bore, each shape (m,) [mm]."""

    compressed_mm: Any
    bore_mm: Any
    thickness: Value


@dataclass(frozen=True, slots=True)
class Figures:
    """Figures of some checks for a batch: value, u and U, each shape (m, checks), [mm] or [1]."""

    value: Curve
    u: Curve
    expanded: Curve


def judged(report: Report) -> list[Check]:
    """Return the checks that can be planned with: a figure that proves, a limit or metal."""
    return [
        check
        for check in report.checks
        if check.figure
        and (check.limit.is_set or check.floor is not None)
        and check.governing
        and check.governing.again
        and check.governing.bound in (Bound.EXACT, Bound.AT_LEAST)
    ]


def _smallest(check: Check, context: EvaluationContext) -> Value:
    """Return a check's figure from its smallest finding, as ``weigh`` chooses it."""
    governing = check.governing
    assert governing is not None
    assert governing.again is not None
    figure = running_figure(governing.again(context))
    if governing.bound is not Bound.EXACT or governing.trust is Trust.LOADED or check.kind is QUENCH_CHECK:
        # Lower bounds do not reduce one another; loaded readings come first; a deck is not weighed against clay.
        return figure
    for other in check.others:
        if other.again and other.bound is Bound.EXACT and other.trust is not Trust.VOID and other.figure:
            there = running_figure(other.again(context))
            less = np.asarray(there.value < figure.value)
            if less.any():
                figure = _either(less, there, figure)
    return figure


def _either(where: NDArray[np.bool_], one: Value, other: Value) -> Value:
    """Return one figure where ``where`` is set (m,), else the other [mm or 1]."""
    value: Any = np.where(where, one.value, other.value)
    u: Any = np.where(where, one.u, other.u)
    freedom: Any = np.where(where, one.freedom, other.freedom)
    return Value(value, u, freedom)


class Batch:
    """All judged checks of a report, carried to a batch of engines.

    ``gaskets``: what GASKET indexes, if anything.

    The first gasket is None, the present one.
    """

    def __init__(self, report: Report, gaskets: Sequence[FinalGasket | None] = ()) -> None:
        self.report, self.gaskets = report, gaskets
        self.checks = judged(report)

    def figures_of(self, amounts: Amounts, checks: Sequence[Check] | None = None) -> list[Value]:
        """Return each check's figure [mm] or [1], value and u shape (m,) or common; NaN unknown.

        Another finding may govern in another engine: of all that prove something, the smallest does.
        """
        context = self.report.context.changed(self.changes(amounts))
        return [_smallest(check, context) for check in (self.checks if checks is None else checks)]

    def figures(self, amounts: Amounts) -> Figures:
        """Return the figures of every check."""
        size = max((np.size(one) for one in amounts.values()), default=1)
        found = self.figures_of(amounts)

        def table(columns: list[Any]) -> Curve:
            full = [np.broadcast_to(column, (size,)) for column in columns]
            return np.column_stack(full) if full else np.zeros((size, 0))

        return Figures(*(table([getattr(one, name) for one in found]) for name in ("value", "u", "expanded")))

    def slack(self, amounts: Amounts) -> Curve:
        """Return the slack of each check, U counted, shape (m, checks) [mm] or [1]; -inf unknown."""
        return self.slack_of(self.figures(amounts))

    def room_of(self, found: Figures) -> Curve:
        """Return the slack of figures, U not counted, shape (m, checks) [mm] or [1]; NaN unknown."""
        limits = [check.limit for check in self.checks]
        floors = [-np.inf if check.floor is None else check.floor for check in self.checks]
        low = np.maximum([-np.inf if one.low is None else one.low for one in limits], floors)
        high = np.array([np.inf if one.high is None else one.high for one in limits])
        return np.asarray(np.minimum(found.value - low, high - found.value))

    def slack_of(self, found: Figures) -> Curve:
        """Return the slack of computed figures, shape (m, checks) [mm] or [1]; -inf where not known."""
        left = self.room_of(found) - found.expanded
        return np.where(np.isnan(left), -np.inf, left)

    def clear(self, amounts: Amounts) -> NDArray[np.bool_]:
        """Return whether every check would be clear, 1 or 0, shape (m,) [1]."""
        return np.asarray(self.slack(amounts).min(axis=1, initial=np.inf) >= -SLACK)

    def changes(self, amounts: Amounts) -> list[Change]:
        """Return the amounts as changes, in the given order; levers used in no engine are left out.

        Without a final gasket no other one can be thicker than it.
        """
        remedy = [(lever, amount) for lever, amount in amounts.items() if np.any(amount)]
        final = self.report.job.final_gasket
        return [self._change(lever, one) for lever, one in remedy if final or lever.kind is not GASKET_CHANGED]

    def _change(self, lever: Lever, amount: Any) -> Change:
        kind, key = lever.kind, str(lever)
        if kind is GASKET_CHANGED:
            many = self._gaskets(amount)
            final = self.report.job.final_gasket
            thicker = many.compressed_mm - (final.compressed_mm if final else 0.0)
            gasket: Any = many
            return Change(key=key, kind=kind, front_mm=thicker, rear_mm=thicker, gasket=gasket)
        if kind.along:
            return Change(key=key, kind=kind, front_mm=amount, rear_mm=amount)
        return Change(key=key, kind=kind, side=lever.side, amount=amount)

    def _gaskets(self, amount: Curve) -> GasketBatch:
        final = self.report.job.final_gasket
        assert final is not None
        if not self.gaskets:
            thicker: Any = final.compressed_mm + amount
            return GasketBatch(thicker, final.bore_mm, Value(thicker, final.thickness.u))
        chosen = np.asarray(amount, dtype=np.intp)
        on_offer = [gasket or final for gasket in self.gaskets]
        compressed: Any = np.array([one.compressed_mm for one in on_offer])[chosen]
        bore = np.array([np.nan if one.bore_mm is None else one.bore_mm for one in on_offer])[chosen]
        u: Any = np.array([one.thickness.u for one in on_offer])[chosen]
        return GasketBatch(compressed, bore, Value(compressed, u))
