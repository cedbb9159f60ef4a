"""The camera as a caliper: a picture of cut clay, marked, measured and entered."""

from typing import TYPE_CHECKING, Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.http import urlencode

from mockup.base.faults import FaultsError, message_of
from mockup.base.stations import Station
from mockup.camera.marks import Marks
from mockup.engine.valves import Place
from mockup.quantity.shown import format_bench, format_both, format_expanded
from mockup.quantity.value import BENCH_UNIT
from mockup.readings.clay import ClayReading, Gap
from mockup.readings.record import standing
from web.builds.models import MockUp
from web.drawings.slice_profile import few, polyline, slice_profile
from web.page.answers import frame
from web.page.build_page import BuildPage, build_page_or_404, cylinder_asked, mockup_in_hand, token_of
from web.page.shown_digest import digest_of, refuse_changed
from web.pictures.models import LONGEST_WORDS, Evidence, Picture
from web.pictures.services import Taken, keep_picture, marks_of, seen_in, take_reading
from web.shops.access import member_writes, person_of
from web.shops.once import repeatable
from web.stations.clay.marks_form import FOUR, TWO, MarksForm, as_before, at_first, sent

if TYPE_CHECKING:
    from mockup.camera.measure import Seen

NO_FILE = "Choose a picture, or take one."
NO_MOCKUP = "Save the mock-up first: a reading needs its conditions. The picture is kept."
NO_VALVE = "Choose its valve."
LONGEST_SPOT = 40
GAPS = [(str(Gap.FACE), "face"), (str(Gap.RADIAL), "edge")]


@member_writes
def pictures_in(request: HttpRequest, build_id: int) -> HttpResponse:
    """Add a picture to be measured, or choose an existing one."""
    page = build_page_or_404(build_id)
    cylinder = cylinder_asked(request, page)
    mockup = mockup_in_hand(request, page, "clay")
    wrong = ""
    if request.method == "POST":
        upload = request.FILES.get("picture")
        try:
            if upload is not None:
                picture = keep_picture(
                    page.build,
                    person_of(request),
                    upload,
                    upload.size or 0,
                    words=request.POST.get("words", ""),
                    mockup=mockup.letter if mockup else "",
                )
                return redirect(_address(picture, request))
            wrong = NO_FILE
        except FaultsError as error:
            wrong = message_of(error)
    context = {
        **frame(page, Station.CLAY),
        "cylinder": cylinder,
        "mockup": mockup,
        "wrong": wrong,
        "words": request.POST.get("words", "")[:LONGEST_WORDS],
        "pictures": [(one, _address(one, request)) for one in _latest(page)],
        "back": _clay(page, request),
    }
    return render(request, "clay/pictures.html", context, status=422 if wrong else 200)


def _latest(page: BuildPage) -> list[Picture]:
    return list(Picture.objects.filter(build=page.build, removed_at=None).order_by("-pk")[:24])


def _asked(request: HttpRequest) -> dict[str, str]:
    """Return what is chosen in the address."""
    return {name: value for name in ("cylinder", "mockup", "valve") if (value := request.GET.get(name, "")[:12])}


def _address(picture: Picture, request: HttpRequest) -> str:
    return f"{reverse('measure-picture', args=[picture.build_id, picture.pk])}?{urlencode(_asked(request))}"


def _clay(page: BuildPage, request: HttpRequest) -> str:
    return f"{reverse('clay', args=[page.build.pk])}?{urlencode(_asked(request))}"


@member_writes
def measure_picture(request: HttpRequest, build_id: int, picture_id: int) -> HttpResponse:
    """Show a picture with marks and result; enter that as a reading of a valve."""
    page = build_page_or_404(build_id)
    picture = get_object_or_404(Picture, pk=picture_id, build=page.build, removed_at=None)
    mockup = mockup_in_hand(request, page, "clay")
    form = _form(request, page, picture)
    taking = request.method == "POST" and "take" in request.POST
    marks = form.marks() if request.method == "POST" or form.length else None
    refused = _take(request, page, picture, mockup, marks) if taking and marks else ""
    if taking and marks and not refused:
        return redirect(_clay(page, request))
    if request.method == "POST":
        repeatable(request)
    context = {
        "picture": picture,
        "form": form,
        "bench_unit": BENCH_UNIT[page.unit],
        "seen": (seen := _seen(page, picture, marks) if marks else None),
        "shown": _shown(marks, seen.get("big", "")) if marks and seen else "",
        "refused": refused or (" ".join(form.wrong.values()) if taking else ""),
    }
    status = 422 if taking else 200
    if request.headers.get("HX-Request"):
        return render(request, "clay/_seen.html", context, status=status)
    whole = {**frame(page, Station.CLAY), **_taking(request, page, mockup), "back": _clay(page, request)}
    return render(request, "clay/measure.html", whole | context, status=status)


