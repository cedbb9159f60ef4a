"""Wren: a twin-cam four with sixteen valves for a hill-climb special, in millimetres. Barely begun."""

from bench.builds import services
from bench.builds.models import Build
from bench.demo.typing import Typist
from bench.shops.models import Person
from mockup.quantity.value import DeckSign, Unit


def wren(by: Person) -> None:
    """Enter the build."""
    build = services.save_build(
        Build(),
        by,
        name="Wren",
        subtitle="hill-climb special",
        unit=Unit.MILLIMETRE,
        deck_sign=DeckSign.OUT_POSITIVE,
        sheet="makers",
        cylinders=4,
        bore_mm=86.0,
        stroke_mm=77.4,
        rod_length_mm=139.5,
        firing_order="1-3-4-2",
        intake_count=2,
        intake_angle_deg=15.5,
        exhaust_count=2,
        exhaust_angle_deg=16.5,
    )
    Typist(build, by).deck(1, "0.21 down")
