"""An order of pistons and gasket in words and both units, for page and print."""

from dataclasses import dataclass
from typing import Any

from mockup.advice.outlook import outlook, would_be
from mockup.changes.since import change_words
from mockup.engine.valves import Side
from mockup.fit.known_decks import known_words
from mockup.plans.pistons_to_order import Order, Wanted, pistons_to_order
from mockup.plans.what_if import effects_of
from mockup.quantity.shown import bench_text, cc_text, format_bench, format_both, format_piston_volume
from mockup.quantity.value import BENCH_UNIT, Value
from mockup.report import Report
from web.drawings.piston_order import PistonSection, piston_section
from web.page.order_form import OrderForm
from web.page.shown_digest import digest_of


@dataclass(frozen=True, slots=True)
class Ordered:
    """One figure of the order: its name, its amount in both units, its basis."""

    what: str
    figure: str
    rests_on: str


def piston_order(report: Report, form: OrderForm) -> dict[str, Any]:
    """Return the order the form asks for, empty if it asks for none.

    Raises FaultsError where it is impossible.
    """
    if not (form.asks_for_pistons and form.is_valid()):
        return {}
    wanted = form.item
    order = pistons_to_order(report.job, wanted)
    unit, ratio = report.job.unit, report.engine.rocker_ratio
    ordered = _lines(report, order, wanted)
    return {
        "order": order,
        "ordered": ordered,
        "shown": digest_of(word for line in ordered for word in (line.what, line.figure, line.rests_on)),
        "section": _section(order),
        "counted": [change_words(change, unit, ratio=ratio) for change in order.counted],
        "effects": effects_of(order.before, order.after),
        "outlook": would_be(outlook(order.after, order.before)),
        "uses": _uses(order, report),
    }


def _lines(report: Report, order: Order, wanted: Wanted) -> list[Ordered]:
    unit, decks = report.job.unit, order.before.context.known_decks
    found = []
    final = report.job.final_gasket
    if wanted.quench_mm is not None and final and decks:
        thick, quench = bench_text(final.compressed_mm, unit), bench_text(wanted.quench_mm, unit)
        rests = f"{known_words(decks, report.job.engine.cylinders)}, gasket {thick}, quench {quench}"
        if order.height:
            figure = f"{format_both(order.height.value, unit)} ±{bench_text(wanted.tolerance_mm, unit)}"
            found.append(Ordered("Compression height", figure, rests))
        way = "higher" if order.higher_mm > 0 else "lower"
        words = f"{bench_text(abs(order.higher_mm), unit)} {way} than the present ones"
        found.append(Ordered("Crown", words if order.higher_mm else "as high as the present ones", rests))
    for side in Side:
        if side in order.deeper_mm:
            found.append(_relief(report, order, wanted, side))
        if side in order.radii:
            figure = f"{format_both(order.radii[side].value, unit)} ±{bench_text(wanted.relief_tolerance_mm, unit)}"
            found.append(
                Ordered(f"{side.capitalize()} relief, radius", figure, "half the valve and the edge gap it needs")
            )
    if order.volume:
        figure = f"{format_piston_volume(order.volume.value)} ±{cc_text(wanted.volume_tolerance_cc)}, reliefs included"
        found.append(Ordered("Volume", figure, f"ratio {wanted.ratio:g}, by the cylinder with the smallest chamber"))
    return found


def _relief(report: Report, order: Order, wanted: Wanted, side: Side) -> Ordered:
    unit, more = report.job.unit, order.deeper_mm[side]
    rests = "the tightest valve with the new deck, U and tolerance counted"
    rests += f", {bench_text(wanted.face_mm, unit)} above the minimum" if wanted.face_mm else ""
    if side in order.depths:
        figure = f"{format_both(order.depths[side].value, unit)} ±{bench_text(wanted.relief_tolerance_mm, unit)}"
    else:
        figure = f"{format_both(more, unit)} deeper than the present ones" if more else "as deep as now"
    return Ordered(f"{side.capitalize()} relief, along the valve", figure, rests)


def _section(order: Order) -> PistonSection:
    unit = order.after.job.unit
    words = {"bore": format_both(order.after.engine.sizes.bore_mm, unit)}
    if order.height:
        words["height"] = format_both(order.height.value, unit)
    if order.volume:
        words["volume"] = format_piston_volume(order.volume.value)
    reliefs = {}
    for side in Side:
        more = order.deeper_mm.get(side)
        known: Value | None = order.depths.get(side)
        reliefs[side] = bench_text(known.value, unit) if known else (f"{bench_text(more, unit)} deeper" if more else "")
    return piston_section(order, words, reliefs)


def _uses(order: Order, report: Report) -> str:
    if order.uses_mm is None:
        return ""
    unit = report.job.unit
    before, after = (f"{format_bench(abs(one), unit)}" for one in order.uses_mm)
    return f"At the speed typed growth and stretch would use {after} {BENCH_UNIT[unit]} of the quench, {before} now."
