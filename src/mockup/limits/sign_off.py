"""A person's word for a check that is not clear: who answers for it, why, and how it stood then."""

from dataclasses import dataclass, field

from mockup.faults import Fault, refuse
from mockup.limits.judge import SLACK, State
from mockup.quantity.fields import Key, Name, Words
from mockup.record import Record

LONGEST_REASON = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class SignOff:
    """One check, by its label, signed off as it stood: ``state`` and ``daylight`` [mm or 1], None where it had none.

    ``record`` says who signed and when. Raises FaultsError without a reason, or for a check that was clear.
    """

    key: Key = ""
    check: Name
    state: State
    daylight: float | None = None
    reason: Words
    record: Record = field(default_factory=Record)

    def __post_init__(self) -> None:
        found = []
        if not self.reason.strip():
            found.append(Fault("reason", "Say why it may run so: whose figure, whose decision."))
        if len(self.reason) > LONGEST_REASON:
            found.append(Fault("reason", f"At most {LONGEST_REASON} characters."))
        if self.state is State.CLEAR:
            found.append(Fault("check", "A clear check needs no signature."))
        refuse(found)

    def holds_for(self, state: State, daylight: float | None) -> bool:
        """Whether a check that stands so, with so much daylight [mm or 1], still stands as it was signed."""
        if state is not self.state:
            return False
        if self.daylight is None or daylight is None:
            return self.daylight is daylight
        return abs(daylight - self.daylight) <= SLACK
