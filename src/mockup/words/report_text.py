"""A report in words, for pages and command line; units are chosen here alone."""

import math
from dataclasses import replace

from mockup import PROGRAM
from mockup.advice.outlook import verdict_text
from mockup.checks.check import Check, Finding, Kind, Signature
from mockup.engine.block import Engine, Layout
from mockup.engine.gasket import GasketState
from mockup.engine.mockup import Bolts, Clay, DialTurns, Fasteners, Lifters, MockUp, Overlap, PistonsIn, Springs
from mockup.engine.valves import Relief, Side, ValveRow
from mockup.limits.judge import Bound, Limit, State
from mockup.limits.limit_set import LimitName
from mockup.quantity.corrections import Correction
from mockup.quantity.shown import (
    format_bench,
    format_dimension,
    format_expanded,
    format_large,
    format_margin,
    format_ratio_margin,
)
from mockup.quantity.value import BENCH_UNIT, MM_PER_INCH, Unit, Value
from mockup.report import Report
from mockup.words.uncertainty import certainty_lines

CC_PER_CUBIC_INCH = 16.387064
"""2.54^3, exact."""

NUMBER_WORDS = [
    "one",
    "two",
    "three",
    "four",
    "five",
    "six",
    "seven",
    "eight",
    "nine",
    "ten",
    "eleven",
    "twelve",
    "thirteen",
    "fourteen",
    "fifteen",
    "sixteen",
]


def amount(value: float, kind: Kind, unit: Unit) -> str:
    """Return a check's figure without its unit: thou, mm, or a ratio to two decimals."""
    return format_bench(value, unit) if kind.is_length else f"{value:.2f}"


def expanded(value: Value, kind: Kind, unit: Unit) -> str:
    """Return the U of a check's figure, rounded up."""
    if kind.is_length:
        return format_expanded(value.expanded, unit)
    return f"{math.ceil(value.expanded * 100 - 1e-9) / 100:.2f}"


def margin_text(check: Check, unit: Unit) -> str:
    """Return the margin of a check with its sign, rounded down; a dash if it has no margin."""
    if check.margin is None:
        return "—"
    if check.kind.is_length:
        return format_margin(check.margin, unit)
    return format_ratio_margin(check.margin)


def limit_text(limit: Limit, kind: Kind, unit: Unit) -> str:
    """Return a limit: ``80``, ``35–45``, ``at most 45`` or ``none set``."""
    if not limit.is_set:
        return "none set"
    low, high = limit.low, limit.high
    if low is not None and high is not None:
        return f"{amount(low, kind, unit)}–{amount(high, kind, unit)}"
    if high is not None:
        return f"at most {amount(high, kind, unit)}"
    assert low is not None
    return amount(low, kind, unit)


def limit_value_text(value: float | None, name: LimitName, unit: Unit) -> str:
    """Return one end of a limit with its unit, a ratio or a share; ``none`` where not set."""
    if value is None:
        return "none"
    if name.unit.scales:
        return f"{100 * value:g} % {name.unit}"
    return f"{format_bench(value, unit)} {BENCH_UNIT[unit]}" if name.is_length else f"{value:.2f} to 1"


def figure_text(check: Check, unit: Unit) -> str:
    """Return a figure with its uncertainty: ``93.5 ±3.5``, ``at most 112 ±4``, or a dash."""
    return finding_text(check.governing, check.kind, unit)


def as_mocked_up_text(check: Check, unit: Unit) -> str:
    """Return a figure not carried yet, with U: ``96 ±8.5 as mocked up``; else empty."""
    value, found = check.as_mocked_up, check.governing
    if value is None or found is None:
        return ""
    return f"{finding_text(replace(found, figure=value), check.kind, unit)} as mocked up"


def finding_text(finding: Finding | None, kind: Kind, unit: Unit) -> str:
    """Return one finding's figure with its uncertainty; a dash where it has none."""
    if finding is None or finding.figure is None:
        return "—"
    at_most = "" if finding.bound is Bound.EXACT else f"{finding.bound} "
    figure = finding.figure
    return f"{at_most}{amount(figure.value, kind, unit)} ±{expanded(figure, kind, unit)}"


LARGE_MM = 50.8


def correction_text(correction: Correction, *, first: bool, kind: Kind, unit: Unit) -> str:
    """Return a correction: plain for the reading, signed for others, ± for u alone."""
    value = correction.delta.value
    if kind.is_length and abs(value) > LARGE_MM:
        # A pushrod of 7.400 in is never counted as 7400 thou.
        return format_large(value, unit)
    if not kind.is_length or first:
        return amount(value, kind, unit)
    shown = format_bench(value, unit)
    if not float(shown.replace("−", "-")) and correction.delta.u:
        return f"±{format_expanded(correction.delta.expanded, unit)}"
    return shown if shown.startswith("−") else f"+{shown}"


