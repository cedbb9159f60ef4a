"""Units, and values that carry a standard uncertainty.

The core works in millimetres. Inches exist only in this package, where a person types or reads.

Sources: 1 in = 25.4 mm exactly (international yard and pound agreement, 1959). Standard uncertainty u, expanded
uncertainty U = k u, type B rectangular distributions: GUM, JCGM 100:2008, 4.3.7 and 6.2; k from Student's t where u is
known from few readings, degrees of freedom combined by Welch-Satterthwaite: G.3, G.4.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum
from typing import Any

import numpy as np

from mockup.quantity.solvers import coverage, coverages

MM_PER_INCH = 25.4
INCH_MM = Decimal("25.4")
"""The same for decimal arithmetic: what is typed keeps all its digits."""
MM_PER_THOU = 0.0254


class Unit(StrEnum):
    """The unit a build is kept in: what a plain number means, and what is shown first."""

    INCH = "in"
    MILLIMETRE = "mm"


BENCH_UNIT = {Unit.INCH: "thou", Unit.MILLIMETRE: "mm"}
"""What bench lengths are counted in, by the build's unit."""


class DeckSign(StrEnum):
    """The sign convention for deck figures; it changes words on the screen, never a result."""

    DOWN_POSITIVE = "down-positive"
    OUT_POSITIVE = "out-positive"


@dataclass(frozen=True, slots=True)
class Value:
    """A number with its standard uncertainty, both in the same unit.

    ``value`` and ``u`` are scalars in [mm], [cm3] or [1], as the name that holds them says; u >= 0. ``freedom``:
    degrees of freedom of u [1], over 0; infinite unless u was estimated from a few readings. For a batch of engines
    each may be an array, shape (m,), and so are all results.
    """

    value: float
    u: float = 0.0
    freedom: float = math.inf

    @property
    def expanded(self) -> float:
        """Expanded uncertainty U = k u, in the same unit; k = 2, more for few degrees of freedom."""
        if isinstance(self.freedom, np.ndarray):
            many: float = coverages(self.freedom) * self.u
            return many
        return self.u * (2.0 if self.freedom == math.inf else coverage(self.freedom))

    @property
    def fourth(self) -> float:
        """u^4 over its degrees of freedom, in the same unit to the fourth (Welch-Satterthwaite)."""
        return self.u**4 / self.freedom

    def __add__(self, other: "Value") -> "Value":
        """Sum of two independent values: u in quadrature (GUM 5.1.2), freedom by G.4."""
        return of_variance(self.value + other.value, self.u * self.u + other.u * other.u, self.fourth + other.fourth)

    def scaled(self, factor: float) -> "Value":
        """The value times an exactly known factor, in the same unit times that of the factor."""
        return Value(self.value * factor, abs(factor) * self.u, self.freedom)


def of_variance(value: float, variance: float, fourth: float) -> Value:
    """Return a value of summed variances: ``variance`` of u^2, ``fourth`` of u^4 / freedom.

    Source: GUM G.4. Both in the same unit as the value, squared and to the fourth.
    """
    if isinstance(variance, np.ndarray) or isinstance(fourth, np.ndarray):
        return _of_variances(value, variance, fourth)
    return Value(value, math.sqrt(max(variance, 0.0)), variance * variance / fourth if fourth > 0 else math.inf)


def _of_variances(value: Any, variance: Any, fourth: Any) -> Value:
    variance = np.maximum(variance, 0.0)
    with np.errstate(divide="ignore", invalid="ignore"):
        freedom: Any = np.where(np.asarray(fourth) > 0, variance * variance / fourth, np.inf)
    return Value(value, np.sqrt(variance), freedom)


def mean_of_repeats(values: Sequence[float], u: float) -> Value:
    """Return the mean of repeats with its standard deviation, in the caller's unit.

    ``u``: the uncertainty common to all of them, in the same unit. Source: GUM 4.2.3.
    """
    count = len(values)
    scatter = float(np.std(values, ddof=1)) / math.sqrt(count) if count > 1 else 0.0
    return Value(float(np.mean(values)), math.hypot(u, scatter))


def rectangular(half_width: float) -> float:
    """Return the standard uncertainty of +- ``half_width``, same unit (GUM 4.3.7)."""
    return half_width / math.sqrt(3)


def resolution_u(step: float) -> float:
    """Return the standard uncertainty of a scale of this ``step``, same unit (GUM F.2.2.1)."""
    return step / math.sqrt(12)
