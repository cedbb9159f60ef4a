"""The verdict station: every check with its trail, and the margin sheet it is judged by."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from bench.builds import services
from bench.builds.kinds import LimitEdit
from bench.builds.own_sheets import LONGEST_NAME, judge_by, shelve_margins
from bench.entry.taking import take
from bench.page.bench import Bench, bench_or_404
from bench.page.entering import Wrong
from bench.page.show import show, station_url
from bench.page.shown import check_words, digest_of, refuse_changed
from bench.page.strip import STATE_CLASSES
from bench.shops.access import member_writes, person_of
from bench.shops.clock import stamp
from bench.stations.verdict.form import LimitForm, SheetForm
from bench.stations.verdict.matrix import matrix
from mockup.checks.check import Check
from mockup.checks.sign_off import signing
from mockup.faults import FaultsError, message_of
from mockup.limits.judge import State
from mockup.limits.margins import LimitName
from mockup.limits.sign_off import LONGEST_REASON
from mockup.outlook import verdict_text
from mockup.report import FAILING, Report, Verdict, worst
from mockup.stations import Station
from mockup.words import figure_text, limit_value_text

MOST_NAMED = 8
"""Checks that are not clear, named above the table; they all stand in it."""
MOST_TYPED = 6
"""Readings named one by one beside a check; the rest are counted."""


@member_writes
def verdict(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show every check; choose the margin sheet and change a limit."""
    bench = bench_or_404(build_id)
    choosing, changing = "choose" in request.POST, "change" in request.POST
    sheet_form = SheetForm(request.POST if choosing else None, initial={"sheet": bench.build.sheet})
    limit_form = LimitForm(bench.unit, bench.report.job.sheet, request.POST if changing else None)
    if "sign" in request.POST or "strike" in request.POST:
        return _signed(request, bench, {"sheet_form": sheet_form, "limit_form": limit_form})
    if choosing and sheet_form.is_valid():
        judge_by(bench.build, sheet_form.cleaned_data["sheet"], bench.report.job.sheet, person_of(request))
        return redirect(reverse("verdict", args=[build_id]))
    if changing and limit_form.is_valid():
        _change(request, bench, limit_form)
        return redirect(reverse("verdict", args=[build_id]))
    wrong: dict[str, Any] = {**sheet_form.errors, **limit_form.errors}
    if "shelve-margins" in request.POST:
        name = request.POST.get("name", "")
        try:
            shelve_margins(bench.report.job.sheet, person_of(request), name)
        except FaultsError as error:
            wrong["name"] = Wrong(name[:LONGEST_NAME], message_of(error))
        else:
            return redirect(reverse("shelf"))
    parts = _parts(request, bench) | {"sheet_form": sheet_form, "limit_form": limit_form}
    return show(request, bench, Station.VERDICT, parts | {"wrong": wrong})


def _signed(request: HttpRequest, bench: Bench, forms: dict[str, Any]) -> HttpResponse:
    """Sign off a check that is not clear, or strike a signature out."""
    wrong: dict[str, Any] = {}
    if "strike" in request.POST:
        wrong = dict(take(request, bench, {}, "sign-off"))
    else:
        label, reason = request.POST["sign"], request.POST.get("reason", "").strip()
        check = next((check for check in bench.report.checks if check.label == label), None)
        if check is None:
            raise Http404(label)
        try:
            _refuse_another(request, check, bench)
            services.write(bench.build, signing(check, reason), person_of(request))
        except FaultsError as error:
            wrong[label] = Wrong(reason[:LONGEST_REASON], message_of(error))
    if not wrong:
        return redirect(f"{reverse('verdict', args=[bench.build.pk])}#verdict")
    return show(request, bench, Station.VERDICT, _parts(request, bench) | forms | {"wrong": wrong})


def _refuse_another(request: HttpRequest, check: Check, bench: Bench) -> None:
    """Raise FaultsError where the check stands otherwise now than on the page that was signed."""
    words = f"{check.label} is {figure_text(check, bench.unit)} now, {check.state}."
    refuse_changed(request.POST, digest_of(check_words(check, bench.unit)), words)


def _change(request: HttpRequest, bench: Bench, form: LimitForm) -> None:
    with services.locked(bench.build):
        for name, edit in form.edits.items():
            item = LimitEdit(limit=name, value=edit.value, reason=edit.reason)
            services.write(bench.build, item, person_of(request), typed=form.data.get("length", ""))


def _evidence(bench: Bench) -> dict[str, str]:
    """What each check's figure rests on: the readings as typed, by whom and when."""
    rows = {row.key: row for row in bench.book}
    found = {}
    for check in bench.report.checks:
        read = [rows[key] for key in (check.governing.evidence if check.governing else ()) if key in rows]
        if read:
            typed = [row.typed for row in read if row.typed]
            more = f" and {len(typed) - MOST_TYPED} more" if len(typed) > MOST_TYPED else ""
            by = ", ".join(dict.fromkeys(row.read_by or row.by.shown_name for row in read))
            at = (read[-1].read_at or stamp(read[-1].at))[:10]
            found[check.label] = f"{', '.join(typed[:MOST_TYPED])}{more}; {by}, {at}"
    return found


def _mark_of(report: Report) -> str:
    """The mark of the whole build: green only where every required check is, whatever the few that were read are."""
    state = worst(report.checks).state if report.checks else State.NOT_MEASURED
    return STATE_CLASSES[State.NOT_MEASURED if report.verdict is Verdict.UNFINISHED and state is State.CLEAR else state]


def _parts(request: HttpRequest, bench: Bench) -> dict[str, Any]:
    asked = request.GET.get("check", "")
    report, sheet = bench.report, bench.report.job.sheet
    written = {row.data["limit"]: row for row in bench.book if row.kind == "limit" and not row.struck_reason}
    return {
        "folder": "verdict",
        "verdict_words": verdict_text(report),
        "matrix": matrix(report, asked),
        "not_clear": [check for check in report.checks if check.state in FAILING and not check.signed][:MOST_NAMED],
        "worst_tone": _mark_of(report),
        "wide": True,
        "sheet": sheet,
        "limits": [
            {
                "label": name.label,
                "now": limit_value_text(sheet.effective.get(name), name, bench.unit),
                "was": limit_value_text(sheet.limits.get(name), name, bench.unit),
                "edit": sheet.edits.get(name),
                "by": written.get(name),
            }
            for name in LimitName
        ],
        "signing": True,
        "evidence": _evidence(bench),
        "steps": [(step, station_url(step.station, bench.build.pk, step.cylinder)) for step in report.steps],
        "signatures": [check for check in report.checks if check.signed],
    }
