"""The camera tried on pictures with known truth, for ``./mole prove --pictures``."""

import os
import time
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np

from mockup.camera.marks import Marks
from mockup.camera.measure import Seen, measure
from virtual.lobes import THOU
from virtual.pictures import Picture, render
from virtual.scenes import Spoilt, a_scene, spoil

MARKED = {True: "four corners", False: "two edges"}
AIM = {True: 2.0, False: 3.0}
"""The bound for 95 % of errors, with four corners and without [thou]."""
HOLDS, REFUSES = 0.95, 0.95
CHANCE_Z = 2.0


@dataclass(frozen=True, slots=True)
class Tried:
    """One picture: error and U [thou], None if refused; ``seconds`` for ``megapixels``."""

    card: bool
    spoilt: Spoilt | None
    error: float | None
    expanded: float | None
    refused: tuple[str, ...]
    seconds: float
    megapixels: float


def marks_of(picture: Picture, length_mm: float) -> Marks:
    """Return a picture's marks as the core takes them [px]; reference ``length_mm`` [mm]."""
    reference = tuple((float(x), float(y)) for x, y in picture.reference)
    (first, second) = ((float(x), float(y)) for x, y in picture.ends)
    # A card is measured both ways.
    across_mm = length_mm if len(reference) == 4 else 0.0
    ends = (first, second)
    return Marks(reference=reference, ends=ends, reach_px=picture.reach_px, length_mm=length_mm, across_mm=across_mm)


def try_one(asked: tuple[int, bool, Spoilt | None]) -> Tried:
    """Photograph one scene, measure it, and compare it with the truth."""
    number, card, spoilt = asked
    rng = np.random.default_rng([number, card])
    scene = a_scene(rng, card=card)
    if spoilt:
        spoil(scene, spoilt)
    picture = render(scene)
    pixels = picture.pixels
    began = time.perf_counter()
    seen = measure(pixels, marks_of(picture, scene.length_mm))
    seconds = time.perf_counter() - began
    error, expanded = _against(seen, picture.thinnest_mm)
    return Tried(card, spoilt, error, expanded, seen.refused, seconds, pixels.size / 3e6)


def _against(seen: Seen, true_mm: float) -> tuple[float | None, float | None]:
    if seen.thickness is None:
        return None, None
    return (seen.thickness.value - true_mm) / THOU, seen.thickness.expanded / THOU


def try_many(good: int, spoilt: int, told: Callable[[str], None] = print) -> list[str]:
    """Try ``good`` pictures of both sorts and ``spoilt`` of each way; return missed aims."""
    missed: list[str] = []
    asked: list[tuple[int, bool, Spoilt | None]] = [(at, card, None) for card in MARKED for at in range(good // 2)]
    ways = [(card, how) for card in MARKED for how in Spoilt if card or how is not Spoilt.TILT]
    asked += [(at, card, how) for card, how in ways for at in range(spoilt)]
    with ProcessPoolExecutor(max(os.cpu_count() or 1, 1)) as pool:
        tried = list(pool.map(try_one, asked, chunksize=4))
    told("| pictures | measured | U holds | 95 % of errors under | mean error | U, the middle one | slowest, MP |")
    told("|---|---|---|---|---|---|---|")
    for card in MARKED:
        missed += _told_good(card, [one for one in tried if one.card is card and one.spoilt is None], told)
    return missed + (_told_spoilt([one for one in tried if one.spoilt], ways, told) if spoilt else [])


def _told_spoilt(bad: Sequence[Tried], ways: Sequence[tuple[bool, Spoilt]], told: Callable[[str], None]) -> list[str]:
    """Print how many spoilt pictures were refused, by way; return the missed aim."""
    told("\n| made unmeasurable by | reference | refused |\n|---|---|---|")
    for card, how in ways:
        mine = [one for one in bad if (one.card, one.spoilt) == (card, how)]
        told(f"| {how} | {MARKED[card]} | {sum(one.error is None for one in mine)} of {len(mine)} |")
    refused = sum(one.error is None for one in bad)
    told(f"| all of these | | {refused} of {len(bad)}, {refused / len(bad):.1%} |")
    return ["refused too few"] if refused < REFUSES * len(bad) else []


def _told_good(card: bool, mine: Sequence[Tried], told: Callable[[str], None]) -> Iterator[str]:
    found = np.array([(one.error, one.expanded) for one in mine if one.error is not None], float)
    error, expanded = found.T if len(found) else np.zeros((2, 1))
    holds, under = float(np.mean(np.abs(error) <= expanded)), float(np.quantile(np.abs(error), 0.95))
    slowest = max(mine, key=lambda one: one.seconds)
    told(
        f"| {MARKED[card]}, {len(mine)} | {len(found)} | {holds:.1%} | {under:.2f} thou | {error.mean():+.2f} thou "
        f"| {np.median(expanded):.2f} thou | {slowest.seconds:.1f} s for {slowest.megapixels:.1f} |"
    )
    chance = CHANCE_Z * np.sqrt(HOLDS * (1 - HOLDS) / max(len(found), 1))
    if holds < HOLDS - chance:
        yield f"{MARKED[card]}: U holds {holds:.1%}"
    if under > AIM[card]:
        yield f"{MARKED[card]}: 95 % of errors under {under:.2f} thou"
    if len(found) < HOLDS * len(mine):
        yield f"{MARKED[card]}: {len(mine) - len(found)} good pictures refused"
