"""The short list before a mock-up is turned over by hand, by its conditions."""

from dataclasses import dataclass

from mockup.engine.gasket import GasketState
from mockup.engine.mockup import Fasteners, Lifters, MockUp, Springs


@dataclass(frozen=True, slots=True)
class LookAt:
    """One item to check; ``key`` identifies its tick."""

    key: str
    words: str


def before_turning(mockup: MockUp) -> tuple[LookAt, ...]:
    """Return what to check before turning the engine over in this mock-up.

    Common practice, no source.
    """
    found = [
        LookAt("plugs", "Plugs out; turn by hand only, in running direction."),
        LookAt("resistance", "Stop at the first hard resistance: a valve may be on the piston."),
        LookAt("clay", "Clay no thicker than needed, a third of the crown left bare; oil on the valves."),
        LookAt("dowels", "Dowels home, head square on the deck."),
    ]
    if mockup.lifters is Lifters.BLOCKED:
        found.append(LookAt("blocked", "Blocked lifters marked, so that none stays in the engine."))
    if mockup.lifters is Lifters.UNBLOCKED:
        found.append(LookAt("bleeding", "Lifters that are not blocked bleed down: the readings will prove nothing."))
    if Lifters.NOT_STATED is mockup.lifters or Springs.NOT_STATED is mockup.springs:
        found.append(LookAt("unsaid", "State the lifters and springs: until then a reading proves nothing."))
    if mockup.springs is Springs.CHECKING:
        found.append(LookAt("springs", "Checking springs on this cylinder’s valves, on the right ends for this bank."))
    else:
        found.append(LookAt("running", "Running springs: proper compressor, eye protection, train lubricated."))
    if mockup.fasteners is Fasteners.STRETCH:
        found.append(LookAt("stretch", "Stretch bolts are used once: these must not run. Mark them."))
    if mockup.gasket_state is GasketState.NONE:
        found.append(LookAt("metal", "Metal to metal: faces clean, only clay between them."))
    return tuple(found)
