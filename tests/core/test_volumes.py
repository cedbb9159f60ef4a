"""Volumes: several fills, stated figures, pistons down their bore, typing."""

from dataclasses import replace

import pytest

from mockup.base.faults import FaultsError
from mockup.base.stations import Station
from mockup.changes.cuts import HEAD_CUT
from mockup.checks.compression import RATIO_CHECK
from mockup.context import EvaluationContext
from mockup.engine.block import Layout
from mockup.evaluate import evaluate
from mockup.quantity.typed import LengthError, PistonTyped, parse_known_to, parse_piston, parse_volume
from mockup.quantity.typed_deck import Counts, Tool, parse_deck_reading
from mockup.quantity.value import DeckSign, Unit
from mockup.readings.volumes import Known, VolumePart, VolumeReading
from tests.making import change, engine, job, thou, volumes

DOWN = DeckSign.DOWN_POSITIVE


def chamber(cc, key="a", **changes):
    return VolumeReading(**({"key": key, "part": VolumePart.CHAMBER, "cc": cc} | changes))


def figure(*readings, part=VolumePart.CHAMBER, cylinder=1):
    return EvaluationContext(job(volumes=readings)).parts[part][cylinder]


def test_several_fills_are_averaged_and_their_spread_shown():
    found = figure(chamber(62.0), chamber(62.6, "b"), chamber(62.3, "c"))
    assert found.volume.value == pytest.approx(62.3)
    assert found.spread_cc == pytest.approx(0.6)
    assert len(found.readings) == 3


def test_measured_fills_govern_over_stated_ones_and_the_newest_stated_one_holds():
    stated = (chamber(60.0, "s", known=Known.STATED), chamber(61.0, "t", known=Known.STATED))
    assert figure(*stated).volume.value == 61.0
    assert figure(*stated).known is Known.STATED
    assert figure(*stated, chamber(62.0)).volume.value == 62.0


def test_a_cylinders_own_volume_comes_before_that_for_all():
    readings = (chamber(70.0), chamber(65.0, "own", cylinder=2))
    assert figure(*readings).volume.value == 70.0
    assert figure(*readings, cylinder=2).volume.value == 65.0


def test_a_piston_down_its_bore_is_the_fluid_less_the_cylinder_above_it():
    # Closed form: pi/4 x 95.25^2 x 10 mm = 71.256 cm3, so 75 cm3 of fluid is a dish of 3.744.
    reading = VolumeReading(key="p", part=VolumePart.PISTON, cc=75.0, depth_mm=10.0)
    assert figure(reading, part=VolumePart.PISTON).volume.value == pytest.approx(3.744, abs=1e-3)


def test_fills_far_apart_are_asked_about():
    apart = (*volumes(), chamber(72.0, "second"))
    assert any("Fills of one chamber differ" in question.text for question in evaluate(job(volumes=apart)).questions)


def test_a_stated_volume_says_so_beside_the_ratio():
    check = evaluate(job(volumes=volumes(known=Known.STATED))).of_kind(RATIO_CHECK)[0]
    assert "stated, not measured" in check.governing.method


@pytest.mark.parametrize("wrong", [{"cc": -1.0}, {"cc": float("nan")}, {"depth_mm": -1.0}, {"depth_mm": 101.0}])
def test_a_volume_that_cannot_be_is_refused(wrong):
    with pytest.raises(FaultsError):
        chamber(**({"cc": 62.0} | wrong))


@pytest.mark.parametrize(("text", "cc"), [("50 + 12.4", 62.4), ("50+50+3 cc", 103.0), ("62.4ml", 62.4)])
def test_several_burettes_full_are_added_up(text, cc):
    assert parse_volume(text) == pytest.approx(cc)


@pytest.mark.parametrize("text", ["50 + ", "+", "50 - 2", "50 + x", "1" * 60])
def test_a_sum_that_is_none_is_refused(text):
    with pytest.raises(LengthError):
        parse_volume(text)


def test_a_piston_is_typed_by_itself_or_by_the_fluid_over_it():
    assert parse_piston("dome 11", Unit.INCH) == PistonTyped(-11.0)
    fluid = parse_piston("48.2 at .300", Unit.INCH)
    assert (fluid.cc, fluid.depth_mm) == (48.2, pytest.approx(7.62))
    assert parse_piston("50 + 2 at 7.5", Unit.MILLIMETRE) == PistonTyped(52.0, 7.5)
    for bad in ("48.2 at", "48.2 at 0", "48.2", "at 3"):
        with pytest.raises(LengthError):
            parse_piston(bad, Unit.INCH)


