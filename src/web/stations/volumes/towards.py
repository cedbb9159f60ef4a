"""Towards a wanted ratio: what any one part would be, and what a unit is worth."""

from collections.abc import Mapping
from dataclasses import dataclass

from mockup.plans.ratio_solver import Solved, Unknown, ratio_from_intake_closing, solve_ratio
from mockup.quantity.shown import format_bench, format_deck, format_piston_volume, volume_text
from mockup.quantity.value import BENCH_UNIT, MM_PER_THOU, Unit
from mockup.report import Report

PART_CC = 1.0
STEP_MM = {Unit.INCH: MM_PER_THOU, Unit.MILLIMETRE: 0.1}
STEP_WORDS = {Unit.INCH: "a thou", Unit.MILLIMETRE: "0.1 mm"}


@dataclass(frozen=True, slots=True)
class TowardsRow:
    """One part: what it is, what it would have to be, and what one more of it does to the ratio."""

    part: str
    now: str
    wanted: str
    gain: str


@dataclass(frozen=True, slots=True)
class Towards:
    """The whole panel: what was asked, the answer for one cylinder, or why not."""

    ratio: str
    closes: str
    cylinder: int
    lines: tuple[TowardsRow, ...]
    from_closing: str
    wrong: str = ""


def towards(query: Mapping[str, str], report: Report) -> Towards:
    """The panel: ``ratio`` wanted, ``closes`` [deg after BDC], ``of`` a cylinder."""
    ratio, closes = query.get("ratio", "").strip(), query.get("closes", "").strip()
    known = sorted(report.volumes)
    asked = query.get("of", "")
    cylinder = next((c for c in known if str(c) == asked), _highest(report))
    lines: tuple[TowardsRow, ...] = ()
    from_closing = wrong = ""
    try:
        if known:
            lines = tuple(
                _line(one, report, wanted=bool(ratio)) for one in solve_ratio(report, cylinder, _number(ratio or "10"))
            )
        if not closes and (known_closing := report.cam.intake_closes_abdc_deg) is not None:
            closes = f"{known_closing:.1f}"
        if closes:
            found = ratio_from_intake_closing(report, cylinder, _number(closes))
            from_closing = f"{found:.2f}" if found else ""
    except ValueError as error:
        wrong = str(error)
    return Towards(ratio[:12], closes[:12], cylinder, lines, from_closing, wrong)


def _number(text: str) -> float:
    try:
        return float(text if len(text) < 12 else "")
    except ValueError:
        raise ValueError(f"“{text[:20]}” is not a number; type one as in 10.2.") from None


def _highest(report: Report) -> int:
    """The cylinder that leaves least room, whose ratio is the highest."""
    usable = {c: volumes.clearance_cc for c, volumes in report.volumes.items() if volumes.clearance_cc > 0}
    return min(usable, key=lambda c: usable[c]) if usable else 1


def _line(solved: Solved, report: Report, *, wanted: bool) -> TowardsRow:
    unit = report.job.unit
    step = STEP_MM[unit] if solved.is_length else PART_CC
    gain = f"{solved.gain * step:+.3f}".replace("-", "−")
    return TowardsRow(
        part=str(solved.unknown),
        now=_words(solved, solved.now, unit),
        wanted=(solved.refused or _words(solved, solved.value, unit)) if wanted else "",
        gain=f"{gain} for {STEP_WORDS[unit] if solved.is_length else 'one cc more'}",
    )


def _words(solved: Solved, value: float, unit: Unit) -> str:
    if solved.unknown is Unknown.DECK:
        return format_deck(value, unit)
    if solved.unknown is Unknown.PISTON:
        return format_piston_volume(value)
    return f"{format_bench(value, unit)} {BENCH_UNIT[unit]}" if solved.is_length else volume_text(value)
