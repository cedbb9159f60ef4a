"""Faults, the registry of kinds, and messages at the field where something is wrong."""

import pytest
from pydantic import TypeAdapter, ValidationError

from mockup.base.faults import Fault, FaultsError, message_of, out_of_range, refuse
from mockup.base.registry import Declared
from mockup.base.stations import Station
from mockup.changes.change import ChangeKind
from mockup.changes.cuts import DECK_CUT
from mockup.checks.check import Kind
from mockup.checks.quench import QUENCH_CHECK
from mockup.engine.block import ROD_RATIO, USUAL_BORE_MM, Engine
from mockup.engine.cam import Duration, LobeCard
from mockup.engine.valves import ValveRow
from mockup.motion.uncertain import refuse_impossible
from mockup.quantity.echo import Asked
from mockup.quantity.shown import example_text, mm_range, mm_text, plain_mm_text, volume_text
from mockup.quantity.typed import LengthError, parse_share
from mockup.quantity.value import DeckSign, Unit
from mockup.quick.block import QuickRatio
from mockup.quick.sums import DialSum
from mockup.readings.clay import ClayReading
from mockup.readings.instruments import Instrument
from mockup.readings.kinds import READING_KINDS
from mockup.readings.volumes import VolumePart, VolumeReading
from mockup.words.howto import HOW_TO
from tests.making import thou


def test_faults_are_refused_together_and_told_without_their_paths():
    with pytest.raises(FaultsError) as caught:
        refuse([Fault("a", "Not this."), Fault("b.c", "Nor that.")])
    assert [fault.path for fault in caught.value.faults] == ["a", "b.c"]
    assert message_of(caught.value) == "Not this. Nor that."
    assert message_of(ValueError("plain")) == "plain"
    assert str(caught.value) == "a: Not this.; b.c: Nor that."
    refuse([])


def test_what_is_no_number_is_out_of_every_range():
    part = type("Part", (), {"x": float("nan"), "y": 3.0})()
    assert out_of_range(part, {"x": (0, 1), "y": (1, 3)}) == [Fault("x", "From 0 to 1.")]


class Toy(Declared):
    """A kind that nothing else knows."""

    colour: str
    size: int = 1


def test_a_kind_declares_all_it_must_and_nothing_else_and_is_found_by_its_words():
    late, early = Toy("two words", order=20, colour="red"), Toy("one", order=10, colour="blue", size=3)
    try:
        assert Toy.all() == [early, late]
        assert (late.slug, late.size, early.size, Toy.named("one") is early) == ("two-words", 1, 3, True)
        for wrong, words in (
            ({}, "does not declare its colour"),
            ({"colour": "x", "taste": "y"}, "has no taste"),
        ):
            with pytest.raises(ValueError, match=words):
                Toy("three", order=1, **wrong)
        with pytest.raises(ValueError, match="“one” is declared twice"):
            Toy("one", order=1, colour="red")
        with pytest.raises(ValueError, match="One of: one, two words"):
            Toy.named("three")
        assert "two words" not in ChangeKind.all()
    finally:
        Toy.drop("one")
        Toy.drop("two words")
    assert Toy.all() == []


def test_a_kind_is_kept_in_data_by_its_words():
    adapter = TypeAdapter(ChangeKind)
    assert adapter.validate_python("deck cut") is DECK_CUT
    assert adapter.dump_python(DECK_CUT, mode="json") == "deck cut"
    assert adapter.json_schema() == {"type": "string", "enum": [str(kind) for kind in ChangeKind.all()]}
    with pytest.raises(ValidationError, match="One of"):
        adapter.validate_python("no such change")
    assert TypeAdapter(Kind).validate_python("quench") is QUENCH_CHECK


def test_a_share_is_typed_in_percent():
    assert [parse_share(text) for text in ("3 %", "3", "0.12%")] == pytest.approx([0.03, 0.03, 0.0012])
    for text in ("", "much", "-3 %", "3 mm"):
        with pytest.raises(LengthError):
            parse_share(text)


