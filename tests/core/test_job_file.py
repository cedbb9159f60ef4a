"""The job file: read, written, refused with every fault, and its schema."""

import json
import re
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mockup.base.faults import FaultsError
from mockup.changes.change import Change, ChangeKind
from mockup.changes.cuts import DECK_CUT, HEAD_CUT
from mockup.changes.stack import GASKET_CHANGED
from mockup.changes.train import CAMSHAFT_CHANGED, ROCKERS_CHANGED
from mockup.checks.compression import RATIO_LOW_LIMIT
from mockup.checks.valve_limits import FACE_INTAKE_LIMIT, RADIAL_LIMIT
from mockup.engine.cam import CamCard, Duration, LobeCard
from mockup.engine.gasket import FinalGasket
from mockup.engine.valves import Place, Side
from mockup.evaluate import evaluate
from mockup.formats.job_read import read_job
from mockup.formats.job_write import job_data, write_job
from mockup.formats.report_json import report_data
from mockup.limits.judge import State
from mockup.limits.limit_set import Edit
from mockup.limits.schools import READY_MADE
from mockup.limits.sign_off import SignOff
from mockup.quantity.value import Unit
from mockup.readings.clay import ClayReading
from mockup.readings.deck import DeckReading
from mockup.readings.instruments import DEFAULT_INSTRUMENTS, INDICATOR
from mockup.readings.record import Record
from mockup.readings.sweep import SweepReading
from mockup.readings.tdc import TdcReading
from tests.making import OTHER_CAM, clay, deck, engine, job, mockup, twelve, volumes
from tests.making_jobs import ALONG, EXAMPLE, GASKET, data


def faults_of(text):
    with pytest.raises(FaultsError) as caught:
        read_job(text if isinstance(text, str) else json.dumps(text))
    return {fault.path: fault.message for fault in caught.value.faults}


@pytest.mark.parametrize("unit", list(Unit))
def test_a_job_written_and_read_is_the_same_job(unit):
    struck = deck(1, 40, record=Record(typed="40 down", by="Ottoline", at="2026-01-02T10:00:00", struck="moved"))
    before = job(unit=unit, deck=(deck(1, 4.5), deck(2, -3), struck))
    assert read_job(write_job(before)) == before
    assert read_job(write_job(twelve())) == twelve()


@given(st.floats(0, 40, allow_nan=False), st.sampled_from(list(Unit)))
def test_any_thickness_survives_the_file(mm, unit):
    before = job(unit=unit, clay=(clay(0, thickness_mm=mm, key="one"),))
    assert read_job(write_job(before)).of(ClayReading)[0].thickness_mm == pytest.approx(mm, abs=1e-9)


@st.composite
def changes(draw):
    """Any change an engine with rockers of 1.5 can have, done or only decided."""
    kind = draw(st.sampled_from(ChangeKind.all()))
    low, high = (kind.range.low, kind.range.high) if kind.range else (0.0, 0.0)
    least = 0.001 if kind in (DECK_CUT, HEAD_CUT) else -10.0
    ends = st.floats(least, 10.0) if kind in ALONG else st.just(0.0)
    return Change(
        key="c",
        kind=kind,
        order=draw(st.sampled_from([None, 1])),
        bank=draw(st.sampled_from([None, 0])),
        front_mm=draw(ends),
        rear_mm=draw(ends),
        side=draw(st.sampled_from(list(Side))) if kind.of_a_side else None,
        amount=draw(st.floats(max(low, -0.4) if kind is ROCKERS_CHANGED else low, high)),
        gasket=GASKET if kind is GASKET_CHANGED else None,
        cam=OTHER_CAM if kind is CAMSHAFT_CHANGED else None,
        cam_was=draw(st.sampled_from([None, replace(OTHER_CAM, icl_deg=108.0)])),
    )