@pytest.mark.parametrize(
    ("text", "tool", "down_thou"),
    [
        ("goes 0.5 not 1", None, 0.75),
        ("goes 11 not 12", None, 11.5),
        ("goes 3 not 4 out", None, -3.5),
        ("8", Tool(Counts.DEPTH), 8),
        ("8", Tool(Counts.DEPTH, thou(2)), 6),
        ("6", Tool(Counts.DIAL), -6),
        ("-6", Tool(Counts.DIAL), 6),
        ("2", Tool(Counts.DIAL, thou(10)), 8),
        ("5 out", Tool(Counts.DIAL, thou(10)), -5),
        ("zero", Tool(Counts.DEPTH, thou(10)), 0),
    ],
)
def test_a_deck_is_read_as_the_tool_in_hand_counts(text, tool, down_thou):
    assert parse_deck_reading(text, Unit.INCH, DOWN, tool).mm == pytest.approx(thou(down_thou), abs=1e-9)


@pytest.mark.parametrize("text", ["goes 12 not 11", "goes 11 not 11", "goes not 12", "8", "5 in", ""])
def test_a_deck_that_is_not_said_is_asked_for(text):
    with pytest.raises(LengthError):
        parse_deck_reading(text, Unit.INCH, DOWN)


def test_a_volume_for_all_that_was_filled_before_one_banks_heads_were_cut_still_counts_on_the_other():
    vee = engine(cylinders=4, layout=Layout.VEE)
    cut = change(HEAD_CUT, 10, bank=0)
    fills = (chamber(70.0), chamber(66.0, "b", after=1))
    found = EvaluationContext(job(engine=vee, volumes=fills, changes=(cut,))).parts[VolumePart.CHAMBER]
    assert [found[cylinder].volume.value for cylinder in vee.cylinder_numbers] == pytest.approx(
        [66.0, 68.0, 66.0, 68.0]
    )


@pytest.mark.parametrize(
    ("text", "found"), [("62.4", ("62.4", 0.0)), ("62.4 ± 0.2", ("62.4 ", 0.2)), ("50 + 12 +/- 0.5", ("50 + 12 ", 0.5))]
)
def test_how_truly_a_volume_is_known_is_typed_behind_it(text, found):
    assert parse_known_to(text) == found


@pytest.mark.parametrize("text", ["62 ± 0.2 ± 0.3", "62 ± 0", "62 ± much"])
def test_how_truly_a_volume_is_known_is_one_number_above_nothing(text):
    with pytest.raises(LengthError):
        parse_known_to(text)


@pytest.mark.parametrize(
    ("chamber_known", "piston_known", "said"),
    [
        (Known.MEASURED, Known.MEASURED, "volumes measured"),
        (Known.STATED, Known.MEASURED, "chamber stated, not measured"),
        (Known.MEASURED, Known.STATED, "piston stated, not measured"),
        (Known.STATED, Known.STATED, "chamber and piston stated, not measured"),
    ],
)
def test_a_ratio_says_which_of_its_volumes_were_only_stated(chamber_known, piston_known, said):
    piston = VolumeReading(key="p", part=VolumePart.PISTON, cc=5.0, known=piston_known)
    found = evaluate(job(volumes=(chamber(70.0, known=chamber_known), piston))).of_kind(RATIO_CHECK)[0]
    assert found.governing.method == said


def test_volumes_that_are_missing_are_asked_for_by_cylinder_and_those_of_another_engine_again():
    four = engine(cylinders=4)
    some = tuple(chamber(70.0, f"c{c}", cylinder=c) for c in (1, 2))
    cut = change(HEAD_CUT, 5)
    steps = {
        step.text: step.cylinder
        for step in evaluate(job(engine=four, volumes=some, changes=(cut,))).steps
        if step.station is Station.VOLUMES
    }
    assert steps == {
        "Measure the chamber volume of 3, 4.": 3,
        "Measure the chamber volume again: head cut since it was filled.": 1,
        "Measure the piston volume.": 1,
    }


@pytest.mark.parametrize(
    ("text", "middle", "known_to"),
    [("2 to 5", 3.5, 1.5), ("dish 2 to 5 cc", 3.5, 1.5), ("dome 10–11", 10.5, 0.5), ("62.4 to 62.8", 62.6, 0.2)],
)
def test_a_volume_is_guessed_as_a_range(text, middle, known_to):
    left, known = parse_known_to(text)
    assert known == pytest.approx(known_to)
    assert any(part == f"{middle}" for part in left.split())


@pytest.mark.parametrize("text", ["5 to 2", "2 to 2", "2 to 5 ± 1"])
def test_a_range_of_volumes_that_is_none_is_refused(text):
    with pytest.raises(LengthError):
        parse_known_to(text)


def test_a_stated_chamber_asks_whether_the_head_was_milled():
    stated = VolumeReading(key="chamber", part=VolumePart.CHAMBER, cc=70.0, known=Known.STATED)
    piston = VolumeReading(key="piston", part=VolumePart.PISTON, cc=5.0)
    for chamber, asked in ((stated, True), (replace(stated, known=Known.MEASURED), False)):
        (check, _) = evaluate(job(volumes=(chamber, piston))).of_kind(RATIO_CHECK)
        assert any("ever milled" in words for words in check.governing.cautions) is asked