def engine_line(engine: Engine, unit: Unit) -> str:
    """Return the engine in one line: ``inline six · 3.750 × 3.875 in · valves 12°``."""
    return " · ".join((_layout_words(engine), *_size_words(engine, unit), _valve_words(engine)))


def _size_words(engine: Engine, unit: Unit) -> tuple[str, ...]:
    bore, stroke = (size and format_dimension(size, unit) for size in (engine.bore_mm, engine.stroke_mm))
    swept = engine.swept_cc
    if swept is None:
        return (f"bore {bore} {unit}",) if bore else ((f"stroke {stroke} {unit}",) if stroke else ())
    volume = f"{swept / CC_PER_CUBIC_INCH:.1f} cu in" if unit is Unit.INCH else f"{swept:.0f} cc"
    return f"{bore} × {stroke} {unit}", volume


def _layout_words(engine: Engine) -> str:
    count = NUMBER_WORDS[engine.cylinders - 1]
    if engine.cylinders == 1:
        return "single"
    names = {Layout.INLINE: f"inline {count}", Layout.VEE: f"vee {count}", Layout.FLAT: f"flat {count}"}
    if engine.cylinders == 2:
        names |= {Layout.VEE: "vee twin", Layout.FLAT: "flat twin", Layout.INLINE: "inline twin"}
    return names[engine.layout]


def _valve_words(engine: Engine) -> str:
    intake, exhaust = _row_words(engine.intake), _row_words(engine.exhaust)
    count = NUMBER_WORDS[engine.intake.count + engine.exhaust.count - 1]
    if intake == exhaust:
        return f"{count} valves at {intake}"
    return f"{count} valves, intake {intake}, exhaust {exhaust}"


def _row_words(row: ValveRow) -> str:
    facing = "in reliefs" if row.relief is Relief.PARALLEL else "on a flat crown"
    if row.angle_deg is None:
        return f"an angle not stated, {facing}"
    return f"{row.inclination_deg:.3g}° {facing}"


def mockup_line(mockup: MockUp, unit: Unit) -> str:
    """Return a mock-up's conditions in one line."""
    gasket = format_bench(mockup.gasket_mm, unit)
    gaskets = {
        GasketState.FINAL: "the gasket it will run",
        GasketState.SAME_USED: "a used gasket of the same kind",
        GasketState.SNUGGED: f"new gasket {gasket} free" if mockup.gasket_mm else "a new gasket, only snugged",
        GasketState.NONE: "no gasket",
        GasketState.COMPRESSED: f"gasket {gasket} compressed",
        GasketState.UNKNOWN: "gasket not known",
    }
    parts = [gaskets[mockup.gasket_state], f"bolts {mockup.bolts}", LIFTER_WORDS[mockup.lifters]]
    laid = f" laid {format_bench(mockup.laid_mm, unit)}" if mockup.laid_mm else ""
    where = f" ({mockup.springs_at})" if mockup.springs_at else ""
    parts += [f"{SPRING_WORDS[mockup.springs]}{where}", f"{CLAY_WORDS[mockup.clay]}{laid}"]
    parts.append(
        f"lash {format_bench(mockup.lash_mm, unit)} at the {mockup.lash_at}" if mockup.lash_mm else "zero lash"
    )
    if mockup.shims_mm:
        parts.append(f"base shims {format_bench(mockup.shims_mm, unit)}")
    if mockup.lash_exhaust_mm is not None:
        parts.append(f"exhaust lash {format_bench(mockup.lash_exhaust_mm, unit)}")
    if mockup.head:
        parts.insert(0, mockup.head)
    if mockup.rocker_ratio is not None:
        parts.append(f"rockers {mockup.rocker_ratio:g}")
    parts.append("two full turns" if mockup.two_turns else "not two full turns")
    if mockup.overlap is not Overlap.NOT_STATED:
        parts.append(f"overlap TDC by {OVERLAP_WORDS[mockup.overlap]}")
    parts += mockup.also
    return ", ".join(parts)


