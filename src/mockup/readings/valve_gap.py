"""The smallest gap between intake and exhaust valve about overlap TDC, by feelers.

Both valves are in the head, so gaskets, decks and pistons do not affect it. Lift, timing and the valves do.
"""

from dataclasses import dataclass

from mockup.base.faults import Fault, refuse
from mockup.base.stations import Station
from mockup.changes.change import Affected, EffectFrom, OfValve
from mockup.changes.crown import CROWN_MILLED
from mockup.changes.cuts import DECK_CUT, HEAD_CUT
from mockup.changes.pistons import PISTONS_CHANGED, RELIEF_DEEPENED, RELIEF_WIDENED
from mockup.changes.stack import GASKET_CHANGED, SHIMS_CHANGED
from mockup.changes.train import CAM_MOVED, CAMSHAFT_CHANGED, LASH_CHANGED, PUSHRODS_CHANGED, ROCKERS_CHANGED
from mockup.changes.valves import VALVES_CHANGED, VALVES_SUNK
from mockup.quantity.fields import Mm, Name
from mockup.quantity.shown import format_bench, mm_range
from mockup.quantity.typed_gap import STEP_TOO_WIDE, format_gap, parse_gap
from mockup.quantity.value import Unit, Value
from mockup.readings.instruments import FEELERS
from mockup.readings.kinds import OneField, ReadAt, reading_kind
from mockup.readings.record import Reading

WIDEST_MM = 20.0

VALVE_GAP = Affected(
    "valve gap",
    order=100,
    takes=(OfValve, EffectFrom),
    moved_by={
        CAM_MOVED: EffectFrom.UNKNOWN,
        CAMSHAFT_CHANGED: EffectFrom.UNKNOWN,
        ROCKERS_CHANGED: EffectFrom.UNKNOWN,
        VALVES_SUNK: EffectFrom.UNKNOWN,
        # A larger valve head comes nearer by half of the increase, on either side.
        VALVES_CHANGED: OfValve(lambda change, _row: Value(-change.amount / 2, change.u_mm)),
    },
    left_by=(
        DECK_CUT,
        HEAD_CUT,
        PISTONS_CHANGED,
        CROWN_MILLED,
        GASKET_CHANGED,
        SHIMS_CHANGED,
        RELIEF_DEEPENED,
        RELIEF_WIDENED,
        # Lash is never counted on.
        LASH_CHANGED,
        PUSHRODS_CHANGED,
    ),
)


def _read(text: str, unit: Unit, at: ReadAt) -> "ValveGapReading":
    typed = parse_gap(text, unit)
    return ValveGapReading(cylinder=at.cylinder, mockup=at.mockup, gap_mm=typed.mm, half_width_mm=typed.half_width_mm)


@reading_kind(
    name="valve-gap",
    listed="valve_gaps",
    words="gap between the valves",
    station=Station.SWEEP,
    of=lambda reading: reading.cylinder,
    reads=lambda _: VALVE_GAP,
    echo={"valve-gap": lambda asked: format_gap(parse_gap(asked.text, asked.unit), asked.unit)},
    one_field=OneField(
        label="Gap between intake and exhaust valve at overlap",
        help_text="by feelers, as goes 40 not 45, or 45",
        read=_read,
        shown=lambda reading, unit: format_bench(reading.gap_mm, unit),
    ),
)
@dataclass(frozen=True, slots=True, kw_only=True)
class ValveGapReading(Reading):
    """The smallest gap between one cylinder's valves [mm], 0 to 20, in ``mockup``.

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
            found.append(Fault("gap_mm", f"A gap of {mm_range(0, 20)}. Is the unit right?"))
        if not 0 <= self.half_width_mm <= 1:
            found.append(Fault("half_width_mm", STEP_TOO_WIDE))
        refuse(found)
