"""The indicator station, and clay between crown and head, through the pages."""

import pytest
from django.urls import reverse

from mockup.engine.gasket import FinalGasket
from mockup.engine.valves import Place, Side
from mockup.readings.clay import HeadReading, HeadSpot
from mockup.readings.deck import DeckReading
from tests import making_rows as making
from tests.making import thou
from tests.web import words
from tests.web.asking import taken_in

HTMX = {"headers": {"HX-Request": "true"}}
SWEPT = {"sweep-0": "95.5", "sweep-5": "85.5", "sweep-10": "92", "sweep-15": "116", "sweep-20": "155"}


@pytest.fixture
def ready(bench, built, member):
    making.mockup(built, member)
    return built


def send(client, built, posted, valve="intake-1", cylinder=1):
    address = reverse("sweep", args=[built.pk]) + f"?cylinder={cylinder}&valve={valve}"
    return client.post(address, posted, **HTMX)


def test_a_sheet_of_readings_gives_the_closest_point_with_where_to_read_next(bench, ready):
    page = send(bench, ready, SWEPT).content.decode()
    assert "as mocked up, at 5.5 ATDC" in page
    assert "Next: read at <b>6 ATDC</b>" in page or "Enough" in page
    assert ('class="is-next"' in page) is ("Next: read at" in page)
    assert "data-frames" in page
    first = making.items(ready, "sweep")[0]
    assert (first.place, first.crank_deg, first.clearance_mm) == (Place(1, Side.INTAKE), 0.0, thou(95.5))
    enough = send(bench, ready, {"sweep-5": "85.5"} | {"sweep-6": "85.4"}).content.decode()
    assert "Enough: another reading" in enough


def test_readings_that_do_not_bracket_say_where_to_read(bench, ready):
    page = words(send(bench, ready, {name: SWEPT[name] for name in ("sweep-10", "sweep-15", "sweep-20")}))
    assert "Not bracketed" in page
    assert "Read at 5 ATDC" in page
    assert "proves nothing" in page or "bounds" in page or "not measured" in page.lower()


@pytest.mark.parametrize(
    ("valve", "typed", "degrees"),
    [
        ("intake-1", "9 ATDC 94", 9.0),
        ("intake-1", "3 BTDC 94", -3.0),
        ("exhaust-1", "9 BTDC 94", -9.0),
        ("exhaust-1", "TDC 94", 0.0),
    ],
)
def test_another_angle_is_typed_with_its_reading(bench, ready, valve, typed, degrees):
    page = send(bench, ready, {"sweep-other": typed}, valve).content.decode()
    (reading,) = making.items(ready, "sweep")
    assert (reading.crank_deg, reading.clearance_mm) == (degrees, thou(94))
    assert f'name="sweep-{degrees:g}"' in page


def test_drop_tilt_drift_and_the_wheel_are_kept_with_the_reading(bench, ready):
    hand = {"instrument": "indicator", "wheel": "no", "tilt": "8", "drift": "1"}
    send(bench, ready, hand | {"sweep-drop": "402", "sweep-10": "92"})
    at_ten, drop = sorted(making.items(ready, "sweep"), key=lambda reading: reading.drop)
    assert (drop.drop, drop.clearance_mm) == (True, thou(402))
    assert (at_ten.tilt_deg, at_ten.drift_mm, at_ten.wheel_set) == (8.0, pytest.approx(thou(1)), False)


@pytest.mark.parametrize(
    ("posted", "words"),
    [
        ({"sweep-other": "94"}, "Type the angle and then the reading"),
        ({"sweep-other": "9 94"}, "Before or after"),
        ({"sweep-other": "120 ATDC 94"}, "90"),
        ({"sweep-10": "92", "tilt": "much"}, "is not a tilt"),
        ({"sweep-10": "92", "tilt": "80"}, "tilt"),
        ({"sweep-10": "92", "drift": "900"}, "drift"),
        ({"sweep-10": "-4"}, "clearance"),
        ({"sweep-10": "92", "instrument": "a guess"}, "Choose the instrument"),
    ],
)
def test_what_cannot_be_is_refused_in_its_place_and_kept(bench, ready, posted, words):
    answer = send(bench, ready, posted)
    page = answer.content.decode()
    assert answer.status_code == 422
    assert words in page.lower() or words in page
    name = next(name for name in posted if name.startswith("sweep-"))
    assert f'value="{posted[name]}"' in page
    assert not making.items(ready, "sweep")


