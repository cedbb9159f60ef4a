"""A careful builder's answers about a mock-up, for demo and seeded builds."""

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
