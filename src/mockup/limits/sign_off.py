"""A person's signature for a check that is not clear: who answers, why, its state then."""

from dataclasses import dataclass, field

from mockup.base.faults import Fault, refuse
from mockup.limits.judge import SLACK, State
from mockup.quantity.fields import Key, Name, Words
from mockup.readings.record import Record

LONGEST_REASON = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class SignOff:
    """One check, by label, signed off at its ``state`` and ``margin`` [mm or 1] or None.

    ``record`` says who signed and when. Raises FaultsError without a reason, or for a check that was clear.
    """

    key: Key = ""
    check: Name
    state: State
    margin: float | None = None
    reason: Words
    record: Record = field(default_factory=Record)

    def __post_init__(self) -> None:
        found = []
        if not self.reason.strip():
            found.append(Fault("reason", "Give the reason: whose figure, whose decision."))
        if len(self.reason) > LONGEST_REASON:
            found.append(Fault("reason", f"At most {LONGEST_REASON} characters."))
        if self.state is State.CLEAR:
            found.append(Fault("check", "A clear check needs no signature."))
        refuse(found)

    def holds_for(self, state: State, margin: float | None) -> bool:
        """Return whether a check of this state and margin [mm or 1] is still as it was signed."""
        if state is not self.state:
            return False
        if self.margin is None or margin is None:
            return self.margin is margin
        return abs(margin - self.margin) <= SLACK
