"""Changes and plans in words: what is done, what must be done again after it, and its caution.

Common practice, no source; makers' figures and a machinist's judgement come first.
"""

from mockup.engine.changes import Change, ChangeKind
from mockup.quantity.shown import format_bench, format_degrees
from mockup.quantity.value import BENCH_UNIT, Unit

ALONG = (ChangeKind.DECK_CUT, ChangeKind.HEAD_CUT, ChangeKind.GASKET, ChangeKind.SHIMS, ChangeKind.PISTONS)


def change_words(change: Change, unit: Unit, *, many_banks: bool = False, ratio: float | None = None) -> str:
    """A change in one line. ``ratio`` [1] is the rocker ratio before it, where it is known."""
    where = f" on bank {change.bank + 1}" if many_banks and change.bank is not None else ""
    if change.kind in ALONG:
        return _along(change, unit) + where
    if change.kind is ChangeKind.CAM:
        whose = f"{change.side} cam" if change.side else "cam"
        return f"{whose} {'advanced' if change.amount > 0 else 'retarded'} {format_degrees(abs(change.amount))}"
    if change.kind is ChangeKind.ROCKERS:
        new = "" if ratio is None else f" of {ratio + change.amount:.3g} for {ratio:.3g}"
        return f"other rockers{new}, ratio {change.amount:+.3g}".replace("-", "−")
    amount = f"{format_bench(abs(change.amount), unit)} {BENCH_UNIT[unit]}"
    more = change.amount >= 0
    words = {
        ChangeKind.RELIEF: f"{change.side} reliefs {amount} deeper",
        ChangeKind.EDGE: f"{change.side} reliefs {amount} wider a side",
        ChangeKind.VALVES: f"{change.side} valves {amount} {'larger' if more else 'smaller'} across",
        ChangeKind.SINK: f"{change.side} valves sunk {amount}",
        ChangeKind.LASH: f"{change.side} lash {amount} {'more' if more else 'less'}",
        ChangeKind.PUSHRODS: f"pushrods {amount} {'longer' if more else 'shorter'}",
    }
    return words[change.kind]


def _along(change: Change, unit: Unit) -> str:
    front, rear = format_bench(abs(change.front_mm), unit), format_bench(abs(change.rear_mm), unit)
    name = BENCH_UNIT[unit]
    amount = f"{front} {name}" if front == rear else f"{front} front, {rear} rear {name}"
    more = change.front_mm >= 0
    if change.kind is ChangeKind.GASKET and change.gasket:
        thick = format_bench(change.gasket.compressed_mm, unit)
        return f"gasket {change.gasket.name or ''} {thick} {name} compressed".replace("  ", " ")
    if change.kind is ChangeKind.PISTONS:
        volume = f", {abs(change.amount):g} cc {'more' if change.amount > 0 else 'less'} room" if change.amount else ""
        return f"other pistons, crown {amount} {'higher' if more else 'lower'}{volume}"
    words = {
        ChangeKind.DECK_CUT: f"deck cut {amount}",
        ChangeKind.HEAD_CUT: f"head cut {amount}",
        ChangeKind.GASKET: f"gasket {amount} {'thicker' if more else 'thinner'}",
        ChangeKind.SHIMS: f"base shims {amount} {'more' if more else 'less'}",
    }
    return words[change.kind]


AGAIN = {
    ChangeKind.GASKET: "Nothing: it is arithmetic. Within 0.005 in (0.13 mm) of a limit torque it and measure.",
    ChangeKind.SHIMS: "Read the deck of each barrel once on its new shims.",
    ChangeKind.CAM: "Degree the cam; read the tightest valves again.",
    ChangeKind.ROCKERS: "Pushrod length and wipe pattern; read again; coil bind and retainer to seal at the new lift.",
    ChangeKind.RELIEF: "Weigh the pistons and balance; fill their volume; read those valves again.",
    ChangeKind.EDGE: "Weigh the pistons and balance; read the edge again.",
    ChangeKind.VALVES: "Read face and edge again; look at seat, shroud and valve to valve.",
    ChangeKind.SINK: "Spring height, tip height and pushrod length; fill the chambers; read again.",
    ChangeKind.HEAD_CUT: "Fill the chambers; pushrod length; read again. An overhead cam retards: degree it.",
    ChangeKind.DECK_CUT: "Read every deck; pushrod length; read again. An overhead cam retards: degree it.",
    ChangeKind.PISTONS: "Everything of the crown: deck, volume, every valve; weigh and balance.",
    ChangeKind.PUSHRODS: "Try one of the new length: preload or lash, and the wipe pattern.",
    ChangeKind.LASH: "Set it hot as the cam’s maker says. No clearance counts on it.",
}
"""What must be done again after each kind of change."""

_CAUTION = {
    ChangeKind.CAM: "What one valve gains the other loses; timing moves the power band.",
    ChangeKind.ROCKERS: "Another ratio is another cam to the engine; check the stud and guide too.",
    ChangeKind.RELIEF: "Measure the crown under it before cutting: never thinner than the piston’s maker allows.",
    ChangeKind.EDGE: "Mind the top ring land; leave no sharp edge.",
    ChangeKind.SINK: "A sunk valve costs flow, and the seat has only so much.",
    ChangeKind.HEAD_CUT: "A cut is for ever, and it brings the valves nearer. Intake faces may no longer meet.",
    ChangeKind.DECK_CUT: "A cut is for ever. Before balancing, not after.",
    ChangeKind.GASKET: "A thicker gasket opens the quench: watch knock margin as well as ratio.",
}
_CAUTION_ONE_CAM = "The lobe separation changes by half of it: overlap, idle and the power band go with it."


def caution_of(change: Change) -> str:
    """The caution a change comes with; empty where it has none."""
    return _CAUTION_ONE_CAM if change.kind is ChangeKind.CAM and change.side else _CAUTION.get(change.kind, "")
