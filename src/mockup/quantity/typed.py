"""How typing becomes a length, a volume or an angle. Ambiguous typing is asked about."""

import re
from dataclasses import dataclass
from decimal import Decimal

from mockup.quantity.value import INCH_MM, Unit

LONGEST_TYPING = 40
"""The longest typed length that is parsed [characters]; longer typing is refused, not cut."""


class LengthError(ValueError):
    """Typing that is not a length, with a message for the person who typed it."""


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
    "in": INCH_MM,
    "inch": INCH_MM,
    "inches": INCH_MM,
    '"': INCH_MM,
    "''": INCH_MM,
    "thou": Decimal("0.0254"),
    "cm": Decimal(10),
}


_COMMA = re.compile(r"(?<![0-9.,])(?P<whole>[0-9]*),(?P<part>[0-9]+)(?![0-9.,])")


def decimal_point(text: str) -> str:
    """Return a typed number with its decimal comma as a point.

    Raises LengthError where the comma could part thousands (``1,104``), and where there is more than one mark.
    """
    if "," not in text:
        return text
    found = _COMMA.search(text)
    if found is None or text.count(",") > 1 or "." in text:
        raise LengthError(f"“{text.strip()}”: use one decimal point or one comma, as in 2.84 or 2,84.")
    whole, part = found["whole"], found["part"]
    if len(part) == 3 and 1 <= len(whole) <= 3 and not whole.startswith("0"):
        raise LengthError(f"“{text.strip()}”: is that {whole}.{part} or {whole}{part}? Type it without a comma.")
    return text.replace(",", ".")


@dataclass(frozen=True, slots=True)
class Typed:
    """The parts of a typed number: sign ('', '+' or '-'), digits as typed, factor to mm or None."""

    sign: str
    number: Decimal
    per_mm: Decimal | None
    below_one: bool


def take_apart(text: str) -> Typed:
    """Split a typed number into its parts. Raises LengthError if it is not one."""
    cleaned = text.strip().lower()
    if not cleaned:
        raise LengthError("Nothing typed yet.")
    if len(cleaned) > LONGEST_TYPING:
        raise LengthError("That is too long for one length.")
    found = _NUMBER.match(decimal_point(cleaned))
    if found is None:
        raise LengthError(f"“{text.strip()}” is not a length. Type a number, or a number with mm, in or thou.")
    unit = found["unit"]
    if unit and unit not in _UNIT_WORDS:
        raise LengthError(f"“{unit}” is not a unit known here. Use mm, in or thou.")
    number = Decimal(found["number"])
    sign = found["sign"].replace("−", "-")
    return Typed(sign, number, _UNIT_WORDS.get(unit), number < 1 and "." in found["number"])


def _millimetres(number: Decimal, per_mm: Decimal) -> float:
    return float(number * per_mm)


def parse_bench_length(text: str, unit: Unit) -> float:
    """Read a bench number (clearance, gasket, lash) as a length.

    In an inch build ``112`` is 0.112 in, ``11.5`` is 0.0115 in, ``.112`` and ``0.112`` are inches. In a
    metric build plain numbers are millimetres. A unit that is typed (``2.84mm``) always holds.

    Returns a scalar >= 0 [mm]. Raises LengthError, in words, on anything else.
    """
    typed = take_apart(text)
    if typed.sign == "-" and typed.number:
        raise LengthError("This length cannot be negative.")
    return bench_mm(typed, unit)


THINNEST_INCHES = 0.2
"""A feeler or an accuracy in inches is never larger than this: our own bound."""


def parse_fine_length(text: str, unit: Unit) -> float:
    """Read a length that is always small: ``.011`` is inches, ``0.5`` is half a thou.

    Returns a scalar >= 0 [mm]. Raises LengthError.
    """
    typed = take_apart(text)
    if unit is Unit.INCH and typed.per_mm is None and typed.below_one and typed.number > THINNEST_INCHES:
        return parse_bench_length(f"{text} thou", unit)
    return parse_bench_length(text, unit)


