"""A report as plain JSON data, for programs: lengths in millimetres, every check with its trail."""

from collections.abc import Iterable
from typing import Any

from mockup.assembly import final_assembly
from mockup.checks.check import Check, Finding, Signature
from mockup.checks.drops import Drop
from mockup.checks.other_cam import known_drops
from mockup.quantity.ladder import Rung
from mockup.quantity.value import Value
from mockup.readings.basis import Basis
from mockup.readings.deck import DeckFigure
from mockup.readings.deck_plane import DeckPlane
from mockup.report import Report, Step, TdcReport

REPORT_FORMAT = "astute-mole/report"
REPORT_VERSION = 1


def report_data(report: Report) -> dict[str, Any]:
    """The report as JSON data. Lengths [mm], ratios [1]; ``U`` is the expanded uncertainty k u, k = 2 or more."""
    return {
        "format": REPORT_FORMAT,
        "version": REPORT_VERSION,
        "name": report.job.name,
        "margin_sheet": report.job.sheet.key,
        "verdict": report.verdict,
        "checks": [_check(check) for check in report.checks],
        "drops": [_drop(drop, report.basis) for drop in known_drops(report.basis).values()],
        "tdc": _tdc(report.tdc),
        "deck": {str(cylinder): _deck(figure) for cylinder, figure in report.deck.items()},
        "deck_planes": [_plane(plane) for plane in report.planes],
        "running_budget": {str(cylinder): _ladder(budget.rungs) for cylinder, budget in report.budgets.items()},
        "questions": [{"text": question.text, "evidence": question.evidence} for question in report.questions],
        "steps": [_step(step) for step in report.steps],
        "final_assembly": [{"key": one.key, "text": one.words, "why": one.why} for one in final_assembly(report)],
    }


def _drop(drop: Drop, basis: Basis) -> dict[str, Any]:
    """The drop of a valve: as found in its mock-up, and carried to the engine as it will run [mm]."""
    return {
        "cylinder": drop.place.cylinder,
        "side": drop.place.side,
        "valve": drop.place.number,
        "mockup": drop.mockup.key,
        "as_found": _value(drop.as_found),
        "as_it_will_run": _value(drop.running(basis)),
        "how": drop.how,
        "ladder": _ladder(drop.ladder(basis) or drop.first),
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
        "ladder": _ladder(figure.ladder),
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


def _ladder(rungs: Iterable[Rung]) -> list[dict[str, Any]]:
    return [{"text": rung.text, **(_value(rung.delta) or {})} for rung in rungs]


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
        "ladder": _ladder(finding.ladder),
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
