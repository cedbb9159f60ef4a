"""What moving the cam, other rockers or lash do to a closest point, as corrections.

What is unknown about the lobe moves the figure before and after alike, so the u of a change is not the sum of two.
Source: definitions of docs/how-it-computes.md, "Moving the cam"; envelope theorem for the slopes of a minimum.
"""

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import numpy as np

from mockup.changes.change import Change
from mockup.changes.since import since_words
from mockup.changes.train import CAM_MOVED, ROCKERS_CHANGED
from mockup.engine.valves import Side
from mockup.fit.approach import Approach, Curve, Setting
from mockup.motion.lobes import TableLobe
from mockup.quantity.corrections import Correction, Part, UncertaintySource
from mockup.quantity.typed_angle import format_crank_angle
from mockup.quantity.value import Value, rectangular

MOVED_U_DEG = 0.25
"""Accuracy of setting a cam when it is moved: common practice, no source."""
RATIO_U = rectangular(0.005)
"""Accuracy of the ratio of other rockers, +-0.005: common practice, no source."""


@dataclass(frozen=True, slots=True)
class Shift:
    """What the closest point gains between settings [mm], its variance, its covariance.

    Each shape (n,). ``moved``: the part of the variance from setting a moved cam, ``geared``: from the ratio of other
    rockers [mm2]. ``few``: the increase of the figure's u^4 over its degrees of freedom [mm4].
    """

    gain_mm: Curve
    variance: Curve
    shared: Curve
    moved: Curve
    geared: Curve
    few: Curve

    @property
    def more(self) -> Curve:
        """The increase of the figure's variance, shape (n,) [mm2]; negative if better known."""
        return np.asarray(self.variance + 2 * self.shared)


def shifts(of: Approach, before: Setting, after: Setting) -> Shift:
    """Return what the closest point gains between settings of the train, shape (n,) each."""
    was, was_at = of.least(before)
    would, would_at = of.least(after)
    old, new = of.slopes(before, was_at), of.slopes(after, would_at)
    if not of.fitted:
        # The reading fixes the minimum in its own setting, so only the lobe's difference from there counts.
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
def shift_correction(of: Approach, before: Setting, after: Setting, words: str) -> Correction:
    """Return what the closest point gains between two settings, or many, as a correction [mm]."""
    found = shifts(of, before, after)

    def own(many: Curve) -> Any:
        return many if after.is_batch or before.is_batch else float(many[0])

    lobe = UncertaintySource.TABLE if of.train.lobe.measured else UncertaintySource.LOBE
    parts = (
        Part(lobe, own(np.sqrt(np.clip(found.variance - found.moved - found.geared, 0.0, None)))),
        Part(UncertaintySource.TIMING, own(np.sqrt(found.moved))),
        Part(UncertaintySource.ROCKERS, own(np.sqrt(found.geared))),
    )
    gain = Value(own(found.gain_mm), own(np.sqrt(np.clip(found.variance, 0.0, None))))
    return Correction(words, gain, lobe, parts, own(found.shared), own(found.few))


Shifting = Callable[[Approach, Setting, Setting, str], Correction]


def mockup_corrections(of: Approach) -> list[Correction]:
    """Return the corrections from the mock-up's train to the specified one [mm]."""
    found, setting = [], of.read
    if setting.lash_mm:
        new = replace(setting, lash_mm=0.0)
        found.append(shift_correction(of, setting, new, "lash left in, never counted on"))
        setting = new
    if setting.more_ratio:
        new = replace(setting, more_ratio=0.0)
        stood = of.train.ratio + setting.more_ratio
        found.append(shift_correction(of, setting, new, f"rockers {of.train.ratio:.3g}, where {stood:.3g} stood in"))
        setting = new
    if setting.advanced_deg:
        way = "in advance" if setting.advanced_deg > 0 else "behind"
        words = f"cam where it will run, not {abs(setting.advanced_deg):g}° {way}"
        found.append(shift_correction(of, setting, Setting(), words))
    return found


def lift_corrections(
    of: Approach, changes: Iterable[Change], side: Side, shift: Shifting = shift_correction
) -> list[Correction]:
    """Return the effect of each cam or rocker change on a valve's closest point, in order [mm]."""
    found, setting = [], Setting()
    for change in changes:
        if change.kind is CAM_MOVED and change.is_of(side):
            new = replace(setting, advanced_deg=setting.advanced_deg + change.amount)
        elif change.kind is ROCKERS_CHANGED:
            new = replace(setting, more_ratio=setting.more_ratio + change.amount)
        else:
            continue
        found.append(shift(of, setting, new, _moved_words(of, change, setting)))
        setting = new
    return found


AS_SPECIFIED = Setting()


def lift_correction(of: Approach, setting: Setting = AS_SPECIFIED, words: str = "") -> Correction:
    """Return the correction from drop to closest point for a train that was not read [mm].

    Its u: the cam's position, and what the card leaves open of the lobe or the table's own.
    """
    return lift_at(of, setting, *of.least(setting), words)


def lift_at(of: Approach, setting: Setting, least: Curve, at: Curve, words: str = "") -> Correction:
    """Like ``lift_correction`` at a known closest point: [mm] less drop, [deg], shape (1,)."""
    slopes = of.slopes(setting, at)[0]
    by_row = slopes**2 * np.diag(of.covariance)
    lobe = UncertaintySource.TABLE if of.train.lobe.measured else UncertaintySource.LOBE
    open_lobe = math.sqrt(float(by_row[3:].sum()))
    if isinstance(of.train.lobe, TableLobe):
        open_lobe = math.hypot(open_lobe, of.train.lobe.u_mm * (of.train.ratio + setting.more_ratio))
    parts = (Part(lobe, open_lobe), Part(UncertaintySource.TIMING, math.sqrt(float(by_row[2]))))
    said = words or f"less the lift of the other cam, nearest at {format_crank_angle(round(float(at[0])))}"
    return Correction(said, Value(float(least[0]), math.hypot(*(part.u for part in parts))), lobe, parts)


def _moved_words(of: Approach, change: Change, was: Setting) -> str:
    if change.is_batch:
        return since_words(change)
    if change.kind is CAM_MOVED:
        return f"cam {'advanced' if change.amount > 0 else 'retarded'} {abs(change.amount):g}° since it was read"
    before = of.train.ratio + was.more_ratio
    return f"rockers {before + change.amount:.3g} for {before:.3g} since it was read"