def parse_growth(text: str, unit: Unit) -> float:
    """Read a growth when hot: ``+4 hot``, ``4``, ``-2``; without a sign it grows.

    Returns a scalar [mm]. Raises LengthError.
    """
    cleaned = text.strip().lower().removesuffix("hot").strip()
    typed = take_apart(cleaned)
    return (-1.0 if typed.sign == "-" else 1.0) * bench_mm(typed, unit)


def bench_mm(typed: Typed, unit: Unit) -> float:
    """Return a typed bench number as a length, ignoring its sign [mm]."""
    if typed.per_mm is not None:
        return _millimetres(typed.number, typed.per_mm)
    if unit is Unit.MILLIMETRE:
        return float(typed.number)
    return _millimetres(typed.number, INCH_MM if typed.below_one else Decimal("0.0254"))


def parse_dimension(text: str, unit: Unit) -> float:
    """Read a large length (bore, stroke, rod) in the build's unit, inches or mm.

    Returns a scalar >= 0 [mm]. Raises LengthError.
    """
    typed = take_apart(text)
    if typed.sign == "-" and typed.number:
        raise LengthError("This length cannot be negative.")
    plain = INCH_MM if unit is Unit.INCH else Decimal(1)
    return _millimetres(typed.number, typed.per_mm or plain)


def split_lengths(text: str) -> list[str]:
    """Split a list of lengths at ``;`` or a comma with a blank.

    Where no units are typed, blanks part them too.
    """
    plain = not any(character.isalpha() or character == '"' for character in text)
    return [part.strip() for part in re.split(r"[;\n]|,\s+" + (r"|\s+" if plain else ""), text) if part.strip()]


def parse_window(text: str, unit: Unit, *, is_length: bool) -> tuple[float, float]:
    """Read a window given by its middle, ``52 ± 3``, or by its ends, ``49 to 55``.

    Returns both ends, lengths [mm] or plain numbers [1]. Raises LengthError.
    """
    read = (lambda part: parse_bench_length(part, unit)) if is_length else _plain_number
    aim = re.split(r"±|\+\s*/?\s*-|\+−", text)
    if len(aim) == 2:
        middle, either_way = read(aim[0]), read(aim[1])
        return middle - either_way, middle + either_way
    ends = re.split(r"\bto\b|–", text)
    if len(ends) == 2:
        return read(ends[0]), read(ends[1])
    raise LengthError("Type the aim and how far either way, as in 52 ± 3 (or 52 +- 3), or both ends, as in 49 to 55.")


def _plain_number(text: str) -> float:
    found = _NUMBER.match(decimal_point(text.strip()))
    if found is None or found["unit"] or found["sign"] == "-":
        raise LengthError(f"“{text.strip()}” is not a number. Type it as in 9.5.")
    return float(Decimal(found["number"]))


def parse_share(text: str) -> float:
    """Read a share in percent, as in ``3 %`` or ``3``.

    Returns a scalar >= 0 [1]. Raises LengthError.
    """
    return _plain_number(text.strip().removesuffix("%")) / 100


def parse_volume(text: str) -> float:
    """Read a volume of fluid: ``62.4``, ``62.4 cc``, or several fills: ``50 + 12.4``.

    Returns a scalar >= 0 [cm3]. Raises LengthError.
    """
    if len(text.strip()) > LONGEST_TYPING:
        raise LengthError("That is too long for one volume.")
    return float(sum(_one_fill(part, text) for part in text.split("+")))


_A_RANGE = re.compile(r"(?P<low>[0-9]+(?:\.[0-9]*)?|\.[0-9]+)\s*(?:\bto\b|–)\s*(?P<high>[0-9]+(?:\.[0-9]*)?|\.[0-9]+)")


def _middle_of(found: re.Match[str]) -> str:
    low, high = Decimal(found["low"]), Decimal(found["high"])
    if low >= high:
        raise LengthError("The smaller volume of a range comes first, as in 2 to 5.")
    return f"{(low + high) / 2} ± {(high - low) / 2} "


