"""The trials on virtual engines, row by row: figures against the truth.

A trial yields outcomes: figure less truth, U, state, and whether the truth meets the limit. Limits are drawn around the
truth, a few thou either way, so that states are really tried; one row puts them exactly at the truth.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from mockup.changes.change import Change
from mockup.changes.train import CAM_MOVED, ROCKERS_CHANGED
from mockup.checks.check import Check, Kind
from mockup.checks.compression import RATIO_CHECK
from mockup.checks.other_cam import known_drops
from mockup.checks.quench import QUENCH_CHECK, QUENCH_EDGE_CHECK
from mockup.checks.sweeps import is_enough
from mockup.checks.valve_limits import FACE_EXHAUST_LIMIT, FACE_INTAKE_LIMIT
from mockup.checks.valves import FACE_EXHAUST_CHECK, FACE_INTAKE_CHECK
from mockup.engine.gasket import GasketState
from mockup.engine.parts import PartsDiffer
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.limits.judge import State
from mockup.plans.what_if import WhatIf, supposed
from mockup.report import Report
from virtual.engine import TrainSetting, true_engine
from virtual.hand import VirtualBench, a_hand, cam_card, measured_table, mocked, on_the_final_gasket, replace_lift
from virtual.lobes import THOU

FACES = {
    Side.INTAKE: (FACE_INTAKE_CHECK, FACE_INTAKE_LIMIT),
    Side.EXHAUST: (FACE_EXHAUST_CHECK, FACE_EXHAUST_LIMIT),
}
MOST_READINGS = 14


@dataclass(frozen=True, slots=True)
class Outcome:
    """One figure against the truth: error and U (thou, or hundredths of a ratio), and its state.

    ``truth_short``: short, or exactly at the limit, where calling it clear claims more than was known. ``readings``:
    how many it took, 0 where not counted.
    """

    error: float
    expanded: float
    state: State
    truth_short: bool
    readings: int = 0


Trial = Callable[[np.random.Generator], Iterator[Outcome]]
UNIT = {True: THOU, False: 0.01}


def outcome(check: Check, true: float, readings: int = 0) -> Iterator[Outcome]:
    """Yield the figure of a check with the truth [mm or 1]; nothing where there is no figure."""
    if check.figure is None:
        return
    unit = UNIT[check.kind.is_length]
    low = check.limit.low
    yield Outcome(
        error=(check.figure.value - true) / unit,
        expanded=check.figure.expanded / unit,
        state=check.state,
        truth_short=low is not None and true < low + 1e-9,
        readings=readings,
    )


def first_face(report: Report, side: Side) -> Check:
    """Return the face check of the first cylinder's valve."""
    return _face(report, 1, side)


def _face(report: Report, cylinder: int, side: Side) -> Check:
    return next(c for c in report.of_kind(FACES[side][0]) if c.cylinder == cylinder)


def _limits(rng: np.random.Generator, bench: VirtualBench, spread_thou: float = 3.0) -> None:
    """Set limits around the truth of the first cylinder's valves."""
    for side, (_, name) in FACES.items():
        true = bench.engine.valves[1, side].closest(bench.engine.crank)[0]
        bench.limits[name] = max(true + rng.normal(0, spread_thou) * THOU, 0.0)


KNOWN = tuple(state for state in GasketState if state is not GasketState.UNKNOWN)
"""Every state of gasket whose thickness is at least partly known."""
UNKNOWN = (GasketState.UNKNOWN,)


def on_the_bench(
    rng: np.random.Generator, repeats_thou: float | None = None, *, gaskets: Sequence[GasketState] = ()
) -> VirtualBench:
    """Return two cylinders mocked up on the final gasket, or on any of ``gaskets``."""
    engine = true_engine(rng, cylinders=2)
    mock = mocked(rng, engine, gaskets[int(rng.integers(len(gaskets)))]) if gaskets else on_the_final_gasket(engine)
    bench = VirtualBench(engine, a_hand(rng, repeats_thou), mock)
    _limits(rng, bench)
    return bench


VALVES = tuple((cylinder, side) for cylinder in (1, 2) for side in Side)


def _advised(report: Report) -> list[tuple[int, Side, float]]:
    """Return where the report wants each valve read next; empty once all are enough."""
    found = []
    for figure in report.sweeps:
        if figure.closest is None or len(figure.angles_deg) >= MOST_READINGS:
            continue
        check = _face(report, figure.place.cylinder, figure.place.side)
        if not is_enough(figure.closest, check):
            assert figure.closest.next_deg is not None
            found.append((figure.place.cylinder, figure.place.side, figure.closest.next_deg))
    return found


def to_enough(bench: VirtualBench) -> Report:
    """Read on where the report says until it says enough for every valve."""
    report = evaluate(bench.job())
    while wanted := _advised(report):
        for cylinder, side, at in wanted:
            bench.sweep(cylinder, side, at)
        report = evaluate(bench.job())
    return report


