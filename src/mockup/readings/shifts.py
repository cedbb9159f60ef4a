"""What moving the cam, other rockers or lash make of a closest point: the rungs that carry a reading past them.

What is not known of the lobe moves the figure before and after alike, so that the u of a change is no sum of two.
Source: definitions of docs/how-it-computes.md, "Moving the cam"; envelope theorem for the slopes of a minimum.
"""

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import numpy as np

from mockup.changes.change import Change, since_words
from mockup.changes.kind import ChangeKind
from mockup.engine.valves import Side
from mockup.motion.lobes import TableLobe
from mockup.quantity.ladder import Doubt, Part, Rung
from mockup.quantity.typed_angle import format_crank_angle
from mockup.quantity.value import Value, rectangular
from mockup.readings.approach import Approach, Curve, Setting

MOVED_U_DEG = 0.25
"""How truly a cam comes to stand where it was moved to: common practice, no source."""
RATIO_U = rectangular(0.005)
"""How truly other rockers have their ratio, +-0.005: common practice, no source."""


@dataclass(frozen=True, slots=True)
class Shift:
    """What the closest point gains between states [mm], the variance of that, and its covariance with what was before.

    Each shape (n,). ``moved``: the part of the variance that comes from where a moved cam comes to stand, ``geared``:
    from how truly other rockers have their ratio [mm2].
    ``few``: what the figure's u^4 over its degrees of freedom grows by [mm4].
    """

    gain_mm: Curve
    variance: Curve
    shared: Curve
    moved: Curve
    geared: Curve
    few: Curve

    @property
    def more(self) -> Curve:
        """What the figure's own variance grows by, shape (n,) [mm2]; negative where the readings tell more of it."""
        return np.asarray(self.variance + 2 * self.shared)


def shifts(of: Approach, before: Setting, after: Setting) -> Shift:
    """What the closest point gains between settings of the train, shape (n,) each."""
    was, was_at = of.least(before)
    would, would_at = of.least(after)
    old, new = of.slopes(before, was_at), of.slopes(after, would_at)
    if not of.fitted:
        # What was read is the minimum as it was read: of the lobe only what differs from there counts.
        own = of.slopes(of.read, of.least(of.read)[1])
        old, new = old - own, new - own
    apart = new - old
    variance = np.einsum("ij,jk,ik->i", apart, of.covariance, apart)
    shared = np.einsum("ij,jk,ik->i", old, of.covariance, apart)
    turned = after.columns[0] - before.columns[0]
    astray, _ = of.least(replace(after, advanced_deg=after.advanced_deg + MOVED_U_DEG))
    moved = np.where(turned != 0, astray - would, 0.0) ** 2
    rockers = after.columns[1] - before.columns[1]
    if isinstance(of.train.lobe, TableLobe):
        table = of.train.lobe.u_mm
        elsewhere = np.where(turned != 0, of.train.ratio * table, 0.0)
        variance = variance + elsewhere**2 + (rockers * table) ** 2
    geared = np.where(rockers != 0, RATIO_U * of.lobe_mm(after, would_at), 0.0) ** 2
    by_noise = [np.einsum("ij,jk,ik->i", one, of.noise, one) for one in (old, new)]
    return Shift(
        would - was,
        variance + moved + geared,
        shared,
        moved,
        geared,
        (by_noise[1] ** 2 - by_noise[0] ** 2) / of.freedom,
    )


@lru_cache(maxsize=4096)
def shift_rung(of: Approach, before: Setting, after: Setting, words: str) -> Rung:
    """What the closest point gains between two settings, or many, as a rung [mm]."""
    found = shifts(of, before, after)

    def own(many: Curve) -> Any:
        return many if after.is_many or before.is_many else float(many[0])

    lobe = Doubt.TABLE if of.train.lobe.measured else Doubt.LOBE
    parts = (
        Part(lobe, own(np.sqrt(np.clip(found.variance - found.moved - found.geared, 0.0, None)))),
        Part(Doubt.TIMING, own(np.sqrt(found.moved))),
        Part(Doubt.ROCKERS, own(np.sqrt(found.geared))),
    )
    gain = Value(own(found.gain_mm), own(np.sqrt(np.clip(found.variance, 0.0, None))))
    return Rung(words, gain, lobe, parts, own(found.shared), own(found.few))


