"""The rows of the proof: what each tries, and how often U must hold in it."""

from dataclasses import dataclass
from functools import partial

from mockup.checks.check import Kind
from virtual.conditions import bent, bled, doughy, slack, tilted, too_thin
from virtual.trials import (
    Trial,
    by_card,
    clay,
    few,
    indicator,
    inferred,
    lash_left_in,
    measured_lobe,
    moved_cam,
    short_block,
)


@dataclass(frozen=True, slots=True)
class Row:
    """A row of the table: what is tried, how, and what it must show: U holds at least so often [%]."""

    words: str
    trial: Trial
    holds: float = 95.0
    unit: str = "thou"


ROWS: tuple[Row, ...] = (
    Row("indicator, lift unknown, 3 readings and the advice; repeats 0.2–0.8", indicator),
    Row("the same, repeats 1.0", partial(indicator, repeats_thou=1.0), 92.0),
    Row("indicator, any gasket in the mock-up", partial(indicator, any_gasket=True)),
    Row("indicator, truth exactly at the minimum", partial(indicator, exact=True)),
    Row("lobe measured, 3–7 readings, cam within 1°", measured_lobe),
    Row("lash 0–0.4 mm left in, lobe measured", lash_left_in),
    Row("card and 5 readings", partial(by_card, readings=5)),
    Row("card and 1 reading", partial(by_card, readings=1)),
    Row("card and the drop, no reading", partial(by_card, readings=0, drop=True)),
    Row("card with a third duration, and the drop", partial(by_card, readings=0, third=True, drop=True)),
    Row("card with its lift at TDC, and the drop", partial(by_card, readings=0, tdc=True, drop=True)),
    Row("cam advanced 4°, from 5 readings and a card", partial(moved_cam, by_deg=4.0, more_ratio=0.0)),
    Row("cam retarded 4°, from 5 readings and a card", partial(moved_cam, by_deg=-4.0, more_ratio=0.0)),
    Row("ratio 0.1 more, from 5 readings and a card", partial(moved_cam, by_deg=0.0, more_ratio=0.1)),
    Row("ratio 0.1 less, from 5 readings and a card", partial(moved_cam, by_deg=0.0, more_ratio=-0.1)),
    Row(
        "cam advanced 4°, from 5 readings, the drop and a card",
        partial(moved_cam, by_deg=4.0, more_ratio=0.0, drop=True),
    ),
    Row(
        "ratio 0.1 more, from 5 readings, the drop and a card",
        partial(moved_cam, by_deg=0.0, more_ratio=0.1, drop=True),
    ),
    Row("no lobe, two readings", partial(few, readings=2)),
    Row("no lobe, one reading", partial(few, readings=1)),
    Row("smallest found by turning", partial(few, readings=0)),
    Row("clay by caliper, 1–4 slices, any gasket", clay),
    Row("inferred from another cylinder", inferred),
    Row("quench", partial(short_block, kind=Kind.QUENCH)),
    Row("quench at the rocked edge", partial(short_block, kind=Kind.QUENCH_EDGE)),
    Row("compression ratio", partial(short_block, kind=Kind.RATIO), unit="0.01"),
    Row("dial tilted up to 15°, judged by eye", tilted),
    Row("chain slack of 0.3°, taken up or not, read to enough", slack, 92.0),
    Row("soft dough that springs back", doughy),
    Row("clay too thin to be touched", too_thin),
    Row("clay under running springs that bend the train", bent),
    Row("clay with lifters that bleed", bled),
)