def test_lengths_and_volumes_in_messages_have_both_units():
    assert mm_range(0, 3) == "0 to 3 mm (0.118 in)"
    assert mm_range(0.2, 200) == "0.2 to 200 mm (0.008 to 7.87 in)"
    assert mm_range(-10, 10) == "−10 to 10 mm (−0.394 to 0.394 in)"
    assert (mm_text(5), plain_mm_text(12.5)) == ("5 mm (0.197 in)", "12.5 mm")
    assert [volume_text(cc) for cc in (62.44, -5.0, 0.0)] == ["62.4 cc", "−5.0 cc", "0.0 cc"]
    assert example_text(0.9906, Unit.INCH, big=False) == "as 39, .039 or 0.99mm"
    assert example_text(95.25, Unit.INCH, big=True) == "as 3.750 in or 95.25mm"
    assert example_text(95.25, Unit.MILLIMETRE, big=True) == "as 95.25 or 3.750 in"


def test_each_fault_is_at_its_field():
    with pytest.raises(FaultsError) as dial:
        DialSum(shown=120.0, divisions=100)
    assert dial.value.faults[0].path == "shown"
    with pytest.raises(FaultsError) as tool:
        Instrument(key="x", name="x", resolution_mm=0.01, accuracy_mm=2.0)
    assert tool.value.faults == (Fault("accuracy_mm", "From 0 to 1 mm."),)
    (steep,) = ValveRow(angle_deg=80.0).faults("intake")
    assert (steep.path, "degrees" in steep.message) == ("intake.angle_deg", True)


def test_a_card_that_no_lobe_can_have_is_refused():
    refuse_impossible(LobeCard(lift_mm=8.0, durations=(Duration(264.0, thou(20)), Duration(226.0, thou(50)))))
    with pytest.raises(FaultsError, match="No smooth lobe"):
        refuse_impossible(LobeCard(lift_mm=8.0, durations=(Duration(400.0, thou(6)), Duration(70.0, thou(50)))))


@pytest.mark.parametrize(
    ("stated", "sizes"),
    [
        # With neither stroke nor rod stated, the rod is taken as one and a half bores.
        ({}, (USUAL_BORE_MM, 1.5 * USUAL_BORE_MM / ROD_RATIO, 1.5 * USUAL_BORE_MM)),
        ({"bore_mm": 80.0}, (80.0, 120.0 / ROD_RATIO, 120.0)),
        ({"stroke_mm": 70.0}, (70.0, 70.0, ROD_RATIO * 70.0)),
        # A short rod allows no long stroke: 1.5 times what its usual proportion gives.
        ({"bore_mm": 100.0, "rod_length_mm": 100.0}, (100.0, 100.0 / ROD_RATIO * 1.5, 100.0)),
        ({"bore_mm": 80.0, "rod_length_mm": 160.0}, (80.0, 80.0, 160.0)),
    ],
)
def test_sizes_that_are_not_stated_have_the_usual_proportions(stated, sizes):
    found = Engine(cylinders=4, **stated).sizes
    assert (found.bore_mm, found.stroke_mm, found.rod_length_mm) == pytest.approx(sizes)


def test_clay_over_its_thickness_is_echoed_as_more_than_it():
    echo = READING_KINDS.of(ClayReading).echo["clay"]
    over, plain = (echo(Asked(text, Unit.INCH, DeckSign.DOWN_POSITIVE, None, None)) for text in ("over 110", "110"))
    assert over == f"more than {plain}"


def test_a_ratio_checked_without_a_build_keeps_its_deck_and_both_volumes():
    quick = QuickRatio(
        unit=Unit.INCH,
        deck_mm=0.1,
        gasket_mm=1.0,
        bore_mm=95.0,
        stroke_mm=90.0,
        chamber_cc=60.0,
        piston_cc=5.0,
    )
    kept = dict(quick.kept("A"))
    assert list(kept) == ["deck_mm", "chamber_cc", "piston_cc"]
    assert kept["deck_mm"].clearance_mm == 0.1
    volumes = [one for one in kept.values() if isinstance(one, VolumeReading)]
    assert [(one.part, one.cylinder, one.cc) for one in volumes] == [
        (VolumePart.CHAMBER, 1, 60.0),
        (VolumePart.PISTON, 1, 5.0),
    ]


def test_each_how_to_has_tools_in_a_line_and_steps_in_order():
    assert set(HOW_TO) <= set(Station)
    for how in HOW_TO.values():
        assert isinstance(how.tools, str)
        assert how.tools
        assert len(how.steps) > 1
        assert all(isinstance(one, tuple) for one in (how.steps, how.wrong))
        assert all(line.endswith((".", "?")) for line in (*how.steps, *how.wrong))
