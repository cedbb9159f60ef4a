"""How lengths and volumes are shown: thou to the tenth, mm to the hundredth."""

import math
from decimal import ROUND_CEILING, ROUND_FLOOR, ROUND_HALF_EVEN, Decimal

from mockup.quantity.value import BENCH_UNIT, INCH_MM, MM_PER_INCH, MM_PER_THOU, DeckSign, Unit


def _rounded(value: float, places: int, rounding: str = ROUND_HALF_EVEN) -> Decimal:
    return Decimal(repr(value)).quantize(Decimal(1).scaleb(-places), rounding=rounding)


def _thou_text(thou: Decimal) -> str:
    text = f"{abs(thou):.1f}"
    return text.removesuffix(".0")


def _minus(number: Decimal) -> str:
    return "−" if number < 0 else ""


def format_bench(mm: float, unit: Unit) -> str:
    """Format a bench length: thou to the tenth in an inch build, mm to the hundredth otherwise."""
    if unit is Unit.INCH:
        thou = _rounded(mm / MM_PER_THOU, 1)
        return _minus(thou) + _thou_text(thou)
    rounded = _rounded(mm, 2)
    return f"{_minus(rounded)}{abs(rounded):.2f}"


def bench_text(mm: float, unit: Unit) -> str:
    """Format a bench length with its unit: ``36 thou``, ``0.91 mm``."""
    return f"{format_bench(mm, unit)} {BENCH_UNIT[unit]}"


def along_text(front_mm: float, rear_mm: float, unit: Unit) -> str:
    """Format an amount at first and last bore [mm]: ``5 thou``, ``4 front, 6 rear thou``."""
    front, rear = format_bench(abs(front_mm), unit), format_bench(abs(rear_mm), unit)
    name = BENCH_UNIT[unit]
    return f"{front} {name}" if front == rear else f"{front} front, {rear} rear {name}"


def format_expanded(mm: float, unit: Unit) -> str:
    """Format an expanded uncertainty, rounded up so that it never looks smaller than it is."""
    step = Decimal("0.5") if unit is Unit.INCH else Decimal("0.01")
    exact = Decimal(repr(mm)) / Decimal(repr(MM_PER_THOU if unit is Unit.INCH else 1.0))
    steps = (exact / step - Decimal("1e-9")).to_integral_value(rounding=ROUND_CEILING)
    shown = max(steps, Decimal(0)) * step
    return _thou_text(shown) if unit is Unit.INCH else f"{shown:.2f}"


def format_margin(mm: float, unit: Unit) -> str:
    """Format a margin with its sign, rounded down so that a short never looks level."""
    if unit is Unit.INCH:
        # 1e-6 mm is the slack of every comparison; without it 0.1 - 0.08 would print as 19.9.
        thou = _rounded((mm + 1e-6) / MM_PER_THOU, 1, ROUND_FLOOR)
        return ("−" if thou < 0 else "+") + _thou_text(thou)
    rounded = _rounded(mm + 1e-6, 2, ROUND_FLOOR)
    return ("−" if rounded < 0 else "+") + f"{abs(rounded):.2f}"


def format_both(mm: float, unit: Unit) -> str:
    """Format a bench length in both units, the build's own first: ``0.1120 in · 2.845 mm``."""
    inches, metric = _rounded(mm / MM_PER_INCH, 4), _rounded(mm, 3)
    shown = (f"{_minus(inches)}{abs(inches):.4f} in", f"{_minus(metric)}{abs(metric):.3f} mm")
    return " · ".join(shown if unit is Unit.INCH else reversed(shown))


def format_growth(mm: float, unit: Unit) -> str:
    """Format a growth when hot in both units: ``more by 0.004 in · 0.102 mm``."""
    return f"{'less' if mm < 0 else 'more'} by {format_both(abs(mm), unit)}"


def mm_range(low: float, high: float) -> str:
    """Return a range [mm] in both units: ``0.2 to 200 mm (0.008 to 7.87 in)``."""
    both = _inches(high) if not low else f"{_inches(low)} to {_inches(high)}"
    return f"{round(low, 2):g} to {round(high, 2):g} mm ({both} in)".replace("-", "−")


def mm_text(mm: float) -> str:
    """Return one length [mm] in both units: ``10 mm (0.394 in)``."""
    return f"{round(mm, 2):g} mm ({_inches(mm)} in)"


def _inches(mm: float) -> str:
    inches = mm / MM_PER_INCH
    return f"{inches:.3f}" if inches < 1 else f"{inches:.2f}"


