"""A report as plain JSON data, for programs: lengths in millimetres, every check with its trail."""

from typing import Any

from mockup.checks.check import Check, Finding
from mockup.quantity.value import Value
from mockup.report import Report, Step

REPORT_FORMAT = "astute-mole/report"
REPORT_VERSION = 1


def report_data(report: Report) -> dict[str, Any]:
    """The report as JSON data. Lengths [mm], ratios [1]; ``U`` is the expanded uncertainty 2u."""
    return {
        "format": REPORT_FORMAT,
        "version": REPORT_VERSION,
        "name": report.job.name,
        "margin_sheet": report.job.sheet.key,
        "verdict": report.verdict,
        "checks": [_check(check) for check in report.checks],
        "questions": [{"text": question.text, "evidence": question.evidence} for question in report.questions],
        "steps": [_step(step) for step in report.steps],
    }


def _check(check: Check) -> dict[str, Any]:
    return {
        "kind": check.kind,
        "label": check.label,
        "cylinder": check.cylinder,
        "valve": check.number or None,
        "state": check.state,
        "required": check.required,
        "figure": _value(check.figure),
        "limit": {
            "low": check.limit.low,
            "high": check.limit.high,
            "source": check.limit.source,
            "edited": check.limit.edited,
        },
        "daylight": check.daylight,
        "missing": check.missing,
        "governing": _finding(check.governing) if check.governing else None,
        "others": [_finding(finding) for finding in check.others],
    }


def _finding(finding: Finding) -> dict[str, Any]:
    return {
        "figure": _value(finding.figure),
        "bound": finding.bound,
        "trust": finding.trust,
        "method": finding.method,
        "ladder": [{"text": rung.text, **(_value(rung.delta) or {})} for rung in finding.ladder],
        "evidence": list(finding.evidence),
        "cautions": list(finding.cautions),
    }


def _value(value: Value | None) -> dict[str, float] | None:
    return None if value is None else {"value": value.value, "U": value.expanded}


def _step(step: Step) -> dict[str, Any]:
    return {"station": step.station, "text": step.text, "cylinder": step.cylinder}
