"""The quick check: one reading judged before anything is known of the engine."""

import math
from dataclasses import replace

import numpy as np
import pytest

from mockup.base.faults import FaultsError
from mockup.checks.check import Trust
from mockup.engine.mockup import Clay, DialTurns, Lifters, Overlap, Springs
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.limits.judge import Bound, State
from mockup.quantity.shown import mm_text
from mockup.quantity.value import Unit
from mockup.quick import valve
from mockup.quick.block import QuickQuench, QuickRatio
from mockup.quick.sums import LiftSum
from mockup.quick.valve import Method, QuickCheck, Under
from tests.making import thou

CAREFUL = {
    "lifters": Lifters.SOLID, "springs": Springs.CHECKING, "two_turns": True, "overlap": Overlap.MOVING,
    "dial_turns": DialTurns.COUNTER,
    "turned_step_deg": 0.0,
}  # fmt: skip


def answered(read, **said):
    check = QuickCheck(read_mm=thou(read), **CAREFUL | said)
    return check.answer(check.report())


@pytest.mark.parametrize(
    ("read", "said", "figure", "state"),
    [
        (96, {"under": Under.FINAL}, 96, State.CLEAR),
        (96, {"under": Under.USED}, 96, State.CLEAR),
        (160, {}, 160, State.CLEAR),  # whatever the gaskets were
        (95, {}, 95, State.CLOSE),
        (20, {}, 20, State.SHORT),
        (95, {"under": Under.NONE, "final_mm": thou(41)}, 136, State.CLEAR),
        (110, {"under": Under.OTHER, "stood_mm": thou(60), "final_mm": thou(40)}, 90, State.CLEAR),
        (100, {"under": Under.OTHER, "stood_mm": thou(60), "final_mm": thou(40)}, 80, State.CLOSE),
        (110, {"under": Under.SNUGGED}, 105, State.CLEAR),
        (110, {"under": Under.SNUGGED, "stood_mm": thou(55), "final_mm": thou(40)}, 95, State.CLEAR),
        (96, {"under": Under.FINAL, "side": Side.EXHAUST}, 96, State.CLOSE),
        (96, {"under": Under.FINAL, "limits": "careful"}, 96, State.SHORT),
        (82, {"under": Under.FINAL, "method": Method.TURNING}, 81, State.CLOSE),
        (430, {"under": Under.FINAL, "method": Method.ANGLE, "crank_deg": 10.0}, None, State.CLEAR),
    ],
)
def test_one_reading_is_judged_with_what_is_known_of_the_gasket(read, said, figure, state):
    found = answered(read, **said)
    assert found.state is state
    if figure is not None:
        assert found.figure.value / thou(1) == pytest.approx(figure, abs=2 if "method" in said else 1e-6)


def test_what_is_known_less_surely_is_known_less_surely():
    doubt = {
        under: answered(110, under=under).figure.u for under in (Under.FINAL, Under.USED, Under.SNUGGED, Under.UNKNOWN)
    }
    assert doubt[Under.FINAL] < doubt[Under.USED] < doubt[Under.SNUGGED] < doubt[Under.UNKNOWN]
    # Nothing is open where the very gasket was in: all of U is the reading's own.
    clay = answered(110, under=Under.FINAL).governing.corrections[0].delta.u
    assert doubt[Under.FINAL] == pytest.approx(clay)


@pytest.mark.parametrize("under", [Under.UNKNOWN, Under.USED, Under.SNUGGED])
def test_u_holds_against_gaskets_that_the_check_does_not_know(under):
    """Truth: any two gaskets of 20 to 75 thou, or one kind within 2, or down by 0 to 10."""
    rng = np.random.default_rng(12)
    count = 400
    stood = rng.uniform(20, 75, count)
    final = {
        Under.UNKNOWN: rng.uniform(20, 75, count),
        Under.USED: stood + rng.uniform(-2, 2, count),
        Under.SNUGGED: stood - rng.uniform(0, 10, count),
    }[under]
    truth = rng.uniform(60, 200, count)
    read = np.clip(truth - (final - stood) + rng.normal(0, 3, count), 0, None)
    found = [answered(one, under=under).figure for one in read[:120]]
    held = [abs(one.value / thou(1) - true) <= one.expanded / thou(1) for one, true in zip(found, truth, strict=False)]
    assert np.mean(held) >= 0.93


