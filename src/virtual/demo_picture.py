"""The picture of cut clay in the demo, rendered by ``python -m virtual.demo_picture``."""

from pathlib import Path

import numpy as np

from virtual.pictures import Picture, render
from virtual.scenes import CLAYS, GROUNDS, a_scene

FILE = Path(__file__).resolve().parents[1] / "web" / "demo" / "cut_clay.jpg"
LENGTH_MM = 20.0


def demo_picture() -> Picture:
    """Return a picture of green clay beside a printed square, its thinnest place 96 thou."""
    scene = a_scene(np.random.default_rng(18), card=True)
    scene.px_per_mm, scene.length_mm, scene.gap_mm, scene.half_mm = 26.0, LENGTH_MM, 3.0, 11.0
    scene.tilt, scene.turned_deg, scene.block_turned_deg = (3.0, -2.5), -7.0, 3.0
    scene.clay, scene.ground, scene.exposure, scene.uneven = CLAYS[0], GROUNDS[0], 0.9, 0.25
    scene.jpeg, scene.noise, scene.blur_px, scene.tone, scene.sharpened = 82, 0.003, 0.7, 0.1, 0.2
    scene.profile = (2.441, 0.8, 22.0, 0.01, 4.3)
    return render(scene)


if __name__ == "__main__":
    FILE.write_bytes(demo_picture().jpeg)
