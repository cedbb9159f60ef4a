"""Lapwing: an air-cooled flat twin of a ground-run rig, in millimetres. Clear."""

from mockup.checks.compression import RATIO_HIGH_LIMIT, RATIO_LOW_LIMIT
from mockup.checks.quench import QUENCH_HIGH_LIMIT, QUENCH_LOW_LIMIT
from mockup.checks.valve_limits import FACE_EXHAUST_LIMIT, FACE_INTAKE_LIMIT, RADIAL_LIMIT
from mockup.engine.block import Engine, Layout
from mockup.engine.gasket import BaseShims, FinalGasket, GasketState
from mockup.engine.makers_chart import parse_makers_chart
from mockup.engine.mockup import MockUp
from mockup.engine.running import HotGrowth, Material, Running
from mockup.engine.valves import Side, ValveRow
from mockup.quantity.typed import parse_firing_order
from mockup.quantity.value import DeckSign, Unit
from web.builds import services
from web.builds.careful_answers import CAREFUL
from web.builds.entry_kinds import LimitEdit
from web.builds.models import Build
from web.demo.typing import Typist
from web.shops.models import Person

LIMITS = {
    FACE_INTAKE_LIMIT: 1.8,
    FACE_EXHAUST_LIMIT: 2.2,
    RADIAL_LIMIT: 1.2,
    QUENCH_LOW_LIMIT: 0.85,
    QUENCH_HIGH_LIMIT: 1.25,
    RATIO_LOW_LIMIT: 8.4,
    RATIO_HIGH_LIMIT: 9.2,
}
MAKERS_CHART = """
0.75 out to 0.68 out: 0.65
0.68 out to 0.62 out: 0.60
0.62 out to 0.56 out: 0.50
0.56 out to 0.50 out: 0.45
"""
CLAY = {
    (1, Side.INTAKE): (("2.31", "2.28", "2.35"), ("1.62",)),
    (1, Side.EXHAUST): (("2.71", "2.66", "2.68"), ("1.48",)),
    (2, Side.INTAKE): (("2.24", "2.26", "2.29"), ("1.60",)),
    (2, Side.EXHAUST): (("2.60", "2.62", "2.66"), ("1.51",)),
}


def lapwing(by: Person) -> None:
    """Enter the build."""
    build = services.save_build(
        Build(),
        by,
        name="Lapwing",
        subtitle="trainer rig 2",
        unit=Unit.MILLIMETRE,
        deck_sign=DeckSign.OUT_POSITIVE,
        limits="makers",
        engine=Engine(
            layout=Layout.FLAT,
            cylinders=2,
            bore_mm=92.0,
            stroke_mm=78.0,
            rod_length_mm=131.0,
            rocker_ratio=1.2,
            firing_order=parse_firing_order("1-2"),
            separate_barrels=True,
            intake=ValveRow(angle_deg=24.0),
            exhaust=ValveRow(angle_deg=26.0),
        ),
    )
    types = Typist(build, by)
    types.sits_down(by, 9, 9, 5)
    _read(types)
    types.sits_down(by, 8, 13, 40)
    _chosen(types)
    types.sits_down(by, 7, 8, 30)
    mockup = types.mockup(
        MockUp(
            key="",
            gasket_state=GasketState.COMPRESSED,
            gasket_mm=1.15,
            **CAREFUL,
            shims_mm=0.50,
        ),
    )
    types.clay(mockup, CLAY)
    types.dated()


def _read(types: Typist) -> None:
    types.tdc((35.0, 34.5), (35.0, 34.5), (35.5, 34.5))
    for cylinder, typed in ((1, "0.10 out"), (2, "0.14 out"), (1, "0.11 out"), (2, "0.14 out")):
        types.deck(cylinder, typed, shims_mm=0.50)
    types.rocked(1, thrust=("0.06 out", "0.15 out"), other=("0.14 out", "0.05 out"), shims_mm=0.50)
    for cylinder, fills in ((1, ("50 + 12.1", "50 + 12.3", "50 + 12.0")), (2, ("50 + 12.4", "50 + 12.2"))):
        types.chamber(cylinder, *fills)
    types.piston(1, "62.5 at 10")
    types.piston(2, "62.7 at 10")


def _chosen(types: Typist) -> None:
    types.put(FinalGasket(name="aluminium ring", compressed_mm=1.15, bore_mm=93.0), "1.15, bore 93")
    types.put(BaseShims(total_mm=0.50, words="0.50"), "0.50")
    for limit, value in LIMITS.items():
        types.put(LimitEdit(limit=limit, value=value, reason="the rig’s own limits"), f"{value:g}")
    hot = Running(
        compression_height_mm=46.0,
        block=Material.ALUMINIUM,
        block_rise_k=120.0,
        rpm=3400.0,
        reciprocating_g=690.0,
        piston_rise_k=180.0,
    )
    types.put(hot, "the rig’s own figures")
    types.put(HotGrowth(hot_mm=0.08), "+0.08 hot")
    makers = parse_makers_chart(MAKERS_CHART, types.unit, types.sign)
    types.put(makers, f"{len(makers.rows)} rows")