def indicator(
    rng: np.random.Generator,
    repeats_thou: float | None = None,
    *,
    exact: bool = False,
    gaskets: Sequence[GasketState] = (),
) -> Iterator[Outcome]:
    """Lift unknown: three readings of four valves, then what the advice asks for, until enough."""
    bench = on_the_bench(rng, repeats_thou, gaskets=gaskets)
    if exact:
        _limits(rng, bench, 0.0)
    yield from read_to_enough(bench, VALVES[:2] if exact else VALVES)


def read_to_enough(bench: VirtualBench, told: Sequence[tuple[int, Side]] = VALVES) -> Iterator[Outcome]:
    """Read four valves three times and as advised; yield the figures of ``told``."""
    for cylinder, side in VALVES:
        for at in (5.0, 10.0, 15.0):
            bench.sweep(cylinder, side, at if side is Side.INTAKE else -at)
    report = to_enough(bench)
    counts = {(f.place.cylinder, f.place.side): len(f.angles_deg) for f in report.sweeps}
    for cylinder, side in told:
        true = bench.engine.valves[cylinder, side].closest(bench.engine.crank)[0]
        yield from outcome(_face(report, cylinder, side), true, counts[cylinder, side])


def about(bench: VirtualBench, side: Side) -> float:
    """Return where a person would read first: near the closest point, to five degrees."""
    return 5 * round((bench.engine.valves[1, side].closest(bench.engine.crank)[1] + bench.hand.wheel_deg) / 5)


def _measured(rng: np.random.Generator, bench: VirtualBench) -> None:
    card = cam_card(rng, bench.engine)
    bench.more["cam_card"] = card
    tables = [measured_table(rng, bench.engine.valves[1, side], 0.5 * THOU) for side in Side]
    bench.more["lobe_tables"] = tuple(tables)


