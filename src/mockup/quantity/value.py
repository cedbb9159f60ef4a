"""Units, and values that carry a standard uncertainty.

The core works in millimetres. Inches exist only in this package, where a person types or reads.

Sources: 1 in = 25.4 mm exactly (international yard and pound agreement, 1959). Standard uncertainty u,
expanded uncertainty U = 2u, type B rectangular distributions: GUM, JCGM 100:2008, 4.3.7 and 6.2.
"""

import math
from dataclasses import dataclass
from enum import StrEnum

MM_PER_INCH = 25.4
MM_PER_THOU = 0.0254
COVERAGE_FACTOR = 2.0


class Unit(StrEnum):
    """The unit a build is kept in: what a plain number means, and what is shown first."""

    INCH = "in"
    MILLIMETRE = "mm"


BENCH_UNIT = {Unit.INCH: "thou", Unit.MILLIMETRE: "mm"}
"""What bench lengths are counted in, in a build kept in inches or millimetres."""


class DeckSign(StrEnum):
    """Which school a signed deck figure follows; it changes words on the screen, never a result."""

    DOWN_POSITIVE = "down-positive"
    OUT_POSITIVE = "out-positive"


@dataclass(frozen=True, slots=True)
class Value:
    """A number with its standard uncertainty, both in the same unit.

    ``value`` and ``u`` are scalars in [mm], [cm3] or [1] as the name that holds them says; u >= 0.
    """

    value: float
    u: float = 0.0

    @property
    def expanded(self) -> float:
        """Expanded uncertainty U = 2u, same unit."""
        return COVERAGE_FACTOR * self.u

    def __add__(self, other: "Value") -> "Value":
        """Sum of two independent values: u adds in quadrature (GUM 5.1.2)."""
        return Value(self.value + other.value, math.hypot(self.u, other.u))

    def scaled(self, factor: float) -> "Value":
        """The value times an exactly known factor."""
        return Value(self.value * factor, abs(factor) * self.u)


def rectangular(half_width: float) -> float:
    """Standard uncertainty of a quantity known only to lie within +- ``half_width`` (GUM 4.3.7)."""
    return half_width / math.sqrt(3)


def resolution_u(step: float) -> float:
    """Standard uncertainty of reading a scale of the given ``step`` (GUM F.2.2.1)."""
    return step / math.sqrt(12)
