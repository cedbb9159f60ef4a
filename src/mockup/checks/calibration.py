"""Readings taken with an instrument whose calibration had ended."""

from collections.abc import Iterable, Mapping
from dataclasses import replace

from mockup.checks.check import Check, Finding
from mockup.job import Job


def with_calibration(checks: Iterable[Check], job: Job) -> Iterable[Check]:
    """Return the checks, with a caution on each finding by an instrument out of calibration."""
    lapsed = _lapsed(job)
    return (_warned(check, lapsed) for check in checks) if lapsed else checks


def _lapsed(job: Job) -> dict[str, str]:
    """Return the caution for each such reading, by its key."""
    if not any(instrument.calibrated for instrument in job.instruments.values()):
        return {}
    found = {}
    for reading in job.readings:
        instrument = job.instruments.get(getattr(reading, "instrument", ""))
        ended = instrument.lapsed_on(reading.record.at[:10]) if instrument and reading.record.at else ""
        if instrument and ended:
            found[reading.key] = f"Read with {instrument.name} after its calibration ended on {ended}."
    return found


def _warned(check: Check, lapsed: Mapping[str, str]) -> Check:
    findings = [check.governing, *check.others] if check.governing else [*check.others]
    if not any(key in lapsed for finding in findings for key in finding.evidence):
        return check
    governing = _said(check.governing, lapsed) if check.governing else None
    return replace(check, governing=governing, others=tuple(_said(one, lapsed) for one in check.others))


def _said(finding: Finding, lapsed: Mapping[str, str]) -> Finding:
    words = dict.fromkeys(lapsed[key] for key in finding.evidence if key in lapsed)
    return replace(finding, cautions=(*finding.cautions, *words)) if words else finding