@settings(max_examples=150)
@given(changes(), st.sampled_from(list(Unit)))
def test_any_change_survives_the_file_in_either_unit(one, unit):
    before = job(unit=unit, engine=engine(rocker_ratio=1.5), changes=(one,))
    (read,) = read_job(write_job(before)).changes
    lengths = {name: pytest.approx(getattr(one, name), abs=1e-9) for name in ("front_mm", "rear_mm", "amount")}
    assert {name: getattr(read, name) for name in lengths} == lengths
    same = ("key", "kind", "order", "bank", "side")
    assert [getattr(read, name) for name in same] == [getattr(one, name) for name in same]
    assert (read.gasket is None) == (one.gasket is None)
    if read.gasket:
        assert (read.gasket.name, read.gasket.compressed_mm) == ("steel", pytest.approx(1.15, abs=1e-9))


def test_lengths_are_numbers_in_the_files_unit_or_text_with_their_own():
    plain = data(deck=[{"cylinder": 1, "clearance": 0.006}, {"cylinder": 2, "clearance": "0.15 mm out"}])
    plain["engine"] |= {"bore": 3.75, "stroke": "98.425 mm"}
    found = read_job(json.dumps(plain))
    assert found.engine.bore_mm == pytest.approx(95.25)
    assert [reading.clearance_mm for reading in found.of(DeckReading)] == pytest.approx([0.1524, -0.15])
    assert found.of(DeckReading)[0].key == "deck.0"


def test_a_file_of_version_2_reads_as_the_same_job():
    signed = SignOff(key="s", check="Quench 1", state=State.SHORT, margin=-0.1, reason="the customer’s word")
    edits = {FACE_INTAKE_LIMIT: Edit(2.0, "by the maker")}
    now = job(sign_offs=(signed,), limits=READY_MADE["careful"].edited(edits))
    new = json.loads(write_job(now))
    old = {name: value for name, value in new.items() if name != "limits"} | {
        "version": 2,
        "margins": {"sheet": new["limits"]["set"], "edits": new["limits"]["edits"]},
        "sign_offs": [
            {("daylight" if name == "margin" else name): value for name, value in one.items()}
            for one in new["sign_offs"]
        ],
    }
    assert read_job(json.dumps(old)) == read_job(json.dumps(new)) == now


@pytest.mark.parametrize("version", [1, 2])
def test_an_old_file_with_the_old_and_the_new_name_is_refused(version):
    new = json.loads(write_job(job()))
    both = new | {"version": version, "margins": {"sheet": "street", "edits": []}}
    with pytest.raises(FaultsError) as caught:
        read_job(json.dumps(both))
    assert [fault.path for fault in caught.value.faults] == ["margins"]


def test_an_amount_is_in_the_files_unit_and_was_millimetres_in_version_1():
    relief = {"key": "r", "kind": "relief deeper", "side": "intake", "amount": 0.060, "order": None}
    assert read_job(json.dumps(data(changes=[relief]))).changes[0].amount == pytest.approx(1.524)
    assert read_job(json.dumps(data(changes=[relief], version=1))).changes[0].amount == pytest.approx(0.060)
    assert read_job(json.dumps(data(changes=[relief | {"amount": "1.5 mm"}]))).changes[0].amount == pytest.approx(1.5)
    written = job_data(read_job(json.dumps(data(changes=[relief]))))
    assert (written["version"], written["changes"][0]["amount"]) == (3, "0.06 in")


def test_how_truly_everything_is_known_goes_through_a_file():
    known = engine(bore_known_to_mm=0.0127, stroke_known_to_mm=0.01, rod_length_known_to_mm=0.1)
    gasket = FinalGasket(compressed_mm=1.0, bore_mm=97.0, known_to_mm=0.0254)
    wheel = TdcReading(key="w", before_deg=30.0, after_deg=31.0, wheel_known_to_deg=0.25)
    turned = SweepReading(
        key="t", mockup="A", place=Place(1, Side.INTAKE), crank_deg=0.0, clearance_mm=2.0, by_turning=True
    )
    lobe = LobeCard(lift_mm=7.6, durations=(Duration(226.0, 1.27),), tdc_lift_mm=1.5)
    before = job(
        engine=known,
        final_gasket=gasket,
        mockups=(mockup(gasket_known_to_mm=0.0127),),
        sweeps=(turned,),
        tdc=(wheel,),
        volumes=tuple(replace(one, known_to_cc=0.2) for one in volumes()),
        cam_card=CamCard(intake=lobe, exhaust=lobe, icl_deg=106.0, lsa_deg=110.0),
        instruments=DEFAULT_INSTRUMENTS | {INDICATOR: replace(DEFAULT_INSTRUMENTS[INDICATOR], repeats_mm=0.0254)},
    )
    assert read_job(write_job(before)) == before


