"""How typing becomes a rise of temperature [K], a mass [g] or an area [mm2]."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal

from mockup.quantity.typed import LONGEST_TYPING, LengthError, decimal_point
from mockup.quantity.value import MM_PER_INCH, Unit

_TYPED = re.compile(r"^(?P<number>[0-9]+(?:\.[0-9]*)?|\.[0-9]+)\s*(?P<unit>[^0-9\s].*)?$")


@dataclass(frozen=True, slots=True)
class Quantity:
    """A quantity that is typed and shown in units of its own.

    ``words``: its name in messages. ``factors``: how much one of each unit is in the core's unit. ``plain``: the unit
    of a plain number, by the build's unit.
    """

    words: str
    factors: Mapping[str, float]
    plain: Mapping[Unit, str]

    def parse(self, text: str, unit: Unit) -> float:
        """Read ``117`` or ``65 K``.

        Returns a scalar >= 0 in the core's unit, [K], [g] or [mm2]. Raises LengthError.
        """
        cleaned = " ".join(text.strip().lower().split())
        found = _TYPED.match(decimal_point(cleaned)) if len(cleaned) <= LONGEST_TYPING else None
        if found is None:
            raise LengthError(f"“{text.strip()[:LONGEST_TYPING]}” is not {self.words}. {self._how(unit)}")
        factor = self.factors.get(found["unit"].strip() if found["unit"] else self.plain[unit].lower())
        if factor is None:
            raise LengthError(f"“{found['unit']}” is not a unit known here. {self._how(unit)}")
        return float(Decimal(found["number"])) * factor

    def format(self, value: float, unit: Unit) -> str:
        """Return a value in the core's unit as typed in the build's: ``117 °F``."""
        name = self.plain[unit]
        return f"{float(f'{value / self.factors[name.lower()]:.4g}'):g} {name}"

    def range_words(self, low: float, high: float) -> str:
        """Return a range in the units of both builds: ``0 to 300 K (0 to 540 °F)``."""
        plain, other = (self.format(high, unit) for unit in (Unit.MILLIMETRE, Unit.INCH))
        ends = [self.format(low, unit).partition(" ")[0] for unit in (Unit.MILLIMETRE, Unit.INCH)]
        return f"{ends[0]} to {plain} ({ends[1]} to {other})"

    def _how(self, unit: Unit) -> str:
        others = ", ".join(sorted({*self.plain.values()} - {self.plain[unit]}))
        return f"Type a number of {self.plain[unit]}, or one with its unit ({others})."


RISE = Quantity(
    words="a rise of temperature",
    factors={
        "k": 1.0, "°c": 1.0, "c": 1.0, "°f": 5 / 9, "f": 5 / 9,
    },
    plain={Unit.INCH: "°F", Unit.MILLIMETRE: "K"},
)  # fmt: skip
"""A rise of temperature [K]. A degree Fahrenheit is 5/9 K exactly."""
MASS = Quantity(
    words="a mass",
    factors={"g": 1.0, "kg": 1000.0, "oz": 28.349523125, "lb": 453.59237},
    plain={Unit.INCH: "oz", Unit.MILLIMETRE: "g"},
)
"""A mass [g]. The avoirdupois pound is 453.59237 g exactly, an ounce a sixteenth of it."""
AREA = Quantity(
    words="an area",
    factors={
        "mm²": 1.0, "mm2": 1.0, "sq mm": 1.0,
        **dict.fromkeys(("sq in", "in²", "in2", "sq. in"), MM_PER_INCH**2),
    },
    plain={Unit.INCH: "sq in", Unit.MILLIMETRE: "mm²"},
)  # fmt: skip
"""A cross-section [mm2]."""