LIFTER_WORDS = {
    Lifters.SOLID: "solid lifters",
    Lifters.BLOCKED: "hydraulic lifters blocked",
    Lifters.UNBLOCKED: "hydraulic lifters not blocked",
    Lifters.NOT_STATED: "lifters not stated",
}
CLAY_WORDS = {Clay.MODELLING: "modelling clay", Clay.DOUGH: "soft dough", Clay.PUTTY: "bouncing putty"}
BOLT_WORDS = {Bolts.TORQUED: "torqued", Bolts.SNUGGED: "old bolts, snugged"}
FASTENER_WORDS = {
    Fasteners.OLD: "old ones, for the mock-up",
    Fasteners.NEW: "new ones",
    Fasteners.STRETCH: "stretch bolts that will run",
}
PISTON_WORDS = {
    PistonsIn.RIGHT: "right way round",
    PistonsIn.REVERSED: "reversed",
    PistonsIn.UNKNOWN: "not noted",
}
SPRING_WORDS = {
    Springs.CHECKING: "checking springs",
    Springs.RUNNING: "running springs",
    Springs.NOT_STATED: "springs not stated",
}
OVERLAP_WORDS = {
    Overlap.NOT_STATED: "not stated",
    Overlap.MOVING: "both valves moving",
    Overlap.MARKS: "cam marks",
    Overlap.WHEEL: "the wheel alone",
}
TURNED_WORDS = [
    ("", "turning not stated"),
    ("0", "past the smallest and back"),
    ("2", "in steps of 2°"),
    ("5", "in steps of 5°"),
    ("10", "in steps of 10°"),
]
"""How the crank was turned for the smallest reading, by the value of the field [deg]."""
DIAL_TURN_WORDS = {
    DialTurns.NOT_STATED: "not stated",
    DialTurns.COUNTER: "counter, or digital",
    DialTurns.COUNTED: "counted by eye",
}
GASKET_WORDS = {
    GasketState.FINAL: "the one it will run, torqued",
    GasketState.SAME_USED: "the same kind, used",
    GasketState.SNUGGED: "a new one, only snugged",
    GasketState.NONE: "none, metal to metal",
    GasketState.COMPRESSED: "another one",
    GasketState.UNKNOWN: "not known",
}
SIDE_WORDS = {Side.INTAKE: "Intake", Side.EXHAUST: "Exhaust"}

SMALL_BORE_MM = 80.0


def clay_advice(engine: Engine, unit: Unit) -> str:
    """Return how thick clay should be for this bore: common practice, no source."""
    if engine.bore_mm is None:
        thickest, which = (0.100, 0.300), "thick, the most for a large bore"
    else:
        thickest = (0.100, 0.100) if engine.bore_mm < SMALL_BORE_MM else (0.200, 0.300)
        which = "thick for this bore"
    low, high = (format_bench(inch * MM_PER_INCH, unit) for inch in thickest)
    span = low if low == high else f"{low} to {high}"
    return (
        f"Clay about {span} {BENCH_UNIT[unit]} {which}, in the reliefs, on the quench pads, at the plug "
        "and the dome; leave a third of the crown bare, since too much has nowhere to go and can bend a valve. "
        "A valve that left no mark: type no print, or over and the clay’s thickness."
    )


DEFER = (
    "Minimums from the cam, piston and engine makers overrule every figure here. "
    "Aircraft engines: the engine manual and a licensed mechanic decide. A passed check is no warranty."
)


def report_text(report: Report) -> str:
    """Return the whole report as plain text, for the command line and the printer."""
    unit = report.job.unit
    lines = [report.job.name, engine_line(report.job.engine, unit), f"Limits: {report.job.limits.title}"]
    lines += [f"Lengths in {BENCH_UNIT[unit]}; ± is U, at two standard deviations.", ""]
    lines += [_check_line(check, unit) for check in report.checks]
    lines += [""] + [f"? {question.text}" for question in report.questions]
    lines += [verdict_text(report), f"Next: {report.steps[0].text}", DEFER, f"Made with {PROGRAM}."]
    return "\n".join(lines) + "\n"


def signature_text(signed: Signature) -> str:
    """Return the signature of a check that is not clear, in one line."""
    by = f" by {signed.record.by}" if signed.record.by else ""
    when = f", {signed.record.at[:10]}" if signed.record.at else ""
    return f"signed off{by}{when}: {signed.reason}"


def _check_line(check: Check, unit: Unit) -> str:
    state = str(check.state) + (f" ({check.missing})" if check.missing else "")
    if not check.required and check.state is State.NOT_MEASURED:
        state += ", not required"
    if check.signed:
        state += f", {signature_text(check.signed)}"
    figure = figure_text(check, unit)
    minimum = limit_text(check.limit, check.kind, unit)
    line = f"{check.label:<16} {figure:>18}  of {minimum:>11}  {margin_text(check, unit):>7}  {state}"
    corrections = check.governing.corrections if check.governing else ()
    trail = [
        f"    {correction.text:<58} {correction_text(correction, first=at == 0, kind=check.kind, unit=unit):>8}"
        for at, correction in enumerate(corrections)
    ]
    cautions = [f"    ! {caution}" for caution in (check.governing.cautions if check.governing else ())]
    read, doubts = check.governing, []
    if read:
        doubts = certainty_lines(read.parts, check.figure, check.kind, unit, of_clay=read.by_clay)
    said = [f"    {' '.join(doubts)}"] if doubts else []
    return "\n".join([line, *(trail if len(corrections) > 1 else []), *said, *cautions])