@pytest.mark.parametrize("method", list(Method))
def test_nothing_of_the_engine_that_stands_in_enters_the_answer(method, monkeypatch):
    check = QuickCheck(read_mm=thou(96), method=method, crank_deg=8.0, under=Under.USED)
    before = check.answer(check.report())
    other = replace(valve.UNASKED, bore_mm=70.0, stroke_mm=120.0, rod_length_mm=260.0)
    after = evaluate(replace(check.job, engine=other)).checks
    assert check.answer(check.report()).figure == before.figure
    assert [one.figure for one in after if one.label == before.label] == [before.figure]


@pytest.mark.parametrize(
    ("said", "trust", "bound"),
    [
        ({"clay": Clay.PUTTY}, Trust.VOID, Bound.AT_MOST),
        ({"lifters": Lifters.UNBLOCKED}, Trust.OPTIMISTIC, Bound.AT_MOST),
        ({"springs": Springs.RUNNING}, Trust.LOADED, Bound.AT_MOST),
        ({}, Trust.SOUND, Bound.EXACT),
    ],
)
def test_how_it_was_read_counts_as_in_every_build(said, trust, bound):
    found = answered(96, under=Under.FINAL, **said)
    assert (found.governing.trust, found.governing.bound) == (trust, bound)
    assert (found.state is State.CLEAR) == (not said)


@pytest.mark.parametrize(
    "unsaid",
    [
        {"lifters": Lifters.NOT_STATED},
        {"springs": Springs.NOT_STATED},
        {"two_turns": False},
        {"method": Method.TURNING, "overlap": Overlap.NOT_STATED},
        {"method": Method.ANGLE, "crank_deg": 9.0, "overlap": Overlap.WHEEL},
    ],
)
def test_what_nobody_said_is_never_taken_for_the_best(unsaid):
    assert answered(430, under=Under.FINAL).state is State.CLEAR
    assert answered(430, under=Under.FINAL, **unsaid).state is State.NOT_MEASURED


def test_clay_squeezed_to_nothing_touches():
    assert answered(0, under=Under.FINAL).state is State.SHORT
    assert any("metal on metal" in one for one in answered(0, under=Under.FINAL).governing.cautions)


def test_what_nobody_said_is_told_with_what_it_may_change():
    def told(**said):
        return " ".join(QuickCheck(read_mm=thou(96), **said).supposed())

    assert "20 to 75 thou" in told()
    assert "upright." in told(under=Under.FINAL)
    # By hand: 36 thou of gasket count 36 x (1 - cos 20 degrees) = 2.2 thou less along a valve at 20 degrees.
    assert "at 20° the gasket would count 2.2 thou less" in told(under=Under.NONE, final_mm=thou(36))
    assert "5 ± 5 thou" in told(under=Under.SNUGGED)
    assert "0.13 ± 0.13 mm" in told(under=Under.SNUGGED, unit=Unit.MILLIMETRE)
    assert "only snugged" in told(under=Under.USED)
    assert "only snugged" not in told(under=Under.FINAL)


@pytest.mark.parametrize(
    ("said", "path", "words"),
    [
        ({"read_mm": 50.0}, "read_mm", "Clay of"),
        ({"read_mm": 50.0, "method": Method.TURNING}, "read_mm", "A clearance of"),
        ({"method": Method.ANGLE}, "crank_deg", "the angle"),
        ({"method": Method.ANGLE, "crank_deg": 120.0}, "crank_deg", "Within 90"),
        ({"under": Under.NONE}, "final_mm", "thickness"),
        ({"under": Under.OTHER, "final_mm": 1.0}, "stood_mm", "thickness"),
        ({"under": Under.SNUGGED, "final_mm": 1.0}, "stood_mm", "Both thicknesses"),
        ({"under": Under.SNUGGED, "stood_mm": 1.0}, "final_mm", "Both thicknesses"),
        ({"under": Under.OTHER, "final_mm": 1.0, "stood_mm": 60.0}, "stood_mm", "how thick"),
        ({"under": Under.OTHER, "final_mm": 60.0, "stood_mm": 1.0}, "final_mm", "A head gasket"),
        ({"limits": "roads"}, "limits", "street"),
    ],
)
def test_what_is_missing_or_cannot_be_is_said_at_its_field(said, path, words):
    with pytest.raises(FaultsError) as caught:
        QuickCheck(**({"read_mm": 2.4} | said))
    assert {fault.path: words in fault.message for fault in caught.value.faults} == {path: True}


