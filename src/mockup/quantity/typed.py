"""How a person's typing becomes a length, a deck clearance or a volume; what is unclear is asked about."""

import re
from dataclasses import dataclass
from decimal import Decimal

from mockup.quantity.value import DeckSign, Unit

LONGEST_TYPING = 40
"""Characters of a typed length that are looked at; longer typing is refused, not cut."""


class LengthError(ValueError):
    """Typing that is not a length, with words for the person who typed it."""


_NUMBER = re.compile(
    r"""^(?P<sign>[+\-−]?)\s*
        (?P<number>[0-9]+(?:\.[0-9]*)?|\.[0-9]+)\s*
        (?P<unit>"|''|[a-z]*)\.?$""",
    re.VERBOSE,
)
_UNIT_WORDS = {
    "mm": Decimal(1),
    "millimetre": Decimal(1),
    "millimetres": Decimal(1),
    "in": Decimal("25.4"),
    "inch": Decimal("25.4"),
    "inches": Decimal("25.4"),
    '"': Decimal("25.4"),
    "''": Decimal("25.4"),
    "thou": Decimal("0.0254"),
    "cm": Decimal(10),
}


@dataclass(frozen=True, slots=True)
class _Typed:
    """A typed number taken apart: sign ('', '+' or '-'), digits as typed, factor to mm or None."""

    sign: str
    number: Decimal
    per_mm: Decimal | None
    below_one: bool


def _take_apart(text: str) -> _Typed:
    cleaned = text.strip().lower()
    if not cleaned:
        raise LengthError("Nothing typed yet.")
    if len(cleaned) > LONGEST_TYPING:
        raise LengthError("That is too long for one length.")
    if "," in cleaned:
        raise LengthError("Use a point for decimals, as in 2.84, and no comma.")
    found = _NUMBER.match(cleaned)
    if found is None:
        raise LengthError(f"“{text.strip()}” is not a length. Type a number, or a number with mm, in or thou.")
    unit = found["unit"]
    if unit and unit not in _UNIT_WORDS:
        raise LengthError(f"“{unit}” is not a unit known here. Use mm, in or thou.")
    number = Decimal(found["number"])
    sign = found["sign"].replace("−", "-")
    return _Typed(sign, number, _UNIT_WORDS.get(unit), number < 1 and "." in found["number"])


def _millimetres(number: Decimal, per_mm: Decimal) -> float:
    return float(number * per_mm)


def parse_bench_length(text: str, unit: Unit) -> float:
    """Read a bench number (clearance, gasket, lash) as a length.

    In an inch build ``112`` is 0.112 in, ``11.5`` is 0.0115 in, ``.112`` and ``0.112`` are inches. In a
    metric build plain numbers are millimetres. A unit that is typed (``2.84mm``) always holds.

    Returns a scalar >= 0 [mm]. Raises LengthError, in words, on anything else.
    """
    typed = _take_apart(text)
    if typed.sign == "-" and typed.number:
        raise LengthError("This length cannot be negative.")
    return _bench_mm(typed, unit)


def _bench_mm(typed: _Typed, unit: Unit) -> float:
    if typed.per_mm is not None:
        return _millimetres(typed.number, typed.per_mm)
    if unit is Unit.MILLIMETRE:
        return float(typed.number)
    return _millimetres(typed.number, Decimal("25.4") if typed.below_one else Decimal("0.0254"))


def parse_dimension(text: str, unit: Unit) -> float:
    """Read a large length (bore, stroke, rod): a plain number is inches or mm as the build is kept.

    Returns a scalar >= 0 [mm]. Raises LengthError.
    """
    typed = _take_apart(text)
    if typed.sign == "-" and typed.number:
        raise LengthError("This length cannot be negative.")
    plain = Decimal("25.4") if unit is Unit.INCH else Decimal(1)
    return _millimetres(typed.number, typed.per_mm or plain)


_DOWN_WORDS = ("down", "below", "in the hole", "in hole")
_OUT_WORDS = ("out of the hole", "out", "up", "above", "proud")
_ZERO_WORDS = ("zero", "level", "flush", "zero deck")


def parse_deck(text: str, unit: Unit, sign: DeckSign) -> float:
    """Read a deck clearance: ``5 out``, ``11 down``, ``zero``, or a signed number of the build's school.

    Returns a scalar [mm], positive in the hole (crown below the deck). Raises LengthError: on a bare
    number (which way is not said) and on the bare word "in", which could be inches.
    """
    cleaned = " ".join(text.strip().lower().split())
    if cleaned in _ZERO_WORDS:
        return 0.0
    for words, factor in ((_DOWN_WORDS, 1.0), (_OUT_WORDS, -1.0)):
        for word in words:
            if cleaned.endswith(word) and len(cleaned) > len(word):
                return factor * parse_bench_length(cleaned[: -len(word)], unit)
    typed = _take_apart(cleaned)
    if not typed.number:
        return 0.0
    if cleaned.endswith("in"):
        raise LengthError("“in” could be inches or in the hole. Type down or out, as in 5 down.")
    if not typed.sign:
        raise LengthError("Which way? Type down (in the hole) or out, as in 5 down.")
    positive_down = 1.0 if sign is DeckSign.DOWN_POSITIVE else -1.0
    return positive_down * (-1.0 if typed.sign == "-" else 1.0) * _bench_mm(typed, unit)


def parse_volume(text: str) -> float:
    """Read a volume of fluid, as in ``62.4`` or ``62.4 cc``.

    Returns a scalar >= 0 [cm3]. Raises LengthError.
    """
    cleaned = text.strip().lower()
    for word in ("cc", "cm3", "cm³", "ml"):
        cleaned = cleaned.removesuffix(word).strip()
    found = _NUMBER.match(cleaned) if len(cleaned) <= LONGEST_TYPING and "," not in cleaned else None
    if found is None or found["unit"] or (found["sign"] not in ("", "+") and float(found["number"])):
        raise LengthError(f"“{text.strip()}” is not a volume. Type cubic centimetres, as in 62.4 cc.")
    return float(Decimal(found["number"]))


_PISTON_WORDS = {"dish": 1.0, "dome": -1.0}


def parse_piston_volume(text: str) -> float:
    """Read a piston's effective volume: ``dish 5.2 cc``, ``dome 11 cc`` or ``flat``; never a sign.

    Returns a scalar [cm3], positive where it adds to the clearance volume (dish, reliefs). Raises LengthError.
    """
    cleaned = " ".join(text.strip().lower().split())
    if cleaned in ("flat", "zero"):
        return 0.0
    for word, factor in _PISTON_WORDS.items():
        if word in cleaned:
            return factor * parse_volume(cleaned.replace(word, ""))
    raise LengthError("Say which: dish 5.2 cc (adds volume), dome 11 cc (takes it away) or flat.")
