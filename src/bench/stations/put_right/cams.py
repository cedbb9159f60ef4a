"""Which cam: the cams of the shelf beside the one that is in, what each would leave, and what would make it clear."""

from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from django import forms
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from bench.builds import services
from bench.drawings.cams_overlaid import cams_overlaid
from bench.page.bench import Bench, bench_or_404
from bench.page.entering import Wrong
from bench.page.fields import LengthField, NumberField, UnitFormMixin
from bench.page.show import show
from bench.page.shown import digest_of, refuse_changed
from bench.page.strip import STATE_CLASSES
from bench.shelf.models import ShelfCam
from bench.shops.access import member_writes, person_of
from bench.shops.once import repeatable
from bench.stations.put_right.lines import TABS
from mockup.changes.change import Change
from mockup.changes.kind import ChangeKind
from mockup.engine.valves import Side
from mockup.faults import FaultsError, message_of
from mockup.plans.predicted import predicted
from mockup.plans.what_if import WhatIf, curve_changes, supposed
from mockup.plans.which_cam import DEEPEST_RELIEF_MM, Candidate, Predicted, Prospect, drops_known, which_cam
from mockup.quantity.shown import bench_text, format_bench, format_daylight, format_expanded
from mockup.quantity.typed_angle import format_crank_angle
from mockup.quantity.value import MM_PER_THOU, Unit
from mockup.report import Report, worst
from mockup.stations import Station

MOST_TRIED = 50
USUAL_RELIEF_MM = {Unit.INCH: 40 * MM_PER_THOU, Unit.MILLIMETRE: 1.0}
"""How deep somebody would cut a relief for a cam, unless they say otherwise: common practice, no source."""
SHOWN = (
    ("", "all"),
    ("clear", "clear as it is"),
    ("relief", "clear after a relief"),
    ("near", "too near"),
)


class WhichCamForm(UnitFormMixin, forms.Form):
    """Which cams are tried, where they would stand, and which of them are shown."""

    advance = NumberField(
        label="Advanced by, crank °", required=False, help_text="from where each would stand; −2 retards"
    )
    ratio = NumberField(label="Rocker ratio", required=False)
    only = forms.ChoiceField(choices=SHOWN, required=False, label="Show")
    relief = LengthField(label="A relief of up to", required=False)

    def __init__(self, report: Report, data: Any = None) -> None:
        super().__init__(data)
        unit, ratio = report.job.unit, report.engine.rocker_ratio
        self.fields["ratio"].help_text = f"now {ratio:g}" if ratio is not None else "not said: needed by a card"
        self.usual = USUAL_RELIEF_MM[unit]
        self.read_in(unit)
        self.fields["relief"].help_text = f"empty: {bench_text(self.usual, unit)}"
        self.dress()

    def clean(self) -> dict[str, Any]:
        """Hold the position and the ratio against what there is."""
        found = super().clean() or {}
        if abs(found.get("advance") or 0.0) > 30:
            self.add_error("advance", "Within 30 crank degrees either way.")
        if not 1 <= (found.get("ratio") or 1.0) <= 3:
            self.add_error("ratio", "A ratio of 1 to 3.")
        if not 0 <= (found.get("relief") or 0.0) <= DEEPEST_RELIEF_MM:
            self.add_error("relief", "Up to 2.5 mm (0.098 in).")
        return found

    def tried(self, row: ShelfCam) -> Candidate:
        """A cam of the shelf, as it is to be tried."""
        found = self.cleaned_data if self.is_bound and self.is_valid() else {}
        return Candidate(
            key=str(row.pk), cam=row.core(), advance_deg=found.get("advance") or 0.0, ratio=found.get("ratio")
        )

    @property
    def deepest(self) -> float:
        """How deep a relief may be cut for a cam [mm]."""
        typed = self.cleaned_data.get("relief") if self.is_bound and self.is_valid() else None
        return self.usual if typed is None else float(typed)


@dataclass(frozen=True, slots=True)
class Told:
    """One valve of a candidate in words."""

    label: str
    figure: str
    angle: str
    daylight: str
    state: str
    tone: str


