"""What is photographed: cut clay beside a reference, done well or spoilt."""

import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.floating]
Pixels = npt.NDArray[np.uint8]

CLAYS = ((0.33, 0.42, 0.28), (0.62, 0.55, 0.24), (0.20, 0.28, 0.47), (0.45, 0.25, 0.20), (0.50, 0.50, 0.48))
GROUNDS = ((0.78, 0.77, 0.74), (0.07, 0.07, 0.08), (0.75, 0.70, 0.60), (0.05, 0.10, 0.16))
"""Colours of clay and of its ground, as shares of the incident light [1]."""


class Spoilt(StrEnum):
    """What makes a picture unmeasurable."""

    BLUR = "blur"
    CONTRAST = "no contrast"
    TILT = "tilt"
    OUT_OF_FOCUS = "reference out of focus"
    ASKEW = "reference askew"
    COVERED = "something over the edge"
    DARK = "too dark"


@dataclass(kw_only=True)
class Scene:
    """The scene of a picture. Lengths [mm], angles [degrees], blur [px].

    ``card``: a printed square of ``length_mm``; otherwise a block of that length on edge, whose ends are the reference.
    ``profile``: least thickness, its place along the slice, radius of the imprint, its slope, thickness as laid.
    """

    rng: np.random.Generator
    card: bool
    px_per_mm: float
    length_mm: float
    tilt: tuple[float, float] = (0.0, 0.0)
    turned_deg: float = 0.0
    block_turned_deg: float = 0.0
    away_mm: float = 220.0
    reference_up_mm: float = 0.0
    reference_askew: tuple[float, float] = (0.0, 0.0)
    blur_px: float = 0.8
    reference_blur_px: float = 0.0
    uneven: float = 0.3
    noise: float = 0.004
    exposure: float = 0.85
    jpeg: int = 85
    sharpened: float = 0.0
    tone: float = 0.0
    lens: float = 0.0
    clay: tuple[float, float, float] = CLAYS[0]
    ground: tuple[float, float, float] = GROUNDS[0]
    rough_mm: float = 0.012
    covered: bool = False
    gap_mm: float = 4.0
    half_mm: float = 11.0
    profile: tuple[float, float, float, float, float] = (2.5, 0.0, 20.0, 0.0, 4.5)
    bow_at_mm: float = 2.0

    def thick_mm(self, x: Floats) -> Floats:
        """Return the thickness across the slice at places along it [mm]."""
        least, place, radius, slope, laid = self.profile
        off = x - place
        pressed = least + off**2 / (2 * radius) + slope * off
        # Never thicker than it was laid; the rim of an imprint is round.
        found: Floats = laid - np.log1p(np.exp(np.clip((laid - pressed) / 0.15, -50, 50))) * 0.15
        return found

    def lower_mm(self, x: Floats) -> Floats:
        """The lower edge, a little bowed [mm]."""
        found: Floats = 0.004 * (x - self.bow_at_mm) ** 2
        return found

    @property
    def middle_mm(self) -> tuple[float, float]:
        """The middle of the slice in the plane [mm]."""
        return ((self._wide_mm + self.gap_mm) / 2, 0.0)

    @property
    def size_mm(self) -> tuple[float, float]:
        """The size of the visible part, width and height [mm]."""
        return (self._wide_mm + self.gap_mm + self._slice_mm + 8.0, max(self._wide_mm + 8.0, 20.0))

    @property
    def reference_mm(self) -> tuple[float, float]:
        """The middle of the reference in the plane, with its gap beside the end of the slice [mm]."""
        return (self.middle_mm[0] - self._slice_mm / 2 - self.gap_mm - self._wide_mm / 2, 0.0)

    @property
    def _wide_mm(self) -> float:
        return self.length_mm + 4.0 if self.card else 5.0

    @property
    def _slice_mm(self) -> float:
        return 2 * self.half_mm + 4.0


def a_scene(rng: np.random.Generator, *, card: bool) -> Scene:
    """Return a scene of a careful builder: tilt to 10 degrees, blur to 2 px, 25 to 60 px a mm."""
    lean, way = rng.uniform(0, 10), rng.uniform(0, 2 * math.pi)
    clay = CLAYS[int(rng.integers(len(CLAYS)))]
    dark = sum(clay) / 3 < 0.4
    grounds = [GROUNDS[0], GROUNDS[2]] if dark and rng.random() < 0.7 else [GROUNDS[1], GROUNDS[3]]
    least = float(rng.uniform(1.4, 3.6))
    return Scene(
        rng=rng,
        card=card,
        px_per_mm=float(rng.uniform(25, 60)),
        length_mm=float(rng.choice([12.0, 15.0, 20.0] if card else [5.0, 6.0, 8.0, 10.0])),
        tilt=(lean * math.cos(way), lean * math.sin(way)),
        turned_deg=float(rng.uniform(-12, 12)),
        block_turned_deg=float(rng.uniform(-12, 12)),
        away_mm=float(rng.uniform(150, 320)),
        reference_up_mm=float(rng.uniform(-0.5, 0.5)),
        reference_askew=(float(rng.normal(0, 0.7)), float(rng.normal(0, 0.7))),
        blur_px=float(rng.uniform(0.4, 2.0)),
        uneven=float(rng.uniform(0.0, 0.5)),
        noise=float(rng.uniform(0.001, 0.008)),
        exposure=float(rng.uniform(0.55, 1.05)),
        jpeg=int(rng.integers(70, 96)),
        sharpened=float(rng.uniform(0, 0.5)),
        tone=float(rng.uniform(-0.1, 0.25)),
        lens=float(rng.uniform(-0.004, 0.004)),
        clay=clay,
        ground=grounds[int(rng.integers(2))],
        rough_mm=float(rng.uniform(0.004, 0.018)),
        gap_mm=float(rng.uniform(2.0, 6.0)),
        half_mm=float(rng.uniform(8.0, 12.0)),
        profile=(
            least,
            float(rng.uniform(-3, 3)),
            float(rng.uniform(14, 40)),
            float(rng.uniform(-0.03, 0.03)),
            least + float(rng.uniform(0.8, 2.2)),
        ),
    )


def spoil(scene: Scene, how: Spoilt) -> Scene:
    """Spoil a scene so that no honest measurer would measure it."""
    rng = scene.rng
    if how is Spoilt.BLUR:
        scene.blur_px = float(rng.uniform(7, 16))
    elif how is Spoilt.CONTRAST:
        scene.clay = tuple(one * float(rng.uniform(0.99, 1.01)) for one in scene.ground)  # type: ignore[assignment]
    elif how is Spoilt.TILT:
        lean, way = rng.uniform(24, 38), rng.uniform(0, 2 * math.pi)
        scene.tilt = (lean * math.cos(way), lean * math.sin(way))
    elif how is Spoilt.OUT_OF_FOCUS:
        scene.reference_up_mm, scene.reference_blur_px = float(rng.uniform(8, 20)), float(rng.uniform(5, 10))
    elif how is Spoilt.ASKEW:
        way = rng.uniform(0, 2 * math.pi)
        scene.reference_askew = (28 * math.cos(way), 28 * math.sin(way))
        scene.block_turned_deg = float(rng.uniform(35, 55))
    elif how is Spoilt.COVERED:
        scene.covered = True
    else:
        scene.exposure, scene.noise = 0.012, 0.02
    return scene
