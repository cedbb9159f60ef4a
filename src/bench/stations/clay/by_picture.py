"""The camera as a caliper: a picture of the cut clay, marked, measured, and taken as a reading of the valve in hand."""

from typing import TYPE_CHECKING, Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.http import urlencode

from bench.builds.models import MockUp
from bench.drawings.slice_profile import few, polyline, slice_profile
from bench.page.bench import Bench, bench_or_404, cylinder_asked, mockup_in_hand, token_of
from bench.page.show import frame
from bench.page.shown import digest_of, refuse_changed
from bench.pictures.models import LONGEST_WORDS, Evidence, Picture
from bench.pictures.services import Taken, keep_picture, marks_of, seen_in, take_reading
from bench.shops.access import member_writes, person_of
from bench.shops.once import repeatable
from bench.stations.clay.marks_form import FOUR, TWO, MarksForm, as_before, at_first, sent
from mockup.camera.marks import Marks
from mockup.engine.valves import Place
from mockup.faults import FaultsError, message_of
from mockup.quantity.shown import format_bench, format_both, format_expanded
from mockup.quantity.value import BENCH_UNIT
from mockup.readings.clay import ClayReading, Gap
from mockup.record import standing
from mockup.stations import Station

if TYPE_CHECKING:
    from mockup.camera.measure import Seen

NO_FILE = "Choose a picture, or take one."
NO_MOCKUP = "Set down the mock-up first: a reading needs its conditions. The picture is kept."
NO_VALVE = "Say which valve it is of."
LONGEST_SPOT = 40
GAPS = [(str(Gap.FACE), "face"), (str(Gap.RADIAL), "edge")]


@member_writes
def pictures_in(request: HttpRequest, build_id: int) -> HttpResponse:
    """Take a picture in to be measured, or choose one that is there."""
    bench = bench_or_404(build_id)
    cylinder = cylinder_asked(request, bench)
    mockup = mockup_in_hand(request, bench, "clay")
    wrong = ""
    if request.method == "POST":
        upload = request.FILES.get("picture")
        try:
            if upload is not None:
                picture = keep_picture(
                    bench.build,
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
        **frame(bench, Station.CLAY),
        "cylinder": cylinder,
        "mockup": mockup,
        "wrong": wrong,
        "words": request.POST.get("words", "")[:LONGEST_WORDS],
        "pictures": [(one, _address(one, request)) for one in _latest(bench)],
        "back": _clay(bench, request),
    }
    return render(request, "clay/pictures.html", context, status=422 if wrong else 200)


def _latest(bench: Bench) -> list[Picture]:
    return list(Picture.objects.filter(build=bench.build, removed_at=None).order_by("-pk")[:24])


def _asked(request: HttpRequest) -> dict[str, str]:
    """What is in hand, as the address carries it."""
    return {name: value for name in ("cylinder", "mockup", "valve") if (value := request.GET.get(name, "")[:12])}


def _address(picture: Picture, request: HttpRequest) -> str:
    return f"{reverse('measure-picture', args=[picture.build_id, picture.pk])}?{urlencode(_asked(request))}"


def _clay(bench: Bench, request: HttpRequest) -> str:
    return f"{reverse('clay', args=[bench.build.pk])}?{urlencode(_asked(request))}"


@member_writes
def measure_picture(request: HttpRequest, build_id: int, picture_id: int) -> HttpResponse:
    """Show a picture with its marks and what they say; take that as a reading of the valve in hand."""
    bench = bench_or_404(build_id)
    picture = get_object_or_404(Picture, pk=picture_id, build=bench.build, removed_at=None)
    mockup = mockup_in_hand(request, bench, "clay")
    form = _form(request, bench, picture)
    taking = request.method == "POST" and "take" in request.POST
    marks = form.marks() if request.method == "POST" or form.length else None
    refused = _take(request, bench, picture, mockup, marks) if taking and marks else ""
    if taking and marks and not refused:
        return redirect(_clay(bench, request))
    if request.method == "POST":
        repeatable(request)
    context = {
        "picture": picture,
        "form": form,
        "bench_unit": BENCH_UNIT[bench.unit],
        "seen": (seen := _seen(bench, picture, marks) if marks else None),
        "shown": _shown(marks, seen.get("big", "")) if marks and seen else "",
        "refused": refused or (" ".join(form.wrong.values()) if taking else ""),
    }
    status = 422 if taking else 200
    if request.headers.get("HX-Request"):
        return render(request, "clay/_seen.html", context, status=status)
    whole = {**frame(bench, Station.CLAY), **_taking(request, bench, mockup), "back": _clay(bench, request)}
    return render(request, "clay/measure.html", whole | context, status=status)


