"""The instrument itself: what a virtual engine prints and shows, against its truth."""

import numpy as np
import pytest
from scipy.stats import binom

from launch.prove import main
from mockup.engine.valves import Side
from mockup.limits.judge import State
from virtual import prove
from virtual.engine import TrainSetting, true_engine
from virtual.hand import measured_table, printed_card
from virtual.lobes import THOU, true_lobe
from virtual.rows import ROWS
from virtual.trials import Outcome


@pytest.mark.parametrize("seed", range(20))
def test_a_printed_card_is_its_lobes_within_what_it_is_rounded_to(seed):
    lobe = true_lobe(np.random.default_rng(seed))
    card = printed_card(lobe, third=True, tdc_at=-108.0)
    assert card.lift_mm == pytest.approx(lobe.lift_mm.max(), abs=0.51 * THOU)
    for one in card.durations:
        assert float(one.deg).is_integer()
        opens, closes = lobe.flanks(one.at_mm)
        assert one.deg == pytest.approx(closes - opens, abs=0.51)
    assert card.tdc_lift_mm == pytest.approx(float(lobe.at(np.array([-108.0]))[0]), abs=0.51 * THOU)


def test_virtual_lobes_are_not_symmetric_as_the_smooth_lobe_of_the_core_is():
    apart = []
    for seed in range(40):
        lobe, away = true_lobe(np.random.default_rng(seed)), np.linspace(20, 140, 25)
        apart.append(np.abs(lobe.at(away) - lobe.at(-away)).max())
    assert min(apart) > 0.5 * THOU
    assert np.median(apart) > 3 * THOU


def test_a_measured_table_is_its_lobe_and_its_noise():
    engine = true_engine(np.random.default_rng(3), cylinders=1)
    valve = engine.valves[1, Side.INTAKE]
    table = measured_table(np.random.default_rng(3), valve, 0.5 * THOU)
    off = np.array(table.lifts_mm) - valve.lobe.at(np.array(table.angles_deg))
    assert np.abs(off).max() < 6 * 0.5 * THOU


@pytest.mark.parametrize(
    "how", [TrainSetting(lash_mm=0.3), TrainSetting(bent=0.05), TrainSetting(bled_mm=0.5), TrainSetting(raised_mm=0.5)]
)
def test_what_takes_lift_or_raises_the_head_leaves_more_room(how):
    for seed in range(10):
        engine = true_engine(np.random.default_rng(seed), cylinders=1)
        for valve in engine.valves.values():
            assert valve.closest(engine.crank, how)[0] > valve.closest(engine.crank)[0]


def outcome(error, expanded=1.0, state=State.CLOSE, *, short=False):
    return Outcome(error=error, expanded=expanded, state=state, truth_short=short)


def test_a_row_is_summed_up_as_its_headings_say():
    # Twenty figures by hand: one too large beyond U, two too small, one of them beyond 3 U, one clear though short.
    some = [outcome(0.0)] * 16 + [
        outcome(1.5),
        outcome(-1.5),
        outcome(-4.0),
        outcome(0.5, state=State.CLEAR, short=True),
    ]
    found = prove.shown(ROWS[0], some)
    assert (found.figures, found.holds, found.optimistic, found.beyond_three) == (20, 85.0, 5.0, 5.0)
    assert (found.false_clear, found.false_short, found.median_u) == (5.0, 0.0, 1.0)
    assert found.mean == pytest.approx(-3.5 / 20)
    cells = prove.table_line(found).split(" | ")
    assert len(cells) == len(prove.HEADINGS)
    assert cells[5] == "85.0 %"


def test_chance_is_binomial():
    # Independent library: scipy.stats.binom.
    assert prove.chance(95.0, 400) == pytest.approx(100 * binom.std(400, 0.95) / 400)


@pytest.mark.parametrize(("error", "code", "said"), [(0.1, 0, "Every row is as wanted."), (5.0, 1, "Not as wanted:")])
def test_the_command_prints_every_row_and_fails_where_one_does_not_hold(monkeypatch, capsys, error, code, said):
    row = prove.TrialRow("one", lambda _: iter([outcome(error), outcome(-0.2)]))
    monkeypatch.setattr(prove, "ROWS", (row,))
    monkeypatch.setattr(prove, "ProcessPoolExecutor", Here)
    assert main(["50"]) == code
    printed = capsys.readouterr().out
    assert "| one | 100 |" in printed
    assert said in printed


class Here:
    """A pool that works in this very process, so that what a test put in place is seen."""

    def __init__(self, _processes):
        self.map = map

    def __enter__(self):
        return self

    def __exit__(self, *_error):
        return None
