"""Which cam: the shelf's cams beside the present one, and what each would leave."""

from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from django import forms
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from mockup.base.faults import FaultsError, message_of
from mockup.base.stations import Station
from mockup.changes.change import Change
from mockup.changes.train import CAM_MOVED, CAMSHAFT_CHANGED, ROCKERS_CHANGED
from mockup.engine.valves import Side
from mockup.plans.predicted import predicted
from mockup.plans.what_if import WhatIf, curve_changes, supposed
from mockup.plans.which_cam import DEEPEST_RELIEF_MM, Candidate, Predicted, Prospect, drops_known, which_cam
from mockup.quantity.shown import bench_text, format_bench, format_expanded, format_margin
from mockup.quantity.typed_angle import format_crank_angle
from mockup.quantity.value import MM_PER_THOU, Unit
from mockup.report import Report, worst
from web.builds import services
from web.drawings.cams_overlaid import cams_overlaid
from web.page.build_page import BuildPage, build_page_or_404
from web.page.fields import LengthField, NumberField, UnitFormMixin
from web.page.margin_strip import STATE_CLASSES
from web.page.read_fields import Wrong
from web.page.shown_digest import digest_of, refuse_changed
from web.page.tool_pages import show_tool
from web.shelf.models import ShelfCam
from web.shops.access import member_writes, person_of
from web.shops.once import repeatable

MOST_TRIED = 50
USUAL_RELIEF_MM = {Unit.INCH: 40 * MM_PER_THOU, Unit.MILLIMETRE: 1.0}
"""How deep a relief would usually be cut for a cam: common practice, no source."""
SHOWN = (
    ("", "all"),
    ("clear", "clear as it is"),
    ("relief", "clear after a relief"),
    ("near", "too near"),
)


class WhichCamForm(UnitFormMixin, forms.Form):
    """Which cams are tried, their position, and which of them are shown."""

    advance = NumberField(label="Advanced by, crank °", required=False, help_text="from its own position; −2 retards")
    ratio = NumberField(label="Rocker ratio", required=False)
    only = forms.ChoiceField(choices=SHOWN, required=False, label="Show")
    relief = LengthField(label="A relief of up to", required=False)

    def __init__(self, report: Report, data: Any = None) -> None:
        super().__init__(data)
        unit, ratio = report.job.unit, report.engine.rocker_ratio
        self.fields["ratio"].help_text = f"now {ratio:g}" if ratio is not None else "not stated: needed for a card"
        self.usual = USUAL_RELIEF_MM[unit]
        self.read_in(unit)
        self.fields["relief"].help_text = f"empty: {bench_text(self.usual, unit)}"
        self.dress()

    def clean(self) -> dict[str, Any]:
        """Check position and ratio against their ranges."""
        found = super().clean() or {}
        if abs(found.get("advance") or 0.0) > 30:
            self.add_error("advance", "Within 30 crank degrees either way.")
        if not 1 <= (found.get("ratio") or 1.0) <= 3:
            self.add_error("ratio", "A ratio of 1 to 3.")
        if not 0 <= (found.get("relief") or 0.0) <= DEEPEST_RELIEF_MM:
            self.add_error("relief", "Up to 2.5 mm (0.098 in).")
        return found

    def tried(self, row: ShelfCam) -> Candidate:
        """Return a cam of the shelf as a candidate."""
        found = self.cleaned_data if self.is_bound and self.is_valid() else {}
        return Candidate(
            key=str(row.pk), cam=row.core(), advance_deg=found.get("advance") or 0.0, ratio=found.get("ratio")
        )

    @property
    def deepest(self) -> float:
        """Return how deep a relief may be cut for a cam [mm]."""
        typed = self.cleaned_data.get("relief") if self.is_bound and self.is_valid() else None
        return self.usual if typed is None else float(typed)


@dataclass(frozen=True, slots=True)
class CamFigure:
    """One valve of a candidate in words."""

    label: str
    figure: str
    angle: str
    margin: str
    state: str
    tone: str


@dataclass(frozen=True, slots=True)
class CamRow:
    """A candidate as shown: its rank, its tightest valve, what would make it clear, every valve."""

    place: int
    row: ShelfCam
    by: str
    tightest: CamFigure | None
    every: tuple[CamFigure, ...]
    stands: str
    work: tuple[str, ...]
    missing: tuple[str, ...]
    query: str
    shown: str