def format_dimension(mm: float, unit: Unit) -> str:
    """Format a large length in the build's unit: ``3.750`` or ``95.25``."""
    return f"{_rounded(mm / MM_PER_INCH, 3)}" if unit is Unit.INCH else f"{_rounded(mm, 2)}"


def format_large(mm: float, unit: Unit) -> str:
    """Format a length too large for thou, with sign and unit: ``7.400 in``, ``187.96 mm``."""
    return f"{_minus(Decimal(repr(mm)))}{format_dimension(abs(mm), unit)} {unit}"


def format_dimension_expanded(mm: float, unit: Unit) -> str:
    """Format the U of a large length in the same unit, rounded up: ``0.0065`` in, ``0.17`` mm."""
    places = 4 if unit is Unit.INCH else 2
    exact = Decimal(repr(mm / MM_PER_INCH if unit is Unit.INCH else mm))
    step = Decimal(1).scaleb(-places)
    steps = (exact / step - Decimal("1e-9")).to_integral_value(rounding=ROUND_CEILING)
    return f"{abs(max(steps, Decimal(0))) * step:.{places}f}"


def format_ratio_margin(ratio: float) -> str:
    """Format the margin of a ratio with its sign, rounded down so that a short shows."""
    hundredths = math.floor(ratio * 100 + 1e-9)
    return f"{hundredths / 100:+.2f}".replace("-", "−")


def format_exact(mm: float, unit: Unit) -> str:
    """Format a length with its unit so exactly that it reads back as the same length."""
    if unit is Unit.INCH:
        return _plain(Decimal(repr(mm)) / INCH_MM, 20) + " in"
    return _plain(Decimal(repr(mm)), 10) + " mm"


def _plain(number: Decimal, places: int) -> str:
    text = f"{number.quantize(Decimal(1).scaleb(-places)):f}".rstrip("0").rstrip(".")
    return text if text not in ("", "-0", "-") else "0"


def format_deck(mm: float, unit: Unit) -> str:
    """Format a deck clearance in words: ``6 down``, ``2 out``, ``zero``."""
    words = format_bench(abs(mm), unit)
    if not float(words):
        return "zero"
    return f"{words} {'down' if mm > 0 else 'out'}"


def format_deck_signed(mm: float, unit: Unit, sign: DeckSign) -> str:
    """Format a deck clearance as a signed number in the build's sign convention."""
    shown = mm if sign is DeckSign.DOWN_POSITIVE else -mm
    text = format_bench(shown, unit)
    return text if text.startswith("−") or not float(text) else f"+{text}"


def format_volume(cc: float) -> str:
    """Format a volume to the tenth of a cm3."""
    return f"{_rounded(cc, 1)}"


def volume_text(cc: float) -> str:
    """Return a volume [cm3] with its unit: ``62.4 cc``."""
    rounded = _rounded(cc, 1)
    return f"{_minus(rounded)}{abs(rounded)} cc"


def cc_text(cc: float) -> str:
    """Return a volume [cm3] as it was entered, with its unit: ``0.25 cc``."""
    return f"{cc:g} cc"


def plain_mm_text(mm: float, places: int | None = None) -> str:
    """Return a length [mm] in millimetres: ``12.5 mm`` as entered, or to so many places."""
    return f"{mm:g} mm" if places is None else f"{mm:.{places}f} mm"


def example_text(mm: float, unit: Unit, *, big: bool) -> str:
    """Return how to type a length [mm], as an example in the build's unit and in the other one."""
    metric, inches = f"{round(mm, 2):g}", f"{mm / MM_PER_INCH:.3f}".lstrip("0")
    if unit is Unit.MILLIMETRE:
        return f"as {metric} or {inches} in"
    return f"as {inches} in or {metric}mm" if big else f"as {mm / MM_PER_THOU:g}, {inches} or {metric}mm"


def format_piston_volume(cc: float) -> str:
    """Format a piston volume in words: ``dish 5.2 cc``, ``dome 11.0 cc``, ``flat``."""
    if not float(format_volume(cc)):
        return "flat"
    return f"{'dish' if cc > 0 else 'dome'} {format_volume(abs(cc))} cc"


def format_degrees(degrees: float) -> str:
    """Format an angle to the tenth of a degree."""
    rounded = _rounded(degrees, 1)
    return f"{_minus(rounded)}{abs(rounded):.1f}".removesuffix(".0") + "°"
