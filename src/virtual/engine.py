"""A random engine and its truth: clearances, decks, volumes, ratios, by numbers.

A valve moves along its axis toward a plane on the crown: parallel to its face in a relief, or the flat crown itself.
The clearance is found along the axis by vector algebra at every crank angle, and its minimum searched on a fine grid.
Sizes are those of small shops: our own ranges, common practice, no source.
"""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from mockup.engine.block import Engine, Layout
from mockup.engine.valves import Relief, Side, ValveRow
from virtual.crank import TrueCrank, crank_of
from virtual.lobes import THOU, TrueLobe, true_lobe

Curve = NDArray[np.float64]

FINE_DEG = np.arange(-50.0, 50.0 + 0.05, 0.1)


@dataclass(frozen=True)
class TrainSetting:
    """A departure from the engine as it will run: head raised [mm], lash [mm], and the rest.

    ``ratio`` of other rockers [1]; ``advanced_deg``: of the cam; ``bent``: the share of lift the train loses;
    ``bled_mm``: how far a lifter bleeds down [mm].
    """

    raised_mm: float = 0.0
    lash_mm: float = 0.0
    ratio: float | None = None
    advanced_deg: float = 0.0
    bent: float = 0.0
    bled_mm: float = 0.0


AS_IT_RUNS = TrainSetting()


@dataclass(frozen=True, eq=False)
class TrueValve:
    """One valve: row, lobe, centreline about overlap TDC [deg], and drop at TDC [mm]."""

    side: Side
    row: ValveRow
    lobe: TrueLobe
    ratio: float
    centreline_deg: float
    drop_mm: float

    def lift_mm(self, t_deg: Curve, how: TrainSetting = AS_IT_RUNS) -> Curve:
        """Return the lift at the valve at angles about overlap TDC [deg]; [mm]."""
        ratio = self.ratio if how.ratio is None else how.ratio
        lobe = self.lobe.at(np.asarray(t_deg, dtype=float) - self.centreline_deg + how.advanced_deg)
        return np.maximum(ratio * lobe * (1 - how.bent) - how.lash_mm - how.bled_mm, 0.0)

    def room_mm(self, t_deg: Curve, crank: TrueCrank, how: TrainSetting = AS_IT_RUNS) -> Curve:
        """Return the clearance along the valve's axis at angles about overlap TDC [deg]; [mm]."""
        slants = np.tan(np.radians([self.row.angle_deg or 0.0, self.row.cant_deg]))
        opens = np.array([slants[0], slants[1], -1.0])
        opens /= np.linalg.norm(opens)
        up = np.array([0.0, 0.0, 1.0])
        facing = -opens if self.row.relief is Relief.PARALLEL else up
        # Shut at TDC the face is at the origin, and the floor one drop away from it along the axis.
        down = crank.down_mm(t_deg)[:, None]
        floor = self.drop_mm * opens - down * up
        face = self.lift_mm(t_deg, how)[:, None] * opens + how.raised_mm * up
        return np.asarray(((floor - face) @ facing) / float(opens @ facing))

    def closest(self, crank: TrueCrank, how: TrainSetting = AS_IT_RUNS) -> tuple[float, float]:
        """Return the smallest clearance [mm] and its crank angle [deg]."""
        room = self.room_mm(FINE_DEG, crank, how)
        at = int(np.clip(np.argmin(room), 1, len(room) - 2))
        left, middle, right = room[at - 1 : at + 2]
        bend = left - 2 * middle + right
        aside = 0.5 * (left - right) / bend if bend > 0 else 0.0
        least = middle - (left - right) ** 2 / (8 * bend) if bend > 0 else middle
        return float(least), float(FINE_DEG[at] + aside * 0.1)


@dataclass(frozen=True, eq=False)
class TrueEngine:
    """The engine as designed and as made: sizes, decks [mm down], gasket, valves, volumes.

    ``valves`` by (cylinder, side); ``gasket_mm``: true compressed thickness of the final gasket. Volumes [cm3].
    """

    designed: Engine
    crank: TrueCrank
    bore_mm: float
    stroke_mm: float
    deck_mm: dict[int, float]
    rock_mm: dict[int, float]
    gasket_mm: float
    gasket_stated_mm: float
    gasket_bore_mm: float
    chamber_cc: dict[int, float]
    piston_cc: dict[int, float]
    valves: dict[tuple[int, Side], TrueValve] = field(default_factory=dict)

    def quench_mm(self, cylinder: int) -> float:
        """Return the flat of the crown to the flat of the head at TDC [mm]."""
        return self.deck_mm[cylinder] + self.gasket_mm

    def ratio(self, cylinder: int) -> float:
        """Return the compression ratio of a cylinder [1]: its volume at BDC over its volume at TDC."""
        area = np.pi * (self.bore_mm / 20) ** 2  # cm2
        ring = np.pi * (self.gasket_bore_mm / 20) ** 2
        above = self.chamber_cc[cylinder] + self.piston_cc[cylinder]
        above += area * self.deck_mm[cylinder] / 10 + ring * self.gasket_mm / 10
        return float((area * self.stroke_mm / 10 + above) / above)


LAYOUTS = ((Layout.INLINE, 1), (Layout.INLINE, 2), (Layout.FLAT, 2), (Layout.INLINE, 4), (Layout.VEE, 8))


