"""The rows of the proof: what each tries, and how often U must hold in it."""

from dataclasses import dataclass
from functools import partial

from mockup.checks.compression import RATIO_CHECK
from mockup.checks.quench import QUENCH_CHECK, QUENCH_EDGE_CHECK
from virtual.conditions import bent, bled, doughy, slack, tilted, too_thin
from virtual.other_cams import other_cams
from virtual.small_things import drifting, lash_by_card, loose_gasket, one_sided, rounded, wobbling
from virtual.trials import (
    KNOWN,
    UNKNOWN,
    Trial,
    by_card,
    clay,
    drop_by_sweep,
    few,
    indicator,
    inferred,
    lash_left_in,
    measured_lobe,
    moved_cam,
    short_block,
)


@dataclass(frozen=True, slots=True)
class TrialRow:
    """One row of the table: its words, its trial, and its aim: U holds at least this often [%]."""

    words: str
    trial: Trial
    holds: float = 95.0
    unit: str = "thou"


ROWS: tuple[TrialRow, ...] = (
    TrialRow("indicator, lift unknown, 3 readings and the advice; repeats 0.2–0.8", indicator),
    TrialRow("the same, repeats 1.0", partial(indicator, repeats_thou=1.0), 92.0),
    TrialRow("indicator, any gasket that is known in the mock-up", partial(indicator, gaskets=KNOWN)),
    TrialRow("indicator, a gasket nobody knows in the mock-up", partial(indicator, gaskets=UNKNOWN)),
    TrialRow("indicator, truth exactly at the minimum", partial(indicator, exact=True)),
    TrialRow("lobe measured, 3–7 readings, cam within 1°", measured_lobe),
    TrialRow("lash 0–0.4 mm left in, lobe measured", lash_left_in),
    TrialRow("card and 5 readings", partial(by_card, readings=5)),
    TrialRow("card and 1 reading", partial(by_card, readings=1)),
    TrialRow("card and the drop, no reading", partial(by_card, readings=0, drop=True)),
    TrialRow("card with a third duration, and the drop", partial(by_card, readings=0, third=True, drop=True)),
    TrialRow("card with its lift at TDC, and the drop", partial(by_card, readings=0, tdc=True, drop=True)),
    TrialRow("cam advanced 4°, from 5 readings and a card", partial(moved_cam, by_deg=4.0, more_ratio=0.0)),
    TrialRow("cam retarded 4°, from 5 readings and a card", partial(moved_cam, by_deg=-4.0, more_ratio=0.0)),
    TrialRow("ratio 0.1 more, from 5 readings and a card", partial(moved_cam, by_deg=0.0, more_ratio=0.1)),
    TrialRow("ratio 0.1 less, from 5 readings and a card", partial(moved_cam, by_deg=0.0, more_ratio=-0.1)),
    TrialRow(
        "cam advanced 4°, from 5 readings, the drop and a card",
        partial(moved_cam, by_deg=4.0, more_ratio=0.0, drop=True),
    ),
    TrialRow(
        "ratio 0.1 more, from 5 readings, the drop and a card",
        partial(moved_cam, by_deg=0.0, more_ratio=0.1, drop=True),
    ),
    TrialRow("no lobe, two readings", partial(few, readings=2)),
    TrialRow("no lobe, one reading", partial(few, readings=1)),
    TrialRow("smallest found by turning", partial(few, readings=0)),
    TrialRow("clay by caliper, 1–4 slices, any gasket that is known", clay),
    TrialRow("clay by caliper, 1–4 slices, a gasket nobody knows", partial(clay, gaskets=UNKNOWN)),
    TrialRow("inferred from another cylinder", inferred),
    TrialRow("inferred, where parts differ by 0.075 mm, as stated", partial(inferred, differ_mm=0.075)),
    TrialRow("quench", partial(short_block, kind=QUENCH_CHECK)),
    TrialRow("quench at the rocked edge", partial(short_block, kind=QUENCH_EDGE_CHECK)),
    TrialRow("compression ratio", partial(short_block, kind=RATIO_CHECK), unit="0.01"),
    TrialRow("quench, the gasket within 2 thou, as stated", loose_gasket),
    TrialRow("the drop, by card and 5 readings, the cam not degreed", drop_by_sweep),
    TrialRow("zero that drifts by up to 2 thou, said", drifting),
    TrialRow("wheel that wobbles 0.25° and runs out 0.5°", wobbling),
    TrialRow("angles rounded to 5°, where a curve explains them", rounded, 85.0),
    TrialRow("card and 5 readings on one side", one_sided),
    TrialRow("lash 0–0.4 mm left in, with a card", lash_by_card),
    TrialRow("dial tilted up to 15°, judged by eye", tilted),
    TrialRow("chain slack of 0.3°, taken up or not, read to enough", slack, 92.0),
    TrialRow("soft dough that springs back", doughy),
    TrialRow("clay too thin to be touched", too_thin),
    TrialRow("clay under running springs that bend the train", bent),
    TrialRow("clay with lifters that bleed", bled),
    TrialRow("another cam by its card, from the drop read directly", other_cams),
    TrialRow("another cam, its card with a third duration", partial(other_cams, third=True)),
    TrialRow("another cam, its card with its lift at TDC", partial(other_cams, tdc=True)),
    TrialRow("another cam, its lobe measured", partial(other_cams, table=True)),
    TrialRow("another cam by its card, standing just as its card says", partial(other_cams, off_deg=0.0)),
    TrialRow("the same, with a third duration", partial(other_cams, third=True, off_deg=0.0)),
    TrialRow("the same, with its lift at TDC", partial(other_cams, tdc=True, off_deg=0.0)),
    TrialRow("the same, its lobe measured", partial(other_cams, table=True, off_deg=0.0)),
    TrialRow("another cam by its card, from 5 readings with the first one", partial(other_cams, swept=True)),
)
