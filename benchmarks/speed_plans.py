"""Speed of choosing: 40 gaskets with every stack of shims, for 12 separate barrels."""

import sys
from dataclasses import replace
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from benchmarks.timing import finish, median_seconds, report
from mockup.engine.gasket import FinalGasket
from mockup.evaluate import evaluate
from mockup.plans.cuts import cut_plans
from mockup.plans.deck_chart import deck_chart
from mockup.plans.gaskets import gasket_options
from mockup.plans.shim_stacks import ShimKind, stacks_of
from mockup.plans.what_if import done, effects
from tests.making import twelve

gaskets = [FinalGasket(compressed_mm=0.80 + 0.02 * at, bore_mm=97.0) for at in range(40)]
shims = [ShimKind(thickness, 90) for thickness in (0.10, 0.15, 0.25, 0.40, 0.50)]
plain = evaluate(twelve())
barrels = evaluate(replace(plain.job, engine=replace(plain.job.engine, separate_barrels=True)))
stacks = len(stacks_of(shims).totals_mm)
report(
    f"40 gaskets x {stacks} stacks x 12 barrels", median_seconds(lambda: gasket_options(barrels, gaskets, shims)), 0.100
)
report("deck-height chart, 4 ratios", median_seconds(lambda: deck_chart(barrels, shims, (8.5, 9.0, 9.5, 10.0))), 0.100)
plan = next(plan for plan in cut_plans(plain, 0, 0.0) if not plan.refused)
report("a cut as a what-if, all checks", median_seconds(lambda: effects(plain, done(plain.job, plan.change()))), 0.060)
sys.exit(finish())
