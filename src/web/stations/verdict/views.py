"""The verdict station: every check with its corrections, and the limits it is judged by."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from mockup.advice.outlook import verdict_text
from mockup.base.faults import FaultsError, message_of
from mockup.base.stations import Station
from mockup.checks.check import Check
from mockup.checks.compression import RATIO_HIGH_LIMIT, RATIO_LOW_LIMIT, USUAL_BY_FUEL
from mockup.checks.sign_off import signing
from mockup.limits.judge import State
from mockup.limits.limit_set import LimitName
from mockup.limits.sign_off import LONGEST_REASON
from mockup.report import FAILING, Report, Verdict, worst
from mockup.words.report_text import figure_text, limit_value_text
from web.builds import services
from web.builds.entry_kinds import LimitEdit
from web.builds.own_engines_and_limits import LONGEST_NAME, judge_by, shelve_limits
from web.entry.without_script import take
from web.page.answers import show, station_url
from web.page.build_page import BuildPage, build_page_or_404
from web.page.margin_strip import STATE_CLASSES
from web.page.read_fields import Wrong
from web.page.shown_digest import check_words, digest_of, refuse_changed
from web.shops.access import member_writes, person_of
from web.shops.clock import stamp
from web.stations.verdict.form import LimitForm, LimitsForm
from web.stations.verdict.matrix import matrix

MOST_NAMED = 8
"""Checks that are not clear, named above the table; all of them are in the table."""
MOST_TYPED = 6
"""Readings named one by one beside a check; the rest are counted."""


@member_writes
def verdict(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show every check; choose the limits, and change one."""
    page = build_page_or_404(build_id)
    choosing, changing = "choose" in request.POST, "change" in request.POST
    limits_form = LimitsForm(request.POST if choosing else None, initial={"limits": page.build.limits})
    limit_form = LimitForm(page.unit, page.report.job.limits, request.POST if changing else None)
    if "sign" in request.POST or "strike" in request.POST:
        return _signed(request, page, {"limits_form": limits_form, "limit_form": limit_form})
    if choosing and limits_form.is_valid():
        judge_by(page.build, limits_form.cleaned_data["limits"], page.report.job.limits, person_of(request))
        return redirect(reverse("verdict", args=[build_id]))
    if changing and limit_form.is_valid():
        _change(request, page, limit_form)
        return redirect(reverse("verdict", args=[build_id]))
    wrong: dict[str, Any] = {**limits_form.errors, **limit_form.errors}
    if "shelve-limits" in request.POST:
        name = request.POST.get("name", "")
        try:
            shelve_limits(page.report.job.limits, person_of(request), name)
        except FaultsError as error:
            wrong["name"] = Wrong(name[:LONGEST_NAME], message_of(error))
        else:
            return redirect(reverse("shelf"))
    parts = _parts(request, page) | {"limits_form": limits_form, "limit_form": limit_form}
    return show(request, page, Station.VERDICT, parts | {"wrong": wrong})


def _signed(request: HttpRequest, page: BuildPage, forms: dict[str, Any]) -> HttpResponse:
    """Sign off a check that is not clear, or strike a signature out."""
    wrong: dict[str, Any] = {}
    if "strike" in request.POST:
        wrong = dict(take(request, page, {}, "sign-off"))
    else:
        label, reason = request.POST["sign"], request.POST.get("reason", "").strip()
        check = next((check for check in page.report.checks if check.label == label), None)
        if check is None:
            raise Http404(label)
        try:
            _refuse_another(request, check, page)
            services.write(page.build, signing(check, reason), person_of(request))
        except FaultsError as error:
            wrong[label] = Wrong(reason[:LONGEST_REASON], message_of(error))
    if not wrong:
        return redirect(f"{reverse('verdict', args=[page.build.pk])}#verdict")
    return show(request, page, Station.VERDICT, _parts(request, page) | forms | {"wrong": wrong})


def _refuse_another(request: HttpRequest, check: Check, page: BuildPage) -> None:
    """Raise FaultsError if the check differs from the page that was signed."""
    words = f"{check.label} is {figure_text(check, page.unit)} now, {check.state}."
    refuse_changed(request.POST, digest_of(check_words(check, page.unit)), words)


def _change(request: HttpRequest, page: BuildPage, form: LimitForm) -> None:
    with services.locked(page.build):
        for name, edit in form.edits.items():
            item = LimitEdit(limit=name, value=edit.value, reason=edit.reason)
            services.write(page.build, item, person_of(request), typed=form.data.get("length", ""))


def _evidence(page: BuildPage) -> dict[str, str]:
    """What each check's figure rests on: the readings as typed, by whom and when."""
    rows = {row.key: row for row in page.log}
    found = {}
    for check in page.report.checks:
        read = [rows[key] for key in (check.governing.evidence if check.governing else ()) if key in rows]
        if read:
            typed = [row.typed for row in read if row.typed]
            more = f" and {len(typed) - MOST_TYPED} more" if len(typed) > MOST_TYPED else ""
            by = ", ".join(dict.fromkeys(row.read_by or row.by.shown_name for row in read))
            at = (read[-1].read_at or stamp(read[-1].at))[:10]
            found[check.label] = f"{', '.join(typed[:MOST_TYPED])}{more}; {by}, {at}"
    return found


def _mark_of(report: Report) -> str:
    """The mark of the whole build: green only where every required check is."""
    state = worst(report.checks).state if report.checks else State.NOT_MEASURED
    return STATE_CLASSES[State.NOT_MEASURED if report.verdict is Verdict.UNFINISHED and state is State.CLEAR else state]


def _parts(request: HttpRequest, page: BuildPage) -> dict[str, Any]:
    asked = request.GET.get("check", "")
    report, limits = page.report, page.report.job.limits
    written = {row.data["limit"]: row for row in page.log if row.kind == "limit" and not row.struck_reason}
    return {
        "folder": "verdict",
        "verdict_words": verdict_text(report),
        "matrix": matrix(report, asked),
        "not_clear": [check for check in report.checks if check.state in FAILING and not check.signed][:MOST_NAMED],
        "worst_tone": _mark_of(report),
        "wide": True,
        "limit_set": limits,
        "limits": [
            {
                "label": name.label,
                "now": limit_value_text(limits.effective.get(name), name, page.unit),
                "was": limit_value_text(limits.limits.get(name), name, page.unit),
                "edit": limits.edits.get(name),
                "by": written.get(name),
            }
            for name in LimitName.all()
        ],
        "signing": True,
        "by_fuel": [(one.words, f"{one.low:g} to {one.high:g}") for one in USUAL_BY_FUEL],
        "ratio_window": f"{RATIO_LOW_LIMIT}-{RATIO_HIGH_LIMIT}",
        "evidence": _evidence(page),
        "steps": [(step, station_url(step.station, page.build.pk, step.cylinder)) for step in report.steps],
        "signatures": [check for check in report.checks if check.signed],
    }