@member_writes
def cams_for(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show what each cam would leave; take one, which makes it the plan."""
    page = build_page_or_404(build_id)
    rows = list(ShelfCam.objects.filter(off_since=None)[: MOST_TRIED + 1])
    chosen = request.POST if request.method == "POST" else request.GET
    form = WhichCamForm(page.report, chosen if chosen else None)
    wrong: dict[str, Any] = {}
    if "take" in request.POST and form.is_valid():
        wrong = _take(request, page, form, rows)
        if not wrong:
            return redirect("put-right", build_id=build_id)
    repeatable(request)
    picked = chosen.getlist("cam")
    tried = [row for row in rows[:MOST_TRIED] if not picked or str(row.pk) in picked]
    found = which_cam(page.report, [form.tried(row) for row in tried])
    by_key = {str(row.pk): row for row in tried}
    kept = [one for one in found if _is_shown(one, form)]
    drops = drops_known(page.report)
    parts: dict[str, Any] = {
        "form": form,
        "boxes": [(row, not picked or str(row.pk) in picked) for row in rows[:MOST_TRIED]],
        "more": len(rows) > MOST_TRIED,
        "lines": [_line(page, form, at, one, by_key[one.candidate.key]) for at, one in enumerate(kept, start=1)],
        "hidden": len(found) - len(kept),
        "chart": cams_overlaid(kept, curve_changes(page.report, page.report), page.unit),
        "in_now": _in_now(page),
        "drops": len(drops),
        "valves": sum(row.count for row in (page.report.engine.row(side) for side in Side))
        * page.report.engine.cylinders,
        "no_gasket": page.report.job.final_gasket is None,
        "predicted": [(one.now.label, _measured(page, one.then), _measured(page, one.now)) for one in _was(page)],
    }
    return show_tool(request, page, "which_cam", parts, {**wrong, **form.errors}, station=Station.BUY)


def _was(page: BuildPage) -> Any:
    return predicted(page.report)


def _measured(page: BuildPage, check: Any) -> str:
    return f"{format_bench(check.figure.value, page.unit)} ±{format_expanded(check.figure.expanded, page.unit)}"


def _take(request: HttpRequest, page: BuildPage, form: WhichCamForm, rows: list[ShelfCam]) -> dict[str, Wrong]:
    row = next((row for row in rows if str(row.pk) == request.POST["take"]), None)
    if row is None:
        return {"take": Wrong(request.POST["take"], "That cam was taken off the shelf. Nothing was decided.")}
    what_if = WhatIf(name=f"cam {row.name}"[:60], changes=tuple(_changes(page, form.tried(row))))
    try:
        supposed(page.report.job, what_if)
        refuse_changed(request.POST, _shown_now(page, form, row), "the list now shows what each cam would leave.")
        services.plan(page.build, what_if, None, person_of(request))
    except FaultsError as error:
        return {"take": Wrong("", message_of(error))}
    return {}


def _shown_now(page: BuildPage, form: WhichCamForm, row: ShelfCam) -> str:
    """Return what the page would show of a cam now."""
    (one,) = which_cam(page.report, [form.tried(row)])
    return _shown(row, tuple(_cam_figure(each, page.unit) for each in one.predicted))


def _changes(page: BuildPage, tried: Candidate) -> list[Change]:
    """Return the changes for taking a cam: the cam, its move, its rockers."""
    found = [Change(key="camshaft", kind=CAMSHAFT_CHANGED, cam=tried.cam)]
    if tried.advance_deg:
        found.append(Change(key="cam", kind=CAM_MOVED, amount=tried.advance_deg))
    ratio = page.report.engine.rocker_ratio
    if tried.ratio is not None and ratio is not None and abs(tried.ratio - ratio) > 1e-9:
        more = round(tried.ratio - ratio, 6)
        found.append(Change(key="ratio", kind=ROCKERS_CHANGED, amount=more))
    return found


def after_a_relief(one: Prospect, deepest_mm: float) -> bool:
    """Return whether reliefs no deeper than that would make it clear [mm]."""
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


def _line(page: BuildPage, form: WhichCamForm, place: int, one: Prospect, row: ShelfCam) -> CamRow:
    measured = one.measured
    by = "from its lobes, to be measured" if len(measured) == len(list(Side)) else "from its card, to be measured"
    tightest, every = one.tightest, tuple(_cam_figure(each, page.unit) for each in one.predicted)
    query = {"camshaft": str(row.pk)}
    if one.candidate.advance_deg:
        query["cam"] = f"{one.candidate.advance_deg:g}"
    if one.candidate.ratio is not None:
        query["ratio"] = f"{one.candidate.ratio:g}"
    return CamRow(
        place=place,
        row=row,
        by=by,
        tightest=_cam_figure(tightest, page.unit) if tightest else None,
        every=every,
        stands=_stands(one, form),
        work=tuple(_work(one, page.unit)),
        missing=one.missing,
        query=f"{reverse('put-right', args=[page.build.pk])}?{urlencode(query)}",
        shown=_shown(row, every),
    )


def _shown(row: ShelfCam, every: tuple[CamFigure, ...]) -> str:
    """Return the digest of what is shown of a cam: figures, angles, margins, states."""
    valves = (word for one in every for word in (one.label, one.figure, one.angle, one.margin, one.state))
    return digest_of([row.pk, row.name, *valves])


def _stands(one: Prospect, form: WhichCamForm) -> str:
    if not one.predicted or one.missing:
        return "not known"
    if one.clear:
        return "clear"
    window = one.work.window_deg if one.work else None
    if after_a_relief(one, form.deepest):
        return "clear after a relief"
    return "clear at its moved position" if window else "too near"


def _cam_figure(one: Predicted, unit: Unit) -> CamFigure:
    limited = one.check.limit.low is not None
    return CamFigure(
        label=one.check.label,
        figure=f"{format_bench(one.figure.value, unit)} ±{format_expanded(one.figure.expanded, unit)}",
        angle=format_crank_angle(round(one.angle_deg)),
        margin=format_margin(one.margin, unit) if limited else "",
        state=str(one.state),
        tone=STATE_CLASSES[one.state],
    )


def _work(one: Prospect, unit: Unit) -> list[str]:
    """Return what would make it clear by a single change, in words."""
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
    return found or ["no single change within the search"]


def _window(window: tuple[float, float]) -> str:
    low, high = (f"{end:+.1f}°".replace("-", "−") for end in window)
    return f"clear when set {low} to {high} of its card, advanced positive"


def _in_now(page: BuildPage) -> CamFigure | None:
    """Return the tightest face with the present cam, as it was read."""
    checks = [check for check in page.report.checks if str(check.kind).endswith("face") and check.figure]
    if not checks:
        return None
    check = worst(checks)
    assert check.figure is not None
    return CamFigure(
        label=check.label,
        figure=_measured(page, check),
        angle="",
        margin=format_margin(check.margin, page.unit) if check.margin is not None else "",
        state=str(check.state),
        tone=STATE_CLASSES[check.state],
    )
