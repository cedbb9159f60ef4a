"""The map of two levers, against evaluate at random points and each check's roots."""

from dataclasses import replace
from types import SimpleNamespace

import numpy as np
import pytest

from mockup.changes.cuts import HEAD_CUT
from mockup.changes.pistons import RELIEF_DEEPENED
from mockup.changes.stack import GASKET_CHANGED
from mockup.changes.train import CAM_MOVED, ROCKERS_CHANGED
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.limits.judge import State
from mockup.plans import room_map as of_the_map
from mockup.plans.batch import Batch, judged
from mockup.plans.levers import Lever
from mockup.plans.room import levers_of, rooms
from mockup.plans.room_map import room_map
from mockup.plans.what_if import WhatIf, supposed
from tests.making import CARD, clay, job, short_eight
from tests.making_jobs import change_of

CAM, GASKET, ROCKERS = Lever(CAM_MOVED), Lever(GASKET_CHANGED), Lever(ROCKERS_CHANGED)
INTAKE, EXHAUST = (Lever(RELIEF_DEEPENED, side) for side in Side)
PAIRS = [(CAM, GASKET), (CAM, INTAKE), (ROCKERS, EXHAUST)]


@pytest.mark.parametrize(("across", "up"), PAIRS, ids=str)
@pytest.mark.parametrize("made", [job(cam_card=CARD), short_eight()], ids=["clear", "short"])
def test_the_region_is_what_evaluate_says_at_points_drawn_by_chance(made, across, up):
    report = evaluate(made)
    found = room_map(Batch(report), across, up)
    labels = {check.label for check in judged(report)}
    rng = np.random.default_rng(7)
    for row, column in zip(rng.integers(0, len(found.y), 12), rng.integers(0, len(found.x), 12), strict=True):
        amounts = ((across, float(found.x[column])), (up, float(found.y[row])))
        changes = tuple(
            replace(change_of(lever, amount, made), key=str(at)) for at, (lever, amount) in enumerate(amounts) if amount
        )
        after = evaluate(supposed(made, WhatIf(changes=changes)))
        mine = [check for check in after.checks if check.label in labels]
        assert found.clear[row, column] == all(check.state is State.CLEAR for check in mine), (amounts, changes)
        lengths = [check.margin for check in mine if check.kind.is_length and check.margin is not None]
        assert found.margin[row, column] == pytest.approx(min(lengths), abs=1e-6)


def test_along_its_axes_it_is_the_room_of_each_lever_alone():
    many = Batch(evaluate(job(cam_card=CARD)))
    found = room_map(many, CAM, GASKET)
    alone = {room.lever: room for room in rooms(many)}
    row = int(np.argmin(np.abs(found.y)))
    clear = found.x[found.clear[row]]
    step = found.x[1] - found.x[0]
    assert alone[CAM].low - 1e-9 <= clear.min() <= alone[CAM].low + 1.5 * step
    assert alone[CAM].high - 1.5 * step <= clear.max() <= alone[CAM].high + 1e-9


