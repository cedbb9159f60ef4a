"""What was predicted for a cam before it was measured, beside what was measured with it."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from mockup.changes.since import cam_swaps
from mockup.checks.check import Check
from mockup.checks.valves import FACE_KINDS
from mockup.evaluate import evaluate
from mockup.report import Report


@dataclass(frozen=True, slots=True)
class Predicted:
    """One valve: its check as predicted from the drop and the cam alone, and as measured since."""

    then: Check
    now: Check


def predicted(report: Report) -> Sequence[Predicted]:
    """Return every valve predicted for a cam that went in and read since.

    The prediction uses only readings from before: the same job without what came after.
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