def test_ten_faults_are_ten_faults():
    bad = data(unit="furlong", colour="red", name="")
    bad["engine"] |= {"cylinders": 2, "bore": "wide", "stroke": 9000, "rod_length": "long"}
    bad["deck"] = [{"cylinder": 9, "clearance": "zero"}, {"cylinder": 1, "clearance": "5 in"}]
    bad["clay"] = [{"mockup": "Z", "cylinder": 1, "side": "intake", "thickness": "2 mm"}]
    bad["limits"] = {"set": "none of them"}
    assert faults_of(bad).keys() == {
        "unit",
        "colour",
        "name",
        "engine.bore",
        "engine.stroke",
        "engine.rod_length",
        "deck.0.cylinder",
        "deck.1.clearance",
        "clay.0.mockup",
        "limits.set",
    }


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "Not JSON"),
        ("[1, 2", "Not JSON"),
        ("[]", "one JSON object"),
        ('{"a": 1, "a": 2}', "occurs twice"),
        ("[" * 100_000, "Not a job file"),
        ("9" * 10_000, "Not a job file"),
        ("{}", "required"),
    ],
)
def test_what_is_no_job_file_is_refused_in_words(text, words):
    assert any(words in message for message in faults_of(text).values())


@pytest.mark.parametrize(
    ("wrong", "at", "words"),
    [
        ({"engine": 5}, "engine", "Named values"),
        ({"clay": "96"}, "clay", "A list in brackets"),
        ({"clay": [7]}, "clay.0", "Named values"),
        ({"name": 5}, "name", "A text"),
        ({"changes": [{"key": "a", "kind": "polish"}]}, "changes.0.kind", "deck cut"),
        (
            {"limits": {"set": "street", "edits": [{"limit": "faces", "value": 1}]}},
            "limits.edits.0.limit",
            "face_intake",
        ),
        ({"limits": {"set": "roads"}}, "limits.set", "street-floor"),
        ({"version": 9}, "version", "1, 2 or 3"),
        *(
            ({"limits": {"set": "street", "edits": [{"limit": "ratio_low", "value": value}]}}, at, "plain number")
            for value, at in ((True, "limits.edits.0.value"), ("9.5", "limits.edits.0.value"))
        ),
        *(
            ({"changes": [{"key": "a", "kind": "cam", "amount": value}]}, "changes.0.amount", "finite number")
            for value in (True, "2", float("nan"), None)
        ),
        ({"engine": {"cylinders": 1, "bore": "3"}}, "engine.bore", "needs its unit"),
        ({"engine": {"cylinders": 1, "bore": "-3"}}, "engine.bore", "needs its unit"),
        ({"name": "n" * 5001}, "name", "characters"),
        ({"tdc": [{"before_deg": 9, "after_deg": 9, "method": "guess"}]}, "tdc.0.method", "'stop' or 'drop'"),
        ({"deck": [{"cylinder": 1.5, "clearance": "zero"}]}, "deck.0.cylinder", "whole number"),
        (
            {"mockups": [{"key": "A", "gasket_state": "none", "two_turns": "perhaps"}]},
            "mockups.0.two_turns",
            "true or false",
        ),
    ],
)
def test_what_is_refused_is_refused_in_the_files_own_words_and_names_what_is_allowed(wrong, at, words):
    found = faults_of(data(**wrong))
    assert words in found[at]
    # No class of the program, and no link to anybody's manual.
    assert not [message for message in found.values() if re.search(r"[a-z][A-Z]|http|instance|validat", message)]