def parse_known_to(text: str) -> tuple[str, float]:
    """Return a volume's text without its ± part, and that part's value [cm3], 0 without one.

    A guess as a range, ``2 to 5`` or ``dish 2 to 5 cc``, is its middle, known to half its width. Raises LengthError.
    """
    text = _A_RANGE.sub(_middle_of, text)
    parts = re.split(r"±|\+\s*/?\s*-|\+−", text)
    if len(parts) > 2:
        raise LengthError("One ± at most, as in 62.4 ± 0.2.")
    if len(parts) == 1:
        return text, 0.0
    known_to = parse_volume(parts[1])
    if not known_to:
        raise LengthError("A volume is never known exactly. Type it as in 62.4 ± 0.2, or leave the ± out.")
    return parts[0], known_to


def _one_fill(part: str, text: str) -> Decimal:
    cleaned = part.strip().lower()
    for word in ("cc", "cm3", "cm³", "ml"):
        cleaned = cleaned.removesuffix(word).strip()
    found = _NUMBER.match(decimal_point(cleaned))
    if found is None or found["unit"] or (found["sign"] and float(found["number"])):
        raise LengthError(f"“{text.strip()}” is not a volume. Type cubic centimetres, as in 62.4 or 50 + 12.4.")
    return Decimal(found["number"])


_PISTON_WORDS = {"dish": 1.0, "dome": -1.0}


def parse_piston_volume(text: str) -> float:
    """Read a piston's volume: ``dish 5.2 cc``, ``dome 11 cc`` or ``flat``; never a sign.

    Returns a scalar [cm3], positive where it adds to the clearance volume (dish, reliefs). Raises LengthError.
    """
    cleaned = " ".join(text.strip().lower().split())
    if cleaned in ("flat", "zero"):
        return 0.0
    for word, factor in _PISTON_WORDS.items():
        if word in cleaned:
            return factor * parse_volume(cleaned.replace(word, ""))
    raise LengthError("Say which: dish 5.2 cc (adds volume), dome 11 cc (takes it away) or flat.")


@dataclass(frozen=True, slots=True)
class PistonTyped:
    """A piston's volume as typed [cm3]: its own, or the fluid over it at ``depth_mm`` [mm]."""

    cc: float
    depth_mm: float = 0.0


def parse_piston(text: str, unit: Unit) -> PistonTyped:
    """Read a piston's volume, or the fluid over it down its bore: ``48.2 at .300``.

    Raises LengthError.
    """
    fluid, at, depth = text.strip().lower().partition(" at ")
    if not at:
        return PistonTyped(parse_piston_volume(text))
    depth_mm = parse_bench_length(depth.removesuffix("down"), unit)
    if not depth_mm:
        raise LengthError("Say how far down the piston stood, as in 48.2 at .300 in or 48.2 at 7.5 mm.")
    return PistonTyped(parse_volume(fluid), depth_mm)


def parse_degrees(text: str) -> float:
    """Read an angle, as in ``27.5`` or ``27.5°``.

    Returns a scalar >= 0 [deg]. Raises LengthError.
    """
    cleaned = text.strip().lower().removesuffix("°").removesuffix("deg").strip()
    found = _NUMBER.match(decimal_point(cleaned)) if len(cleaned) <= LONGEST_TYPING else None
    if found is None or found["unit"] or (found["sign"] not in ("", "+") and float(found["number"])):
        raise LengthError(f"“{text.strip()}” is not an angle. Type degrees, as in 27.5.")
    return float(Decimal(found["number"]))


def parse_firing_order(text: str) -> tuple[int, ...]:
    """Read a firing order: ``1-5-3-6-2-4`` or ``1 5 3 6 2 4``; empty text is an empty one.

    Returns cylinder numbers, shape (n,). Raises LengthError.
    """
    parts = re.split(r"[\s,\-–]+", text.strip()) if text.strip() else []
    if not all(re.fullmatch(r"[0-9]{1,2}", part) for part in parts):
        raise LengthError("Type the cylinders in firing order, as in 1-5-3-6-2-4.")
    return tuple(int(part) for part in parts)
