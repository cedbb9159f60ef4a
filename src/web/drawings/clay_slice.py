"""Clay imprints as sections: slices with their thicknesses, against the minimum."""

from dataclasses import dataclass

from mockup.checks.check import Check
from mockup.checks.valves import FACE_EXHAUST_CHECK, FACE_INTAKE_CHECK
from mockup.quantity.shown import format_bench
from mockup.readings.clay import ClayReading, Gap
from mockup.readings.record import standing
from mockup.report import Report
from mockup.words.report_text import limit_text

FLOOR = 128.0
TALLEST = 84.0
LEFT, RIGHT = 46.0, 214.0
"""The valve pressed between these; the displaced clay stands up on both sides."""
RIM = 26.0
RIM_TOP = 22.0


@dataclass(frozen=True, slots=True)
class SliceCut:
    """One measured thickness: its position in the section and its label."""

    x: float
    top: float
    words: str
    thinnest: bool


@dataclass(frozen=True, slots=True)
class Slice:
    """One valve's imprint: ``outline`` the clay, ``need_y`` the minimum's height or None."""

    title: str
    side: str
    outline: str
    cuts: tuple[SliceCut, ...]
    need_y: float | None
    need: str
    label: str


def clay_slices(report: Report, cylinder: int, letter: str) -> list[Slice]:
    """Return the imprints of one cylinder in the mock-up with that letter."""
    job = report.job
    faces = [
        r
        for r in standing(job.of(ClayReading))
        if r.mockup == letter and r.gap is Gap.FACE and r.place.cylinder == cylinder
    ]
    checks = [c for c in report.checks if c.cylinder == cylinder and c.kind in (FACE_INTAKE_CHECK, FACE_EXHAUST_CHECK)]
    found = []
    for check in checks:
        side = "intake" if check.kind is FACE_INTAKE_CHECK else "exhaust"
        mine = [r for r in faces if r.place.side == side and r.place.number == check.number]
        if mine:
            found.append(_slice(report, check, side, mine))
    return found


def _slice(report: Report, check: Check, side: str, readings: list[ClayReading]) -> Slice:
    unit = report.job.unit
    need = check.limit.low
    thickest = max([r.thickness_mm for r in readings] + ([need] if need else [])) or 1.0
    scale = TALLEST / thickest
    thinnest = min(r.thickness_mm for r in readings)
    step = (RIGHT - LEFT) / (len(readings) + 1)
    cuts = tuple(
        SliceCut(
            x=_where(reading.spot, at, step),
            top=round(FLOOR - reading.thickness_mm * scale, 1),
            words=format_bench(reading.thickness_mm, unit),
            thinnest=reading.thickness_mm == thinnest,
        )
        for at, reading in enumerate(readings)
    )
    outline = _imprint(tuple(sorted(cuts, key=lambda cut: cut.x)))
    return Slice(
        title=check.label,
        side=side,
        outline=outline,
        cuts=cuts,
        need_y=round(FLOOR - need * scale, 1) if need else None,
        need=f"wants {limit_text(check.limit, check.kind, unit)}" if need else "",
        label=f"{check.label}: clay read {', '.join(cut.words for cut in cuts)}",
    )


SPOT_AT = {"inner": 0.15, "plug": 0.15, "front": 0.2, "middle": 0.5, "rear": 0.8, "wall": 0.85, "outer": 0.85}
"""The position of a named place across the imprint, from the chamber's middle to the bore's wall."""


def _where(spot: str, at: int, step: float) -> float:
    """Return the position of a thickness: by its place, else in reading order."""
    return round(LEFT + (SPOT_AT[spot] * (RIGHT - LEFT) if spot in SPOT_AT else step * (at + 1)), 1)


def _imprint(cuts: tuple[SliceCut, ...]) -> str:
    """Return the clay's outline: rims, and the imprint's floor through measured places."""
    path = [f"M{LEFT - RIM:g},{FLOOR:g} L{LEFT - RIM:g},{RIM_TOP + 8:g}"]
    path.append(f"Q{LEFT - RIM / 2:g},{RIM_TOP:g} {LEFT:g},{RIM_TOP + 8:g}")
    path.append(f"L{LEFT + 10:g},{cuts[0].top:g}")
    path += [f"L{cut.x:g},{cut.top:g}" for cut in cuts]
    path.append(f"L{RIGHT - 10:g},{cuts[-1].top:g} L{RIGHT:g},{RIM_TOP + 8:g}")
    path.append(f"Q{RIGHT + RIM / 2:g},{RIM_TOP:g} {RIGHT + RIM:g},{RIM_TOP + 8:g} V{FLOOR:g}Z")
    return " ".join(path)