def test_on_the_edge_the_check_that_sets_it_stands_at_its_limit_and_the_others_inside():
    many = Batch(evaluate(job(cam_card=CARD)))
    found = room_map(many, CAM, GASKET)
    lines = found.region()
    assert lines
    setters = {edge.check.label for edge in found.edges()}
    for line in lines:
        for x, y in line.points[:: max(len(line.points) // 6, 1)]:
            slack = many.slack({CAM: np.array([x]), GASKET: np.array([y])})[0]
            # Straight between points that lie a quarter of a degree and two thou apart.
            assert abs(slack.min()) < 0.02
            assert many.checks[int(np.argmin(slack))].label in setters


def test_the_nearest_clear_point_is_clear_and_a_little_nearer_is_not():
    made = short_eight()
    many = Batch(evaluate(made))
    found = room_map(many, EXHAUST, INTAKE)
    x, y = found.nearest
    assert many.clear({EXHAUST: np.array([x]), INTAKE: np.array([y])})[0]
    assert not many.clear({EXHAUST: np.array([0.97 * x]), INTAKE: np.array([0.97 * y])})[0]


def test_a_contour_of_margin_runs_where_the_tightest_length_leaves_so_much():
    many = Batch(evaluate(job(cam_card=CARD)))
    found = room_map(many, CAM, GASKET)
    level = float(np.nanmedian(found.margin))
    lines = found.contour(level)
    assert lines
    for x, y in lines[0].points[::5]:
        figures = many.figures({CAM: np.array([x]), GASKET: np.array([y])})
        least = min(
            value - check.limit.low
            for value, check in zip(figures.value[0], many.checks, strict=True)
            if check.kind.is_length and check.limit.low is not None
        )
        assert least == pytest.approx(level, abs=0.03)


def test_there_is_no_map_where_nothing_is_judged_or_nobody_knows_what_it_does():
    assert room_map(Batch(evaluate(job(clay=(), deck=(), volumes=()))), GASKET, INTAKE) is None
    assert room_map(Batch(evaluate(job())), GASKET, GASKET) is None
    unknown = room_map(Batch(evaluate(job())), CAM, GASKET)
    # Without a lobe only the column where the cam stays is known.
    assert unknown is None or np.isfinite(unknown.slack).any(axis=0).sum() == 1


def test_where_nothing_is_clear_there_is_no_nearest_and_no_edge():
    far = job(clay=(clay(5), clay(5, 2), clay(5, 1, Side.EXHAUST), clay(5, 2, Side.EXHAUST)))
    found = room_map(Batch(evaluate(far)), GASKET, Lever(HEAD_CUT))
    assert found.nearest is None
    assert found.region() == []
    assert found.edges() == []


def test_every_pair_of_levers_of_an_engine_can_be_drawn():
    many = Batch(evaluate(short_eight()))
    every = levers_of(many.report.job)
    for across in every:
        for up in every:
            found = room_map(many, across, up, 23)
            assert (found is None) == (across == up)
            if found:
                assert all(np.isfinite(line.points).all() for line in found.region())
                assert len(found.edges()) >= bool(found.region())


class OneIsland:
    """An engine that is clear only about one point of the map, this far each way."""

    def __init__(self, at, half):
        self.at, self.half = at, half

    def slack(self, moved):
        far = [
            np.abs(amounts - at) / half for amounts, at, half in zip(moved.values(), self.at, self.half, strict=True)
        ]
        return (1.0 - np.max(far, axis=0))[:, None]


@pytest.mark.parametrize("at", [(1.5, 0.0), (-9.0, 0.9), (0.0, 0.0), (14.9, -1.4)])
@pytest.mark.parametrize("half", [(0.01, 0.002), (0.2, 0.05), (4.0, 0.4)])
def test_the_map_is_drawn_about_what_is_clear_however_small_that_is(monkeypatch, at, half):
    whole = {CAM: (-15.0, 15.0), GASKET: (-1.5, 1.5)}
    monkeypatch.setattr(of_the_map, "reach_of", lambda _, lever: whole[lever])
    reaches = of_the_map._focused(OneIsland(at, half), CAM, GASKET)
    for (low, high), middle, wide, (least, most) in zip(reaches, at, half, whole.values(), strict=True):
        assert least <= low <= min(0.0, middle) <= max(0.0, middle) <= high <= most, "it and how it stands are on it"
        # As much again either side of it and of how it stands, and no more than the last look's step beside.
        needed = max(middle + wide, 0.0) - min(middle - wide, 0.0)
        assert high - low < max(3.2 * needed, 0.02 * (most - least))


def test_where_nothing_is_clear_the_map_shows_the_whole_reach(monkeypatch):
    monkeypatch.setattr(of_the_map, "reach_of", lambda *_: (-1.0, 1.0))
    nowhere = SimpleNamespace(slack=lambda moved: np.full((len(moved[CAM]), 1), -1.0))
    assert of_the_map._focused(nowhere, CAM, GASKET) == ((-1.0, 1.0), (-1.0, 1.0))
