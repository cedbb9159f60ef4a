"""What was predicted of a cam before it was measured, beside what was measured once it was in."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from mockup.changes.change import cam_swaps
from mockup.checks.check import Check
from mockup.checks.valves import FACE_KINDS
from mockup.evaluate import evaluate
from mockup.report import Report


@dataclass(frozen=True, slots=True)
class Predicted:
    """One valve: its check as it was predicted by the drop and the cam alone, and as it was measured since."""

    then: Check
    now: Check


def predicted(report: Report) -> Sequence[Predicted]:
    """Every valve that was predicted when another cam went in, and read since; nothing where none went in.

    Predicted from what was read before that: the same job without what came after.
    """
    swaps = cam_swaps(report.job.changes)
    if not swaps:
        return ()
    went_in = swaps[-1].order or 0
    before = tuple(reading for reading in report.job.readings if reading.after < went_in)
    then = {check.label: check for check in evaluate(replace(report.job, readings=before, sign_offs=())).checks}
    read = [
        check
        for kind in FACE_KINDS.values()
        for check in report.of_kind(kind)
        if check.figure and not check.read_again and then[check.label].figure
    ]
    return [Predicted(then[check.label], check) for check in read]
