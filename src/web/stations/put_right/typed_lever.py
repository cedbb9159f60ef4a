"""A lever's amount as it would be typed into the what-if."""

import math

from mockup.changes.stack import GASKET_CHANGED, SHIMS_CHANGED
from mockup.changes.train import CAM_MOVED, ROCKERS_CHANGED
from mockup.plans.levers import Lever
from mockup.quantity.shown import bench_text, format_exact
from mockup.quantity.value import MM_PER_THOU, Unit
from mockup.report import Report
from web.stations.put_right.form import TypedWhatIf


def step_of(lever: Lever, unit: Unit) -> float:
    """Return the steps in which its amount is typed, in its own unit [mm], [deg] or [1]."""
    if lever.kind is CAM_MOVED:
        return 0.1
    if lever.kind is ROCKERS_CHANGED:
        return 0.001
    return MM_PER_THOU / 10 if unit is Unit.INCH else 0.01


def outward(amount: float, step: float) -> float:
    """Return an amount rounded to whole steps on its far side, where it is clear."""
    return round(math.copysign(math.ceil(abs(amount) / step - 1e-9) * step, amount), 6)


def typed_lever(report: Report, lever: Lever, amount: float) -> dict[str, str]:
    """Return the fields for a lever's amount in its unit; empty for 0 or without a field."""
    job, kind = report.job, lever.kind
    if not amount or kind is SHIMS_CHANGED:
        return {}
    if kind is CAM_MOVED:
        return {"cam": f"{amount:g}", "cam_of": str(lever.side or "")}
    if kind is ROCKERS_CHANGED:
        return {"ratio": f"{report.engine.ratio + amount:g}"}
    if kind is GASKET_CHANGED:
        now = job.final_gasket.compressed_mm if job.final_gasket else 0.0
        return {"gasket_thick": format_exact(round(now + amount, 6), job.unit)}
    return {TypedWhatIf(kind, lever.side).name: format_exact(amount, job.unit)}


def amount_words(lever: Lever, amount: float, unit: Unit) -> str:
    """Return an amount of a lever with its unit, signed; ``0`` for none."""
    sign = "+" if amount > 0 else ("−" if amount < 0 else "")
    if lever.kind is CAM_MOVED:
        return f"{sign}{abs(amount):.1f}°"
    if lever.kind is ROCKERS_CHANGED:
        return f"{sign}{abs(amount):.3f}"
    return f"{sign}{bench_text(abs(amount), unit)}"
