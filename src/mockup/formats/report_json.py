"""A report as plain JSON data for programs: lengths in millimetres, with corrections."""

from collections.abc import Iterable
from typing import Any

from mockup import PROGRAM
from mockup.advice.assembly_list import final_assembly
from mockup.checks.check import Check, Finding, Signature
from mockup.checks.drops import Drop
from mockup.checks.other_cam import known_drops
from mockup.context import EvaluationContext
from mockup.fit.deck_figures import DeckFigure
from mockup.fit.deck_plane import DeckPlane
from mockup.quantity.corrections import Correction
from mockup.quantity.value import Value
from mockup.report import Report, Step, TdcReport

REPORT_FORMAT = "astute-mole/report"
REPORT_VERSION = 3
"""Numbered with the job file: version 3 uses limits, margin and corrections for the names of version 1."""


def report_data(report: Report) -> dict[str, Any]:
    """Return the report as JSON data.

    Lengths [mm], ratios [1]; ``U`` is the expanded uncertainty k u.
    """
    return {
        "format": REPORT_FORMAT,
        "version": REPORT_VERSION,
        "program": PROGRAM,
        "name": report.job.name,
        "limits": report.job.limits.key,
        "verdict": report.verdict,
        "checks": [_check(check) for check in report.checks],
        "drops": [_drop(drop, report.context) for drop in known_drops(report.context).values()],
        "tdc": _tdc(report.tdc),
        "deck": {str(cylinder): _deck(figure) for cylinder, figure in report.deck.items()},
        "deck_planes": [_plane(plane) for plane in report.planes],
        "running_budget": {
            str(cylinder): _corrections(budget.corrections) for cylinder, budget in report.budgets.items()
        },
        "questions": [{"text": question.text, "evidence": question.evidence} for question in report.questions],
        "steps": [_step(step) for step in report.steps],
        "final_assembly": [{"key": one.key, "text": one.words, "why": one.why} for one in final_assembly(report)],
    }


def _drop(drop: Drop, context: EvaluationContext) -> dict[str, Any]:
    """Return the drop of a valve, as found and as it will run [mm]."""
    return {
        "cylinder": drop.place.cylinder,
        "side": drop.place.side,
        "valve": drop.place.number,
        "mockup": drop.mockup.key,
        "as_found": _value(drop.as_found),
        "as_it_will_run": _value(drop.running(context)),
        "how": drop.how,
        "corrections": _corrections(drop.corrections(context) or drop.first),
        "evidence": list(drop.evidence),
    }


def _tdc(tdc: TdcReport) -> dict[str, Any]:
    return {
        "wheel_error_deg": _value(tdc.figure.error_deg) if tdc.figure else None,
        "needle_dwell_deg": tdc.dwell_deg,
        "at_overlap_while_the_first_fires": tdc.companion,
    }


def _deck(figure: DeckFigure) -> dict[str, Any]:
    return {
        "clearance": _value(figure.clearance),
        "highest_edge": _value(figure.edge),
        "rock": _value(figure.rock),
        "corrections": _corrections(figure.corrections),
        "carried": list(figure.carried),
    }


def _plane(plane: DeckPlane) -> dict[str, Any]:
    return {
        "bank": plane.bank,
        "mean": _value(plane.mean),
        "spread": plane.spread_mm,
        "front_to_rear": _value(plane.run_mm),
        "front_to_rear_per_100": _value(plane.per_100_mm),
        "side_to_side_per_100": _value(plane.across_per_100_mm),
    }


def _corrections(corrections: Iterable[Correction]) -> list[dict[str, Any]]:
    return [{"text": correction.text, **(_value(correction.delta) or {})} for correction in corrections]


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
        "margin": check.margin,
        "missing": check.missing,
        "signed": _signature(check.signed),
        "lapsed": _signature(check.lapsed),
        "governing": _finding(check.governing) if check.governing else None,
        "others": [_finding(finding) for finding in check.others],
    }


def _signature(signed: Signature | None) -> dict[str, str] | None:
    return None if signed is None else {"reason": signed.reason, "by": signed.record.by, "at": signed.record.at}


def _finding(finding: Finding) -> dict[str, Any]:
    return {
        "figure": _value(finding.figure),
        "bound": finding.bound,
        "trust": finding.trust,
        "method": finding.method,
        "corrections": _corrections(finding.corrections),
        "u_made_of": [{"of": part.of, "u": part.u} for part in finding.parts],
        "contact": finding.contact,
        "evidence": list(finding.evidence),
        "cautions": list(finding.cautions),
        "carried": list(finding.carried),
        "read_again": finding.read_again,
    }


def _value(value: Value | None) -> dict[str, float] | None:
    return None if value is None else {"value": value.value, "U": value.expanded}


def _step(step: Step) -> dict[str, Any]:
    return {"station": step.station, "text": step.text, "cylinder": step.cylinder}