Shifting = Callable[[Approach, Setting, Setting, str], Rung]


def mockup_rungs(of: Approach) -> list[Rung]:
    """From the train as it stood in the mock-up to the train by the book, one rung each [mm]: lash, rockers, cam."""
    found, setting = [], of.read
    if setting.lash_mm:
        new = replace(setting, lash_mm=0.0)
        found.append(shift_rung(of, setting, new, "lash left in, never counted on"))
        setting = new
    if setting.more_ratio:
        new = replace(setting, more_ratio=0.0)
        stood = of.train.ratio + setting.more_ratio
        found.append(shift_rung(of, setting, new, f"rockers {of.train.ratio:.3g}, where {stood:.3g} stood in"))
        setting = new
    if setting.advanced_deg:
        way = "in advance" if setting.advanced_deg > 0 else "behind"
        words = f"cam where it will run, not {abs(setting.advanced_deg):g}° {way}"
        found.append(shift_rung(of, setting, Setting(), words))
    return found


def lift_rungs(of: Approach, changes: Iterable[Change], side: Side, shift: Shifting = shift_rung) -> list[Rung]:
    """What each cam or rocker change does to the closest point of a valve, one rung each, in their order [mm]."""
    found, setting = [], Setting()
    for change in changes:
        if change.kind is ChangeKind.CAM and change.is_of(side):
            new = replace(setting, advanced_deg=setting.advanced_deg + change.amount)
        elif change.kind is ChangeKind.ROCKERS:
            new = replace(setting, more_ratio=setting.more_ratio + change.amount)
        else:
            continue
        found.append(shift(of, setting, new, _moved_words(of, change, setting)))
        setting = new
    return found


BY_THE_BOOK = Setting()


def lift_rung(of: Approach, setting: Setting = BY_THE_BOOK, words: str = "") -> Rung:
    """What a train of which nothing was read makes of the drop where it comes nearest, as a rung [mm].

    Its u: where the cam stands, what its card leaves open of the lobe, or the table's own.
    """
    return lift_at(of, setting, *of.least(setting), words)


def lift_at(of: Approach, setting: Setting, least: Curve, at: Curve, words: str = "") -> Rung:
    """The same of a closest point that is known: its clearance less the drop [mm] and its angle [deg], shape (1,)."""
    slopes = of.slopes(setting, at)[0]
    by_row = slopes**2 * np.diag(of.covariance)
    lobe = Doubt.TABLE if of.train.lobe.measured else Doubt.LOBE
    open_lobe = math.sqrt(float(by_row[3:].sum()))
    if isinstance(of.train.lobe, TableLobe):
        open_lobe = math.hypot(open_lobe, of.train.lobe.u_mm * (of.train.ratio + setting.more_ratio))
    parts = (Part(lobe, open_lobe), Part(Doubt.TIMING, math.sqrt(float(by_row[2]))))
    said = words or f"less the lift of the other cam, nearest at {format_crank_angle(round(float(at[0])))}"
    return Rung(said, Value(float(least[0]), math.hypot(*(part.u for part in parts))), lobe, parts)


def _moved_words(of: Approach, change: Change, was: Setting) -> str:
    if change.is_many:
        return since_words(change)
    if change.kind is ChangeKind.CAM:
        return f"cam {'advanced' if change.amount > 0 else 'retarded'} {abs(change.amount):g}° since it was read"
    before = of.train.ratio + was.more_ratio
    return f"rockers {before + change.amount:.3g} for {before:.3g} since it was read"