@pytest.mark.parametrize(
    ("value", "words"),
    [
        (True, "A number"),
        (None, "A number"),
        ("0.112", "needs its unit"),
        ("-0.1 in", "Clay of"),
        ("1e3 mm", "not a length"),
        (float("nan"), "finite"),
        (float("inf"), "finite"),
        (-1, "Clay of"),
        ({}, "A number"),
    ],
)
def test_a_thickness_that_is_none_is_refused_at_its_place(value, words):
    bad = data(clay=[{"mockup": "A", "cylinder": 1, "side": "intake", "thickness": value}])
    found = faults_of(bad)
    assert [path for path in found if path.startswith("clay.0")]
    assert words in next(iter(found.values()))


def test_a_limit_edited_twice_is_refused():
    edit = {"limit": "face_intake", "value": 0.09}
    assert "edited twice" in faults_of(data(limits={"set": "street", "edits": [edit, edit]}))["limits.edits"]


def test_the_example_in_the_documentation_is_read_and_judged():
    report = evaluate(read_job(EXAMPLE.read_text()))
    again = json.loads(json.dumps(report_data(report)))
    assert again["verdict"] == report.verdict
    assert len(again["checks"]) == len(report.checks)


def test_a_limit_taken_away_and_a_ratio_edited_go_through_a_file():
    limits = READY_MADE["street"].edited(
        {FACE_INTAKE_LIMIT: Edit(None, "no intake"), RATIO_LOW_LIMIT: Edit(9.5), RADIAL_LIMIT: Edit(1.016)}
    )
    before = job(limits=limits)
    assert [edit["value"] for edit in job_data(before)["limits"]["edits"]] == [None, 9.5, "0.04 in"]
    assert read_job(write_job(before)).limits == limits


@pytest.mark.parametrize(
    ("text", "mm"),
    [("-1 mm", -1.0), ("\u22121 mm", -1.0), ("-0.1 in", -2.54), ("2 mm", 2.0), (" .5mm ", 0.5), (-2, -2.0)],
)
def test_an_offset_to_either_side_is_read_with_its_unit(text, mm):
    metric = json.loads(write_job(job(unit=Unit.MILLIMETRE)))
    metric["engine"]["pin_offset"] = text
    assert read_job(json.dumps(metric)).engine.pin_offset_mm == pytest.approx(mm)


def test_a_report_names_the_valve_where_a_check_is_of_one():
    data_ = report_data(evaluate(job()))
    assert (data_["format"], data_["version"]) == ("astute-mole/report", 3)
    found = {one["label"]: one["valve"] for one in data_["checks"]}
    assert (found["Intake 1"], found["Quench 1"]) == (1, None)


@pytest.mark.parametrize(
    ("wrong", "words"),
    [
        ({"mockups": [{"key": ["A"], "gasket_state": "none"}]}, "A text is expected"),
        ({"clay": [{"mockup": {"a": 1}, "cylinder": 1, "side": "intake", "thickness": "2 mm"}]}, "A text is expected"),
        ({"deck": [{"cylinder": 1, "clearance": 10**400}]}, "not a finite number"),
        ({"name": "a\x00b"}, "NUL"),
        ({"name": "a\ud800"}, "valid string"),
        ({"deck": [{"cylinder": 1, "clearance": "zero", "key": f"d{at}"} for at in range(5001)]}, "At most 5,000 here"),
    ],
    ids=["list for a key", "braces for a mock-up", "400 digits", "NUL", "half a character", "too many"],
)
def test_what_no_file_should_hold_is_refused_in_words_and_crashes_nothing(wrong, words):
    assert any(words in message for message in faults_of(data(**wrong)).values())


def test_a_byte_order_mark_is_no_fault():
    assert read_job("\ufeff" + json.dumps(data())) == read_job(json.dumps(data()))
