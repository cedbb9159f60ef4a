"""What a piston maker asks beside the order; what the build does not state is a blank."""

from collections.abc import Iterator
from dataclasses import dataclass

from mockup.engine.block import Engine, Layout
from mockup.engine.valves import Relief, Side
from mockup.quantity.shown import format_bench, format_dimension
from mockup.quantity.typed_units import MASS
from mockup.quantity.value import BENCH_UNIT, Unit
from mockup.report import Report


@dataclass(frozen=True, slots=True)
class Ask:
    """One question of a maker: its words, and the answer by the build, empty for a blank."""

    words: str
    answer: str = ""


def maker_asks(report: Report) -> Iterator[tuple[str, tuple[Ask, ...]]]:
    """Yield the questions in groups; an unknown answer is a blank to fill in by hand."""
    engine, unit = report.job.engine, report.job.unit
    bore = f"{format_dimension(engine.bore_mm, unit)} {unit}" if engine.bore_mm else ""
    yield (
        "Bore",
        (Ask("Bore, finished", bore), Ask("Skirt clearance, and where it is measured"), Ask("Bore finish, plateau")),
    )
    yield (
        "Pin",
        (
            Ask("Diameter"),
            Ask("Length"),
            Ask("Retention: pressed, wire or spiral locks, buttons"),
            Ask("Offset, and to which side", _offset(engine, unit)),
            Ask("Width of the rod’s small end"),
        ),
    )
    yield "Rings", (Ask("Set: widths and make"), Ask("Grooves: depths, first land"), Ask("Gas ports"))
    yield "Valves", tuple(_valves(report, unit))
    running = report.job.running
    yield (
        "Use",
        (
            Ask("Alloy", str(running.piston) if running else ""),
            Ask("Use, fuel, boost or nitrous"),
            Ask("Highest speed", f"{running.rpm:g} rpm" if running else ""),
            Ask("Mass wanted, of the present piston and pin", _mass(report)),
        ),
    )
    yield (
        "Chamber and set",
        (
            Ask("Chamber shape: sketch, mould or part number"),
            Ask("Plug position over the crown"),
            Ask("Left and right pistons", _handed(engine)),
            Ask("Spares"),
        ),
    )


def _offset(engine: Engine, unit: Unit) -> str:
    return f"{format_bench(engine.pin_offset_mm, unit)} {BENCH_UNIT[unit]}" if engine.pin_offset_mm else ""


def _mass(report: Report) -> str:
    running = report.job.running
    return f"moving now {MASS.format(running.reciprocating_g, report.job.unit)}" if running else ""


def _handed(engine: Engine) -> str:
    return "both banks: say which is which" if engine.layout in (Layout.VEE, Layout.FLAT) else ""


def _valves(report: Report, unit: Unit) -> Iterator[Ask]:
    for side in Side:
        row = report.engine.row(side)
        angle = f"{row.angle_deg:g}°" if row.angle_deg is not None else ""
        flat = ", flat crown" if row.relief is Relief.FLAT else ""
        yield Ask(f"{side.capitalize()} valve angle", f"{angle}{flat}".removeprefix(", "))
        head = f"{format_dimension(row.diameter_mm, unit)} {unit}" if row.diameter_mm else ""
        yield Ask(f"{side.capitalize()} head diameter", head)
        yield Ask(f"{side.capitalize()} relief: where its middle is, from pin and bore axis")
    lifts = [one for one in report.cam.sides.values() if one.train.lift_max_mm]
    words = ", ".join(f"{one.side} {format_dimension(one.train.lift_max_mm, unit)} {unit}" for one in lifts)
    yield Ask("Lift at the valve", words)
