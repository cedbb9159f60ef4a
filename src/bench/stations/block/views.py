"""The block station: the engine as designed, changed while nothing read contradicts it."""

from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from bench.builds import services
from bench.builds.marks import as_it_is
from bench.builds.own_sheets import LONGEST_NAME, shelve_engine
from bench.page.bench import Bench, bench_or_404
from bench.page.build_form import BuildForm, initial_of
from bench.page.entering import Wrong
from bench.page.show import show
from bench.shops.access import member_writes, person_of
from bench.stations.block.life import BlockLimitForm, life_of
from mockup.faults import FaultsError, message_of
from mockup.stations import Station


@member_writes
def block(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the engine; change it."""
    bench = bench_or_404(build_id)
    limiting = "block-limit" in request.POST
    limit = BlockLimitForm(bench.unit, request.POST if limiting else None, auto_id="limit-%s")
    if limiting and limit.is_valid():
        services.write(bench.build, limit.item, person_of(request), typed=request.POST.get("deck_cut_mm", ""))
        return redirect(f"{reverse('block', args=[build_id])}#life")
    if "shelve" in request.POST:
        return _shelved(request, bench, limit)
    form = BuildForm(None if limiting else request.POST or None, initial=initial_of(bench.build))
    if request.method == "POST" and form.is_valid():
        try:
            was = request.POST.get("as_it_was", "")
            services.save_build(bench.build, person_of(request), engine=form.record, as_it_was=was, **form.of_the_build)
        except FaultsError as error:
            form.show_faults(error)
            bench = bench_or_404(build_id)
        else:
            messages.info(request, "The engine is saved.")
            return redirect(reverse("block", args=[build_id]))
    return _shown(request, bench, form, limit, {})


def _shown(
    request: HttpRequest, bench: Bench, form: BuildForm, limit: BlockLimitForm, wrong: dict[str, Any]
) -> HttpResponse:
    parts: dict[str, Any] = {"form": form, "folder": "block", "wrong": {**form.errors, **limit.errors, **wrong}}
    parts |= {"life": life_of(bench), "limit_form": limit, "as_it_is": as_it_is(bench.build)}
    return show(request, bench, Station.BLOCK, parts)


def _shelved(request: HttpRequest, bench: Bench, limit: BlockLimitForm) -> HttpResponse:
    """Put the engine on the shelf, to begin others from."""
    name = request.POST.get("engine_name", "")
    try:
        shelve_engine(bench.build, person_of(request), name)
    except FaultsError as error:
        wrong = {"engine_name": Wrong(name[:LONGEST_NAME], message_of(error))}
        return _shown(request, bench, BuildForm(initial=initial_of(bench.build)), limit, wrong)
    return redirect("shelf")