def true_engine(rng: np.random.Generator, cylinders: int | None = None) -> TrueEngine:
    """Return a random engine whose valves come nearest a little before or after overlap TDC."""
    layout, count = LAYOUTS[rng.integers(len(LAYOUTS))]
    if cylinders is not None:
        layout, count = Layout.INLINE, cylinders
    bore = round(rng.uniform(68, 108), 2)
    stroke = round(bore * rng.uniform(0.75, 1.15), 2)
    rod = round(stroke * rng.uniform(1.55, 2.0), 2)
    offset = float(rng.choice([0.0, 0.0, rng.uniform(0.4, 1.6)]))
    rows = {side: _row(rng) for side in Side}
    ratio = float(rng.choice([1.0, round(rng.uniform(1.2, 1.75), 2)]))
    designed = Engine(
        layout=layout,
        cylinders=count,
        bore_mm=bore,
        stroke_mm=stroke,
        rod_length_mm=rod,
        pin_offset_mm=round(offset, 2),
        rocker_ratio=ratio,
        intake=rows[Side.INTAKE],
        exhaust=rows[Side.EXHAUST],
    )
    made_bore, made_stroke = bore + rng.uniform(-0.02, 0.02), stroke + rng.uniform(-0.02, 0.02)
    crank = crank_of(made_stroke, rod + rng.uniform(-0.02, 0.02), round(offset, 2))
    stated = round(float(rng.choice([0.7, 0.9, 1.0, 1.15, 1.3])), 2)
    mean, slope = rng.uniform(-0.2, 0.5), rng.normal(0, 0.01)
    found = TrueEngine(
        designed=designed,
        crank=crank,
        bore_mm=made_bore,
        stroke_mm=made_stroke,
        deck_mm={c: mean + slope * c + rng.normal(0, 0.02) for c in designed.cylinder_numbers},
        rock_mm={c: rng.uniform(0.02, 0.12) for c in designed.cylinder_numbers},
        gasket_mm=stated + rng.uniform(-0.0254, 0.0254),
        gasket_stated_mm=stated,
        gasket_bore_mm=bore + 1.5 + rng.uniform(-0.02, 0.02),
        chamber_cc=dict.fromkeys(designed.cylinder_numbers, 0.0),
        piston_cc=dict.fromkeys(designed.cylinder_numbers, 0.0),
    )
    _volumes(rng, found)
    _valves(rng, found)
    return found


def _row(rng: np.random.Generator) -> ValveRow:
    angle = float(rng.choice([0.0, round(rng.uniform(4, 25), 1)]))
    cant = float(rng.choice([0.0, 0.0, round(rng.uniform(2, 8), 1)]))
    return ValveRow(
        angle_deg=angle, cant_deg=cant, relief=Relief.PARALLEL if rng.random() < 0.75 else Relief.FLAT, diameter_mm=0.0
    )


def _volumes(rng: np.random.Generator, engine: TrueEngine) -> None:
    area = np.pi * (engine.bore_mm / 20) ** 2
    wanted = area * engine.stroke_mm / 10 / (rng.uniform(8.0, 13.0) - 1)
    piston = wanted * rng.uniform(-0.15, 0.2)
    chamber = wanted - piston - area * (engine.gasket_mm + engine.deck_mm[1]) / 10
    for cylinder in engine.designed.cylinder_numbers:
        engine.piston_cc[cylinder] = piston + rng.normal(0, 0.1)
        engine.chamber_cc[cylinder] = chamber + rng.normal(0, 0.1)


PART_SCATTER_MM = (0.01, 0.05)


def _valves(rng: np.random.Generator, engine: TrueEngine) -> None:
    scatter = rng.uniform(*PART_SCATTER_MM)
    first = engine.deck_mm[1]
    for side in Side:
        shape = _shape(rng, engine, side)
        least = shape.closest(engine.crank)[0]
        wanted = rng.uniform(40, 160) * THOU
        for cylinder in engine.designed.cylinder_numbers:
            # A deeper crown leaves its valves more room along the axis, by geometry.
            deeper = _opened(shape, engine.crank, engine.deck_mm[cylinder] - first)
            drop = wanted - least + deeper + rng.normal(0, scatter)
            engine.valves[cylinder, side] = TrueValve(
                side, shape.row, shape.lobe, shape.ratio, shape.centreline_deg, shape.drop_mm + drop
            )


def _opened(valve: TrueValve, crank: TrueCrank, raised_mm: float) -> float:
    at = np.zeros(1)
    return float((valve.room_mm(at, crank, TrainSetting(raised_mm=raised_mm)) - valve.room_mm(at, crank))[0])


def _shape(rng: np.random.Generator, engine: TrueEngine, side: Side) -> TrueValve:
    way = 1 if side is Side.INTAKE else -1
    while True:
        valve = TrueValve(
            side,
            engine.designed.row(side),
            true_lobe(rng),
            engine.designed.ratio,
            way * rng.uniform(98, 116),
            0.0,
        )
        at = valve.closest(engine.crank)[1] * way
        if 1.0 < at < 28.0 and float(valve.lift_mm(np.zeros(1))[0]) > 0.3:
            return valve
