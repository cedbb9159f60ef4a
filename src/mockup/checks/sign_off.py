"""Signing off a check that is not clear: by a person, with a reason, for its figure then."""

from collections.abc import Iterable, Sequence
from dataclasses import replace

from mockup.checks.check import Check
from mockup.limits.judge import State
from mockup.limits.sign_off import SignOff
from mockup.readings.record import standing


def signing(check: Check, reason: str) -> SignOff:
    """Return a signature for a check in its present state.

    Raises FaultsError if it is clear, or without a reason.
    """
    return SignOff(check=check.label, state=check.state, margin=check.margin, reason=reason)


def with_signatures(checks: Iterable[Check], sign_offs: Iterable[SignOff]) -> tuple[Check, ...]:
    """Return the checks, each with its newest valid signature, or with the one that has lapsed."""
    newest: dict[str, list[SignOff]] = {}
    for one in standing(sign_offs):
        newest.setdefault(one.check, []).append(one)
    return tuple(_signed(check, newest.get(check.label, ())) for check in checks)


def _signed(check: Check, found: Sequence[SignOff]) -> Check:
    if not found or check.state is State.CLEAR:
        return check
    held = [one for one in found if one.holds_for(check.state, check.margin)]
    return replace(check, signed=held[-1] if held else None, lapsed=None if held else found[-1])
