"""How typing becomes a crank angle.

The letters are required: a bare number could be either side of TDC.
"""

import re

from mockup.quantity.typed import LONGEST_TYPING, LengthError, parse_degrees

_WORDS = {
    "btdc": "BTDC", "before": "BTDC", "before tdc": "BTDC", "b": "BTDC",
    "atdc": "ATDC", "after": "ATDC", "after tdc": "ATDC", "a": "ATDC",
    "bbdc": "BBDC", "before bdc": "BBDC", "bb": "BBDC",
    "abdc": "ABDC", "after bdc": "ABDC", "ab": "ABDC",
}  # fmt: skip
_SHAPE = re.compile(r"^(?P<number>[0-9.,]+)\s*(?:°|deg)?\s*(?P<words>[a-z ]*)$")


def parse_crank_angle(text: str, bdc_deg: float) -> float:
    """Read a crank angle about overlap TDC: ``12 BTDC``, ``68 ATDC``, ``54 ABDC``, ``zero``.

    ``bdc_deg``: which BDC is meant, 180 for an intake, -180 for an exhaust [deg]. Returns a scalar [deg], -360 to 360.
    Raises LengthError, also on a bare number, whose side of TDC is unknown.
    """
    cleaned = " ".join(text.strip().lower().split())
    if cleaned in ("zero", "0", "tdc"):
        return 0.0
    found = _SHAPE.match(cleaned) if len(cleaned) <= LONGEST_TYPING else None
    if found is None:
        raise LengthError(f"“{text.strip()}” is not a crank angle. Type it as in 12 BTDC, 68 ATDC or 54 ABDC.")
    words = _WORDS.get(found["words"].strip())
    if words is None:
        raise LengthError("Before or after, TDC or BDC? Type it as in 12 BTDC, 68 ATDC or 54 ABDC.")
    degrees = parse_degrees(found["number"])
    if degrees > 360:
        raise LengthError("A crank angle lies within a turn: 0 to 360 either side.")
    angle = {"BTDC": -degrees, "ATDC": degrees, "BBDC": bdc_deg - degrees, "ABDC": bdc_deg + degrees}[words]
    if not -360 <= angle <= 360:
        raise LengthError("That lies further than a turn from overlap TDC.")
    return angle


def format_crank_angle(degrees: float) -> str:
    """A signed crank angle as cards print it: ``12 BTDC``, ``146 ATDC``, beyond BDC ``54 ABDC``."""
    if abs(degrees) < 180:
        return _worded(degrees, "TDC")
    return _worded(degrees - (180 if degrees > 0 else -180), "BDC")


def _worded(degrees: float, point: str) -> str:
    shown = f"{abs(degrees):.1f}".removesuffix(".0")
    return point if shown == "0" else f"{shown} {'A' if degrees > 0 else 'B'}{point}"