@dataclass(frozen=True, slots=True)
class CamLine:
    """A candidate as shown: its place in the ranking, its tightest valve, what would make it clear, every valve."""

    place: int
    row: ShelfCam
    by: str
    tightest: Told | None
    every: tuple[Told, ...]
    stands: str
    work: tuple[str, ...]
    missing: tuple[str, ...]
    query: str
    shown: str


@member_writes
def cams_for(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show what each cam would leave; take one, which makes it the plan."""
    bench = bench_or_404(build_id)
    rows = list(ShelfCam.objects.filter(off_since=None)[: MOST_TRIED + 1])
    chosen = request.POST if request.method == "POST" else request.GET
    form = WhichCamForm(bench.report, chosen if chosen else None)
    wrong: dict[str, Any] = {}
    if "take" in request.POST and form.is_valid():
        wrong = _take(request, bench, form, rows)
        if not wrong:
            return redirect("put-right", build_id=build_id)
    repeatable(request)
    picked = chosen.getlist("cam")
    tried = [row for row in rows[:MOST_TRIED] if not picked or str(row.pk) in picked]
    found = which_cam(bench.report, [form.tried(row) for row in tried])
    by_key = {str(row.pk): row for row in tried}
    kept = [one for one in found if _is_shown(one, form)]
    drops = drops_known(bench.report)
    parts: dict[str, Any] = {
        "folder": "put_right/which_cam",
        "tabs": TABS,
        "form": form,
        "boxes": [(row, not picked or str(row.pk) in picked) for row in rows[:MOST_TRIED]],
        "more": len(rows) > MOST_TRIED,
        "lines": [_line(bench, form, at, one, by_key[one.candidate.key]) for at, one in enumerate(kept, start=1)],
        "hidden": len(found) - len(kept),
        "chart": cams_overlaid(kept, curve_changes(bench.report, bench.report), bench.unit),
        "in_now": _in_now(bench),
        "drops": len(drops),
        "valves": sum(row.count for row in (bench.report.engine.row(side) for side in Side))
        * bench.report.engine.cylinders,
        "no_gasket": bench.report.job.final_gasket is None,
        "predicted": [(one.now.label, _measured(bench, one.then), _measured(bench, one.now)) for one in _was(bench)],
    }
    return show(request, bench, Station.RIGHT, parts | {"wrong": {**wrong, **form.errors}})


def _was(bench: Bench) -> Any:
    return predicted(bench.report)


def _measured(bench: Bench, check: Any) -> str:
    return f"{format_bench(check.figure.value, bench.unit)} ±{format_expanded(check.figure.expanded, bench.unit)}"


def _take(request: HttpRequest, bench: Bench, form: WhichCamForm, rows: list[ShelfCam]) -> dict[str, Wrong]:
    row = next((row for row in rows if str(row.pk) == request.POST["take"]), None)
    if row is None:
        return {"take": Wrong(request.POST["take"], "That cam was taken off the shelf. Nothing was decided.")}
    what_if = WhatIf(name=f"cam {row.name}"[:60], changes=tuple(_changes(bench, form.tried(row))))
    try:
        supposed(bench.report.job, what_if)
        refuse_changed(request.POST, _shown_now(bench, form, row), "the list shows now what each cam would leave.")
        services.plan(bench.build, what_if, None, person_of(request))
    except FaultsError as error:
        return {"take": Wrong("", message_of(error))}
    return {}


def _shown_now(bench: Bench, form: WhichCamForm, row: ShelfCam) -> str:
    """What the page would show of a cam now."""
    (one,) = which_cam(bench.report, [form.tried(row)])
    return _shown(row, tuple(_told(each, bench.unit) for each in one.predicted))


def _changes(bench: Bench, tried: Candidate) -> list[Change]:
    """Taking a cam: itself, then how it is moved from where it would stand, and the rockers that go with it."""
    found = [Change(key="camshaft", kind=ChangeKind.CAMSHAFT, cam=tried.cam)]
    if tried.advance_deg:
        found.append(Change(key="cam", kind=ChangeKind.CAM, amount=tried.advance_deg))
    ratio = bench.report.engine.rocker_ratio
    if tried.ratio is not None and ratio is not None and abs(tried.ratio - ratio) > 1e-9:
        more = round(tried.ratio - ratio, 6)
        found.append(Change(key="ratio", kind=ChangeKind.ROCKERS, amount=more))
    return found


def after_a_relief(one: Prospect, deepest_mm: float) -> bool:
    """Whether reliefs no deeper than that would make it clear [mm]."""
    reliefs = one.work.reliefs_mm if one.work else None
    return reliefs is not None and max(reliefs.values(), default=0.0) <= deepest_mm + 1e-9


def _is_shown(one: Prospect, form: WhichCamForm) -> bool:
    only = form.cleaned_data.get("only") if form.is_bound and form.is_valid() else ""
    if not only:
        return True
    if only == "clear":
        return one.clear
    relief = not one.clear and after_a_relief(one, form.deepest)
    return relief if only == "relief" else bool(one.predicted) and not one.clear and not relief


def _line(bench: Bench, form: WhichCamForm, place: int, one: Prospect, row: ShelfCam) -> CamLine:
    measured = one.measured
    by = "by its lobes, to be measured" if len(measured) == len(list(Side)) else "by its card, to be measured"
    tightest, every = one.tightest, tuple(_told(each, bench.unit) for each in one.predicted)
    query = {"camshaft": str(row.pk)}
    if one.candidate.advance_deg:
        query["cam"] = f"{one.candidate.advance_deg:g}"
    if one.candidate.ratio is not None:
        query["ratio"] = f"{one.candidate.ratio:g}"
    return CamLine(
        place=place,
        row=row,
        by=by,
        tightest=_told(tightest, bench.unit) if tightest else None,
        every=every,
        stands=_stands(one, form),
        work=tuple(_work(one, bench.unit)),
        missing=one.missing,
        query=f"{reverse('put-right', args=[bench.build.pk])}?{urlencode(query)}",
        shown=_shown(row, every),
    )


def _shown(row: ShelfCam, every: tuple[Told, ...]) -> str:
    """The digest of what is shown of a cam: every valve's figure, angle, margin and state."""
    valves = (word for one in every for word in (one.label, one.figure, one.angle, one.daylight, one.state))
    return digest_of([row.pk, row.name, *valves])


def _stands(one: Prospect, form: WhichCamForm) -> str:
    if not one.predicted or one.missing:
        return "not known"
    if one.clear:
        return "clear"
    window = one.work.window_deg if one.work else None
    if after_a_relief(one, form.deepest):
        return "clear after a relief"
    return "clear where it is moved to" if window else "too near"


def _told(one: Predicted, unit: Unit) -> Told:
    limited = one.check.limit.low is not None
    return Told(
        label=one.check.label,
        figure=f"{format_bench(one.figure.value, unit)} ±{format_expanded(one.figure.expanded, unit)}",
        angle=format_crank_angle(round(one.angle_deg)),
        daylight=format_daylight(one.daylight, unit) if limited else "",
        state=str(one.state),
        tone=STATE_CLASSES[one.state],
    )


def _work(one: Prospect, unit: Unit) -> list[str]:
    """What would make it clear, by itself each, in words."""
    if one.work is None or one.clear:
        window = one.work.window_deg if one.work else None
        return [_window(window)] if window else []
    found = []
    window, reliefs, gasket = one.work.window_deg, one.work.reliefs_mm, one.work.gasket_mm
    if window:
        found.append(_window(window))
    if reliefs:
        cut = " and ".join(f"{side} reliefs {bench_text(deeper, unit)} deeper" for side, deeper in reliefs.items())
        found.append(cut)
    if gasket:
        found.append(f"a gasket {bench_text(gasket, unit)} thicker")
    return found or ["nothing by itself, as far as was looked"]


def _window(window: tuple[float, float]) -> str:
    low, high = (f"{end:+.1f}°".replace("-", "−") for end in window)
    return f"clear where it stands {low} to {high} of its card, advanced positive"


def _in_now(bench: Bench) -> Told | None:
    """The tightest face of the cam that is in, as it was read."""
    checks = [check for check in bench.report.checks if str(check.kind).endswith("face") and check.figure]
    if not checks:
        return None
    check = worst(checks)
    assert check.figure is not None
    return Told(
        label=check.label,
        figure=_measured(bench, check),
        angle="",
        daylight=format_daylight(check.daylight, bench.unit) if check.daylight is not None else "",
        state=str(check.state),
        tone=STATE_CLASSES[check.state],
    )
