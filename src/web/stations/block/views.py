"""The block station: the engine as designed, changed as long as no reading contradicts it."""

from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from mockup.base.faults import FaultsError, message_of
from mockup.base.stations import Station
from web.builds import services
from web.builds.own_engines_and_limits import LONGEST_NAME, shelve_engine
from web.builds.versions import as_it_is
from web.page.answers import show
from web.page.build_form import BuildForm, initial_of
from web.page.build_page import BuildPage, build_page_or_404
from web.page.read_fields import Wrong
from web.shops.access import member_writes, person_of
from web.stations.block.life import BlockLimitForm, life_of


@member_writes
def block(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the engine; change it."""
    page = build_page_or_404(build_id)
    limiting = "block-limit" in request.POST
    limit = BlockLimitForm(page.unit, request.POST if limiting else None, auto_id="limit-%s")
    if limiting and limit.is_valid():
        services.write(page.build, limit.item, person_of(request), typed=request.POST.get("deck_cut_mm", ""))
        return redirect(f"{reverse('block', args=[build_id])}#life")
    if "shelve" in request.POST:
        return _shelved(request, page, limit)
    form = BuildForm(None if limiting else request.POST or None, initial=initial_of(page.build))
    if request.method == "POST" and form.is_valid():
        try:
            was = request.POST.get("as_it_was", "")
            services.save_build(page.build, person_of(request), engine=form.record, as_it_was=was, **form.of_the_build)
        except FaultsError as error:
            form.show_faults(error)
            page = build_page_or_404(build_id)
        else:
            messages.info(request, "Engine saved.")
            return redirect(reverse("block", args=[build_id]))
    return _shown(request, page, form, limit, {})


def _shown(
    request: HttpRequest, page: BuildPage, form: BuildForm, limit: BlockLimitForm, wrong: dict[str, Any]
) -> HttpResponse:
    parts: dict[str, Any] = {"form": form, "folder": "block", "wrong": {**form.errors, **limit.errors, **wrong}}
    parts |= {"life": life_of(page), "limit_form": limit, "as_it_is": as_it_is(page.build)}
    return show(request, page, Station.BLOCK, parts)


def _shelved(request: HttpRequest, page: BuildPage, limit: BlockLimitForm) -> HttpResponse:
    """Put the engine on the shelf, to start other builds from."""
    name = request.POST.get("engine_name", "")
    try:
        shelve_engine(page.build, person_of(request), name)
    except FaultsError as error:
        wrong = {"engine_name": Wrong(name[:LONGEST_NAME], message_of(error))}
        return _shown(request, page, BuildForm(initial=initial_of(page.build)), limit, wrong)
    return redirect("shelf")