def _form(request: HttpRequest, bench: Bench, picture: Picture) -> MarksForm:
    if request.method == "POST":
        return sent(request.POST, bench.unit, picture.width, picture.height)
    before = Evidence.objects.filter(picture=picture, marks__isnull=False).last()
    if before is not None:
        return as_before(marks_of(before), bench.unit)
    # The reference is most likely the one that was used last.
    last = Evidence.objects.filter(marks__isnull=False).last()
    before_it = marks_of(last) if last else None
    sides = FOUR if before_it is None or len(before_it.reference) == 4 else TWO
    form = at_first(bench.unit, sides, picture.width, picture.height)
    if before_it is not None:
        form.length_as(before_it)
    return form


def _take(request: HttpRequest, bench: Bench, picture: Picture, mockup: MockUp | None, marks: Marks) -> str:
    """Write what the marks say into the book; why not, where that cannot be."""
    if mockup is None:
        return NO_MOCKUP
    place = _places(bench).get(request.POST.get("valve", ""))
    if place is None:
        return NO_VALVE
    gap = Gap.RADIAL if request.POST.get("gap") == Gap.RADIAL else Gap.FACE
    spot = request.POST.get("spot", "").strip().lower()
    if len(spot) > LONGEST_SPOT:
        return f"Where it was cut: at most {LONGEST_SPOT} characters."

    def as_shown(thickness_mm: float) -> None:
        now = format_bench(thickness_mm, bench.unit)
        words = f"with the marks where they are, the slice is {now} {BENCH_UNIT[bench.unit]} at its thinnest."
        refuse_changed(request.POST, _shown(marks, now), words)

    try:
        at = Taken(place=place, gap=gap, mockup=mockup.letter, spot=spot)
        entry = take_reading(picture, marks, at, person_of(request), token_of(request), check=as_shown)
    except FaultsError as error:
        return message_of(error)
    if entry is not None:
        label = place.label(bench.build.engine.row(place.side).count)
        messages.success(request, f"Taken: {label}, {entry.typed}.")
    return ""


def _shown(marks: Marks, thickness: str) -> str:
    """The digest of what the page shows of a picture: the thickness in words, and the marks it was measured by."""
    return digest_of([thickness, marks])


def _places(bench: Bench) -> dict[str, Place]:
    """Every valve of the engine by how a form names it."""
    cylinders = range(1, bench.build.engine.cylinders + 1)
    return {
        f"{place.cylinder}-{place.side}-{place.number}": place
        for cylinder in cylinders
        for place in bench.valves_of(cylinder)
    }


def _to_read(bench: Bench, cylinder: int, mockup: MockUp | None) -> str:
    """The valve of a cylinder that has no clay in this mock-up yet, as a form names it; the first where all have."""
    letter = mockup.letter if mockup else ""
    read = {r.place for r in standing(bench.report.job.of(ClayReading)) if r.mockup == letter and r.gap is Gap.FACE}
    mine = [(name, place) for name, place in _places(bench).items() if place.cylinder == cylinder]
    return next((name for name, place in mine if place not in read), mine[0][0])


def _taking(request: HttpRequest, bench: Bench, mockup: MockUp | None) -> dict[str, Any]:
    """What a measured thickness may be taken as a reading of."""
    places = {name: place.label(bench.build.engine.row(place.side).count) for name, place in _places(bench).items()}
    cylinder = cylinder_asked(request, bench)
    asked = request.POST.get("valve") or request.GET.get("valve", "")
    return {
        "mockup": mockup,
        "valves": list(places.items()),
        "valve": asked if asked in places else _to_read(bench, cylinder, mockup),
        "gaps": GAPS,
        "gap": request.POST.get("gap", str(Gap.FACE)),
        "spot": request.POST.get("spot", "")[:LONGEST_SPOT],
    }


def _seen(bench: Bench, picture: Picture, marks: Marks) -> dict[str, Any]:
    """What the picture shows, in words and as lines over it."""
    seen = seen_in(picture, marks)
    unit = bench.unit
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
    """How well a picture shows what was marked."""
    if not seen.px_per_mm:
        return ""
    words = f"{seen.px_per_mm:.0f} pixels a millimetre; edges blurred over {seen.blur_px:.1f} px"
    return f"{words}; camera about {seen.tilt_deg:.0f}° off square." if seen.tilt_deg is not None else f"{words}."
