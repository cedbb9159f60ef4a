"""The smallest gap between intake and exhaust valve about overlap TDC, measured with feelers.

Both valves are in the head, so gaskets, decks and pistons do not affect it. Lift, timing and the valves do.
"""

from dataclasses import dataclass

from mockup.base.faults import Fault, refuse
from mockup.base.stations import Station
from mockup.changes.change import Affected, ChangeKind, EffectFrom, OfValve
from mockup.quantity.echo import Asked
from mockup.quantity.fields import Mm, Name
from mockup.quantity.shown import format_bench, format_both
from mockup.quantity.typed import parse_bench_length
from mockup.quantity.typed_deck import DeckTyped, parse_deck_reading
from mockup.quantity.value import DeckSign, Unit, Value
from mockup.readings.instruments import FEELERS
from mockup.readings.kinds import OneField, ReadAt, reading_kind
from mockup.readings.record import Reading

WIDEST_MM = 20.0

VALVE_GAP = Affected(
    "valve gap",
    name="VALVE_GAP",
    order=100,
    takes=(OfValve, EffectFrom),
    moved_by={
        ChangeKind.CAM: EffectFrom.UNKNOWN,
        ChangeKind.CAMSHAFT: EffectFrom.UNKNOWN,
        ChangeKind.ROCKERS: EffectFrom.UNKNOWN,
        ChangeKind.SINK: EffectFrom.UNKNOWN,
        # A larger valve head comes nearer by half of the increase, on either side.
        ChangeKind.VALVES: OfValve(lambda change, _row: Value(-change.amount / 2, change.u_mm)),
    },
    left_by=(
        ChangeKind.DECK_CUT,
        ChangeKind.HEAD_CUT,
        ChangeKind.PISTONS,
        ChangeKind.GASKET,
        ChangeKind.SHIMS,
        ChangeKind.RELIEF,
        ChangeKind.EDGE,
        # Lash is never counted on.
        ChangeKind.LASH,
        ChangeKind.PUSHRODS,
    ),
)


def _typed(text: str, unit: Unit) -> DeckTyped:
    """Read ``45``, or ``goes 40 not 45`` for a gap between two feelers [mm]. Raises LengthError."""
    if text.strip().lower().startswith("goes"):
        return parse_deck_reading(text, unit, DeckSign.DOWN_POSITIVE)
    return DeckTyped(parse_bench_length(text, unit))


def _echo(asked: Asked) -> str:
    typed = _typed(asked.text, asked.unit)
    either_way = f" ±{format_bench(typed.half_width_mm, asked.unit)}" if typed.half_width_mm else ""
    return format_both(typed.mm, asked.unit) + either_way


def _read(text: str, unit: Unit, at: ReadAt) -> "ValveGapReading":
    typed = _typed(text, unit)
    return ValveGapReading(cylinder=at.cylinder, mockup=at.mockup, gap_mm=typed.mm, half_width_mm=typed.half_width_mm)


@reading_kind(
    name="valve-gap",
    listed="valve_gaps",
    words="gap between the valves",
    station=Station.SWEEP,
    of=lambda reading: reading.cylinder,
    reads=lambda _: Affected.VALVE_GAP,
    echo={"valve-gap": _echo},
    one_field=OneField(
        label="Gap between intake and exhaust valve at overlap",
        help_text="by feelers, as goes 40 not 45, or 45",
        read=_read,
        shown=lambda reading, unit: format_bench(reading.gap_mm, unit),
    ),
)
@dataclass(frozen=True, slots=True, kw_only=True)
class ValveGapReading(Reading):
    """The smallest gap between the two valves of one cylinder [mm], 0 to 20, in the mock-up ``mockup``.

    ``half_width_mm``: half the step between the thickest feeler that goes and the thinnest that does not [mm]. Raises
    FaultsError.
    """

    mockup: Name
    cylinder: int
    gap_mm: Mm
    half_width_mm: Mm = 0.0
    instrument: Name = FEELERS

    def __post_init__(self) -> None:
        found = []
        if not 0 <= self.gap_mm <= WIDEST_MM:
            found.append(Fault("gap_mm", "A gap of 0 to 20 mm (0.787 in). Is the unit right?"))
        if not 0 <= self.half_width_mm <= 1:
            found.append(
                Fault(
                    "half_width_mm", "The feeler that goes and the one that does not differ by at most 2 mm (0.079 in)."
                )
            )
        refuse(found)