def _form(request: HttpRequest, page: BuildPage, picture: Picture) -> MarksForm:
    if request.method == "POST":
        return sent(request.POST, page.unit, picture.width, picture.height)
    before = Evidence.objects.filter(picture=picture, marks__isnull=False).last()
    if before is not None:
        return as_before(marks_of(before), page.unit)
    # The reference is most likely the one used last.
    last = Evidence.objects.filter(marks__isnull=False).last()
    before_it = marks_of(last) if last else None
    sides = FOUR if before_it is None or len(before_it.reference) == 4 else TWO
    form = at_first(page.unit, sides, picture.width, picture.height)
    if before_it is not None:
        form.length_as(before_it)
    return form


def _take(request: HttpRequest, page: BuildPage, picture: Picture, mockup: MockUp | None, marks: Marks) -> str:
    """Write the measured thickness into the log; returns why not, where that is impossible."""
    if mockup is None:
        return NO_MOCKUP
    place = _places(page).get(request.POST.get("valve", ""))
    if place is None:
        return NO_VALVE
    gap = Gap.RADIAL if request.POST.get("gap") == Gap.RADIAL else Gap.FACE
    spot = request.POST.get("spot", "").strip().lower()
    if len(spot) > LONGEST_SPOT:
        return f"Where it was cut: at most {LONGEST_SPOT} characters."

    def as_shown(thickness_mm: float) -> None:
        now = format_bench(thickness_mm, page.unit)
        words = f"with the marks where they are, the slice is {now} {BENCH_UNIT[page.unit]} at its thinnest."
        refuse_changed(request.POST, _shown(marks, now), words)

    try:
        at = Taken(place=place, gap=gap, mockup=mockup.letter, spot=spot)
        entry = take_reading(picture, marks, at, person_of(request), token_of(request), check=as_shown)
    except FaultsError as error:
        return message_of(error)
    if entry is not None:
        label = place.label(page.build.engine.row(place.side).count)
        messages.success(request, f"Written: {label}, {entry.typed}.")
    return ""


def _shown(marks: Marks, thickness: str) -> str:
    """Return the digest of what the page shows: the thickness in words, the marks."""
    return digest_of([thickness, marks])


def _places(page: BuildPage) -> dict[str, Place]:
    """Return every valve of the engine by its form value."""
    cylinders = range(1, page.build.engine.cylinders + 1)
    return {
        f"{place.cylinder}-{place.side}-{place.number}": place
        for cylinder in cylinders
        for place in page.valves_of(cylinder)
    }


def _to_read(page: BuildPage, cylinder: int, mockup: MockUp | None) -> str:
    """Return the form value of a cylinder's first valve without clay in this mock-up."""
    letter = mockup.letter if mockup else ""
    read = {r.place for r in standing(page.report.job.of(ClayReading)) if r.mockup == letter and r.gap is Gap.FACE}
    mine = [(name, place) for name, place in _places(page).items() if place.cylinder == cylinder]
    return next((name for name, place in mine if place not in read), mine[0][0])


def _taking(request: HttpRequest, page: BuildPage, mockup: MockUp | None) -> dict[str, Any]:
    """Return what a measured thickness may be a reading of."""
    places = {name: place.label(page.build.engine.row(place.side).count) for name, place in _places(page).items()}
    cylinder = cylinder_asked(request, page)
    asked = request.POST.get("valve") or request.GET.get("valve", "")
    return {
        "mockup": mockup,
        "valves": list(places.items()),
        "valve": asked if asked in places else _to_read(page, cylinder, mockup),
        "gaps": GAPS,
        "gap": request.POST.get("gap", str(Gap.FACE)),
        "spot": request.POST.get("spot", "")[:LONGEST_SPOT],
    }


def _seen(page: BuildPage, picture: Picture, marks: Marks) -> dict[str, Any]:
    """Return what the picture shows, in words and as lines over it."""
    seen = seen_in(picture, marks)
    unit = page.unit
    found: dict[str, Any] = {
        "refused": seen.refused,
        "cautions": seen.cautions,
        "edges": [polyline(few(one)) for one in seen.edges],
        "sides": [polyline(few(one)) for one in seen.sides],
        "thinnest": polyline(few(seen.thinnest)) if seen.thinnest is not None else "",
        "how": _how(seen),
    }
    if seen.apart is not None:
        found["profile"] = slice_profile(seen.apart.x_mm.tolist(), seen.apart.thickness_mm.tolist(), unit)
    if seen.thickness is not None:
        found["big"] = format_bench(seen.thickness.value, unit)
        found["both"] = format_both(seen.thickness.value, unit)
        found["expanded"] = format_expanded(seen.thickness.expanded, unit)
        found["parts"] = [(str(part.of), format_expanded(2 * part.u, unit)) for part in seen.parts]
    return found


def _how(seen: "Seen") -> str:
    """Return how well a picture shows what was marked."""
    if not seen.px_per_mm:
        return ""
    words = f"{seen.px_per_mm:.0f} pixels a millimetre; edges blurred over {seen.blur_px:.1f} px"
    return f"{words}; camera about {seen.tilt_deg:.0f}° off square." if seen.tilt_deg is not None else f"{words}."
