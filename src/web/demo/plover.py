"""Plover: the inline four of a fire pump, in millimetres.

Only its engine and one deck are entered.
"""

from mockup.engine.block import Engine
from mockup.engine.valves import ValveRow
from mockup.quantity.typed import parse_firing_order
from mockup.quantity.value import DeckSign, Unit
from web.builds import services
from web.builds.models import Build
from web.demo.typing import Typist
from web.shops.models import Person


def plover(by: Person) -> None:
    """Enter the build."""
    build = services.save_build(
        Build(),
        by,
        name="Plover",
        subtitle="fire pump",
        unit=Unit.MILLIMETRE,
        deck_sign=DeckSign.OUT_POSITIVE,
        limits="makers",
        engine=Engine(
            cylinders=4,
            bore_mm=79.0,
            stroke_mm=95.0,
            rod_length_mm=168.0,
            rocker_ratio=1.4,
            firing_order=parse_firing_order("1-2-4-3"),
            intake=ValveRow(angle_deg=0.0, diameter_mm=34.0),
            exhaust=ValveRow(angle_deg=0.0, diameter_mm=30.0),
        ),
    )
    types = Typist(build, by)
    types.sits_down(by, 1, 16, 20)
    types.deck(1, "0.21 down")
    types.dated()
