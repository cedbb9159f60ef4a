"""Signing off a check that is not clear: by a named person, with a reason, for the figure that stood there then."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace

from mockup.checks.check import Check
from mockup.checks.judge import SLACK, State
from mockup.faults import Fault, refuse
from mockup.readings.record import Record, standing

LONGEST_REASON = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class SignOff:
    """One check, by its label, signed off as it stood: ``state`` and ``daylight`` [mm or 1], None where it had none.

    ``record`` says who signed and when. Raises FaultsError without a reason, or for a check that was clear.
    """

    key: str = ""
    check: str
    state: State
    daylight: float | None = None
    reason: str
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

    def holds_for(self, check: Check) -> bool:
        """Whether the check still stands as it was signed: the same state and daylight."""
        if check.state is not self.state:
            return False
        if self.daylight is None or check.daylight is None:
            return self.daylight is check.daylight
        return abs(check.daylight - self.daylight) <= SLACK


def signing(check: Check, reason: str) -> SignOff:
    """A signature under a check as it stands. Raises FaultsError for one that is clear, or without a reason."""
    return SignOff(check=check.label, state=check.state, daylight=check.daylight, reason=reason)


def with_signatures(checks: Iterable[Check], sign_offs: Iterable[SignOff]) -> tuple[Check, ...]:
    """The checks, each with the newest signature under it that still holds, or with the one that has lapsed."""
    newest: dict[str, list[SignOff]] = {}
    for one in standing(sign_offs):
        newest.setdefault(one.check, []).append(one)
    return tuple(_signed(check, newest.get(check.label, ())) for check in checks)


def _signed(check: Check, found: Sequence[SignOff]) -> Check:
    if not found or check.state is State.CLEAR:
        return check
    held = [one for one in found if one.holds_for(check)]
    return replace(check, signed=held[-1] if held else None, lapsed=None if held else found[-1])