def test_an_indicator_needs_a_mock_up_first(bench, built):
    answer = send(bench, built, {"sweep-10": "92"})
    assert answer.status_code == 422
    assert "Save the" in answer.content.decode()


@pytest.mark.parametrize("valve", ["", "intake-9", "x", "exhaust", "intake-٣"])
def test_a_valve_the_engine_does_not_have_opens_the_first(bench, ready, valve):
    page = bench.get(reverse("sweep", args=[ready.pk]), {"valve": valve})
    assert page.context["place"] == Place(1, Side.INTAKE)


def test_readings_of_two_shut_valves_are_named_for_what_they_are(bench, ready):
    page = send(bench, ready, {"sweep-0": "150", "sweep-5": "154.5", "sweep-10": "168.5", "sweep-15": "191"})
    assert "firing TDC" in page.content.decode()


def test_clay_is_typed_with_its_place_and_crown_clay_on_the_same_sheet(bench, ready):
    address = reverse("clay", args=[ready.pk])
    sheet = {
        "clay-intake-1-face-0": "96 wall",
        "clay-exhaust-1-face-0": "over 200",
        "head-pad": "40",
        "head-plug": "90",
    }
    page = bench.post(address, sheet, **HTMX).content.decode()
    read = {reading.place.side: reading for reading in making.items(ready, "clay")}
    assert (read[Side.INTAKE].spot, read[Side.EXHAUST].touched) == ("wall", False)
    assert {(r.spot, r.thickness_mm) for r in making.items(ready, "head")} == {
        (HeadSpot.PAD, thou(40)),
        (HeadSpot.PLUG, thou(90)),
    }
    assert "over 200" in page


def test_sweeps_and_crown_clay_come_back_from_the_job_file(bench, ready):
    send(bench, ready, SWEPT | {"sweep-drop": "402"})
    bench.post(reverse("clay", args=[ready.pk]), {"head-plug": "over 90", "clay-intake-1-face-0": "over 200"})
    address = taken_in(bench, bench.get(reverse("export", args=[ready.pk])).content).url
    mine, theirs = (bench.get(at).context["report"] for at in (reverse("verdict", args=[ready.pk]), address))
    (before,), (after,) = mine.sweeps, theirs.sweeps
    assert (before.angles_deg, before.closest.minimum) == (after.angles_deg, after.closest.minimum)
    assert [r.thickness_mm for r in mine.job.of(HeadReading)] == [r.thickness_mm for r in theirs.job.of(HeadReading)]
    assert [(c.label, c.figure, c.state) for c in mine.checks] == [(c.label, c.figure, c.state) for c in theirs.checks]


def test_the_map_of_every_valve_tells_measured_inferred_and_unknown_apart(bench, ready, member):
    page = send(bench, ready, SWEPT).content.decode()
    # No gasket is chosen: nothing can be carried to the running engine.
    assert page.count("<span>not read</span>") == 4
    decks = (DeckReading(key="", cylinder=n, clearance_mm=thou(6 - 2 * n)) for n in (1, 2))
    making.write(ready, member, FinalGasket(compressed_mm=thou(36), bore_mm=97.0), *decks)
    answer = bench.get(reverse("sweep", args=[ready.pk]))
    page, first = answer.content.decode(), answer.context["report"].checks[0]
    assert page.count("<span>not read</span>") == 2
    assert f"({(first.figure.value - thou(2)) / thou(1):.1f}" in page
    assert "Of those Intake 2 seems the tightest" in page