@pytest.mark.parametrize(
    ("deck", "gasket", "quench", "state"),
    [
        (11, 41, 52, State.OVER),  # 11 down and a gasket of 41 make 52: common practice, no source
        (-3, 41, 38, State.CLEAR),
        (0, 35, 35, State.CLOSE),
        (0, 45, 45, State.CLOSE),
        (-12, 36, 24, State.SHORT),
    ],
)
def test_deck_and_gasket_make_the_quench(deck, gasket, quench, state):
    check = QuickQuench(deck_mm=thou(deck), gasket_mm=thou(gasket))
    found = check.answer(check.report())
    assert (found.figure.value / thou(1), found.state) == (pytest.approx(quench), state)


RATIO = {
    "bore_mm": 95.25, "stroke_mm": 98.425, "chamber_cc": 70.0, "piston_cc": 5.0, "deck_mm": thou(4),
    "gasket_mm": thou(36),
}  # fmt: skip


@pytest.mark.parametrize("more", [{}, {"gasket_bore_mm": 97.0}, {"piston_cc": -8.0, "deck_mm": -0.1}])
def test_five_volumes_make_the_ratio(more):
    # Closed form, any engine text: (swept + clearance) / clearance.
    said = RATIO | more
    area, gasket_area = (math.pi / 4 * d**2 / 1000 for d in (95.25, said.get("gasket_bore_mm") or 96.25))
    clearance = said["chamber_cc"] + said["piston_cc"] + area * said["deck_mm"] + gasket_area * said["gasket_mm"]
    check = QuickRatio(**said)
    assert check.answer(check.report()).figure.value == pytest.approx(area * 98.425 / clearance + 1)


def test_a_gasket_bore_that_nobody_said_is_told_with_its_worth():
    now, wider = (
        check.answer(check.report()).figure.value
        for check in (QuickRatio(**RATIO, gasket_bore_mm=bore) for bore in (96.25, 97.25))
    )
    assert QuickRatio(**RATIO).supposed() == (
        f"The gasket’s bore is assumed to be the cylinder’s and {mm_text(1)}; "
        f"{mm_text(1)} more would take {now - wider:.3f}.",
    )
    assert QuickRatio(**RATIO, gasket_bore_mm=97.0).supposed() == ()


@pytest.mark.parametrize(
    ("wrong", "path"),
    [
        ({"deck_mm": 90.0}, "deck_mm"),
        ({"gasket_mm": 9.0}, "gasket_mm"),
        ({"gasket_mm": 0.0}, "gasket_mm"),
        ({"bore_mm": 2.0}, "bore_mm"),
        ({"stroke_mm": 900.0}, "stroke_mm"),
        ({"chamber_cc": -1.0}, "chamber_cc"),
        ({"piston_cc": 900.0}, "piston_cc"),
        ({"gasket_bore_mm": 5.0}, "gasket_bore_mm"),
        ({"limits": "roads"}, "limits"),
    ],
)
def test_what_no_engine_has_is_refused(wrong, path):
    with pytest.raises(FaultsError) as caught:
        QuickRatio(**(RATIO | wrong))
    assert path in {fault.path for fault in caught.value.faults}
    assert {fault.path for fault in caught.value.faults} <= {*RATIO, "gasket_bore_mm", "limits"}


@pytest.mark.parametrize(("lobe_in", "ratio", "lift"), [(0.338, 1.6, "0.541 in"), (0.329, 1.6, "0.526 in")])
def test_a_lobe_and_a_ratio_are_the_lift_at_the_valve(lobe_in, ratio, lift):
    # Common practice, no source.
    alone, net = LiftSum(lobe_mm=lobe_in * 25.4, ratio=ratio, lash_mm=thou(20)).lines()
    assert (alone.label, alone.figure) == ("Lift at the valve", lift)
    assert float(net.figure.removesuffix(" in")) == pytest.approx(float(lift.removesuffix(" in")) - 0.020, abs=1.1e-3)
    assert len(list(LiftSum(lobe_mm=lobe_in * 25.4, ratio=ratio).lines())) == 1


@pytest.mark.parametrize(
    ("wrong", "path"),
    [
        ({"lobe_mm": 0.0}, "lobe_mm"),
        ({"lobe_mm": 40.0}, "lobe_mm"),
        ({"ratio": 0.4}, "ratio"),
        ({"lash_mm": 4.0}, "lash_mm"),
        ({"lobe_mm": 0.5, "lash_mm": 0.75}, "lash_mm"),
    ],
)
def test_a_lift_that_no_valve_has_is_refused_at_its_field(wrong, path):
    with pytest.raises(FaultsError) as refused:
        LiftSum(**{"lobe_mm": 9.0, "ratio": 1.5} | wrong)
    assert [fault.path for fault in refused.value.faults] == [path]
