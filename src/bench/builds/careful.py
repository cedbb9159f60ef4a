"""The answers of a careful builder to what a mock-up asks, for the demo builds and the seeded ones."""

from typing import Any

from mockup.engine.mockup import Bolts, DialTurns, Lifters, Overlap, Springs

CAREFUL: dict[str, Any] = {
    "bolts": Bolts.TORQUED,
    "lifters": Lifters.SOLID,
    "springs": Springs.CHECKING,
    "two_turns": True,
    "overlap": Overlap.MOVING,
    "dial_turns": DialTurns.COUNTER,
}