def measured_lobe(rng: np.random.Generator) -> Iterator[Outcome]:
    """The lobe measured, three to seven readings, the cam up to a degree from its card."""
    bench = on_the_bench(rng)
    _measured(rng, bench)
    count = int(rng.integers(3, 8))
    for side in Side:
        middle = about(bench, side)
        for at in range(count):
            bench.sweep(1, side, middle + 5 * (at - count // 2))
    yield from of_first(bench, evaluate(bench.job()))


def of_first(bench: VirtualBench, report: Report) -> Iterator[Outcome]:
    """Yield the faces of the first cylinder's valves with the truth."""
    for side in Side:
        true = bench.engine.valves[1, side].closest(bench.engine.crank)[0]
        yield from outcome(_face(report, 1, side), true)


def lash_left_in(rng: np.random.Generator) -> Iterator[Outcome]:
    """Lash of 0 to 0.4 mm left in, the lobe measured, five readings."""
    bench = on_the_bench(rng)
    _measured(rng, bench)
    lash = round(rng.uniform(0, 0.4), 2)
    told = replace(bench.mock.told, lash_mm=lash)
    bench.mock = replace(bench.mock, told=told, true=replace(bench.mock.true, lash_mm=lash))
    for side in Side:
        middle = about(bench, side)
        for at in (-10, -5, 0, 5, 10):
            bench.sweep(1, side, middle + at)
    yield from of_first(bench, evaluate(bench.job()))


def _carded(
    rng: np.random.Generator,
    readings: int,
    *,
    third: bool = False,
    tdc: bool = False,
    drop: bool = False,
    found_tdc: bool = False,
) -> VirtualBench:
    bench = on_the_bench(rng)
    bench.more["cam_card"] = cam_card(rng, bench.engine, third=third, tdc=tdc)
    if found_tdc:
        bench.find_tdc()
    for side in Side:
        middle = about(bench, side)
        if drop:
            bench.drop(1, side)
        for at in range(readings):
            bench.sweep(1, side, middle + 5 * (at - readings // 2))
    return bench


def by_card(
    rng: np.random.Generator, readings: int, *, third: bool = False, tdc: bool = False, drop: bool = False
) -> Iterator[Outcome]:
    """The closest point from a card and some readings, or from the drop alone."""
    bench = _carded(rng, readings, third=third, tdc=tdc, drop=drop)
    yield from of_first(bench, evaluate(bench.job()))


def moved_cam(rng: np.random.Generator, by_deg: float, more_ratio: float, *, drop: bool = False) -> Iterator[Outcome]:
    """A moved cam, or other rockers, predicted from five readings and a card."""
    bench = _carded(rng, 5, drop=drop, found_tdc=True)
    ratio = bench.engine.designed.ratio
    if more_ratio and not 1.0 <= ratio + more_ratio <= 3.0:
        more_ratio = -more_ratio
    changes = []
    if by_deg:
        changes.append(Change(key="cam", kind=CAM_MOVED, amount=by_deg))
    if more_ratio:
        changes.append(Change(key="rockers", kind=ROCKERS_CHANGED, amount=more_ratio))
    report = evaluate(supposed(bench.job(), WhatIf(changes=tuple(changes))))
    how = TrainSetting(advanced_deg=by_deg, ratio=round(ratio + more_ratio, 6))
    for side in Side:
        true = bench.engine.valves[1, side].closest(bench.engine.crank, how)[0]
        yield from outcome(_face(report, 1, side), true)


def few(rng: np.random.Generator, readings: int) -> Iterator[Outcome]:
    """No lobe: one or two readings at the usual angles, or (0) the smallest found by turning."""
    bench = on_the_bench(rng)
    for side in Side:
        way = 1 if side is Side.INTAKE else -1
        for at in (10.0, 5.0)[:readings]:
            bench.sweep(1, side, way * at)
        if not readings:
            bench.turning(1, side)
    yield from of_first(bench, evaluate(bench.job()))


def clay(rng: np.random.Generator, gaskets: Sequence[GasketState] = KNOWN) -> Iterator[Outcome]:
    """Clay by caliper, one to four slices, on any of some gaskets."""
    bench = on_the_bench(rng, gaskets=gaskets)
    for side in Side:
        bench.clay(1, side, int(rng.integers(1, 5)), 3.0)
    yield from of_first(bench, evaluate(bench.job()))


def inferred(rng: np.random.Generator, differ_mm: float = 0.0) -> Iterator[Outcome]:
    """The other cylinder's valves inferred from a swept one, and both decks.

    ``differ_mm``: how much more parts differ, as stated.
    """
    bench = on_the_bench(rng)
    if differ_mm:
        _more_scatter(rng, bench, differ_mm)
    for cylinder in (1, 2):
        bench.deck(cylinder)
    for side in Side:
        middle = about(bench, side)
        for at in (-10, -5, 0, 5, 10):
            bench.sweep(1, side, middle + at)
    report = evaluate(bench.job())
    for side in Side:
        check = _face(report, 2, side)
        if check.inferred is None:  # the reading it rests on gives no figure
            continue
        true = bench.engine.valves[2, side].closest(bench.engine.crank)[0]
        yield from outcome(replace(check, governing=check.inferred), true)


def _more_scatter(rng: np.random.Generator, bench: VirtualBench, differ_mm: float) -> None:
    valves = {
        at: replace(valve, drop_mm=valve.drop_mm + rng.normal(0, differ_mm))
        for at, valve in bench.engine.valves.items()
    }
    bench.engine = replace(bench.engine, valves=valves)
    _limits(rng, bench)
    bench.more["parts_differ"] = PartsDiffer(u_mm=float(np.hypot(differ_mm, 0.05)))


def short_block(rng: np.random.Generator, kind: Kind) -> Iterator[Outcome]:
    """Deck read once or twice, its edge rocked, burette and gasket: quench, edge and ratio."""
    bench = on_the_bench(rng, gaskets=KNOWN)
    for cylinder in (1, 2):
        bench.deck(cylinder, int(rng.integers(1, 3)))
        bench.rocked(cylinder)
        bench.volumes(cylinder)
    engine = bench.engine
    true: Mapping[Kind, Callable[[int], float]] = {
        QUENCH_CHECK: engine.quench_mm,
        QUENCH_EDGE_CHECK: lambda c: engine.quench_mm(c) - engine.rock_mm[c],
        RATIO_CHECK: engine.ratio,
    }
    for check in evaluate(bench.job()).of_kind(kind):
        yield from outcome(check, true[kind](check.cylinder))


def quench_of(bench: VirtualBench) -> Iterator[Outcome]:
    """The quench of two cylinders from deck and gasket."""
    for cylinder in (1, 2):
        bench.deck(cylinder)
    for check in evaluate(bench.job()).of_kind(QUENCH_CHECK):
        yield from outcome(check, bench.engine.quench_mm(check.cylinder))


def drop_by_sweep(rng: np.random.Generator) -> Iterator[Outcome]:
    """The drop from five readings and a card, the cam not degreed: another cam is judged by it."""
    bench = _carded(rng, 5)
    report = evaluate(bench.job())
    at = np.zeros(1)
    for place, drop in known_drops(report.context).items():
        running = drop.running(report.context)
        shut = replace_lift(bench.engine.valves[place.cylinder, place.side])
        true = float(shut.room_mm(at, bench.engine.crank)[0])
        if running:
            yield Outcome(
                error=(running.value - true) / THOU,
                expanded=running.expanded / THOU,
                state=State.NO_MINIMUM,
                truth_short=False,
            )
