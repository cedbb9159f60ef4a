"""Pictures of cut clay with known thickness: camera, light, blur, noise, JPEG.

Made independently of what measures them (``mockup.camera``): every pixel is a ray that meets the plane of the cut, or
that of the reference, which may be a little nearer or askew.
"""

import io
import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from PIL import Image
from scipy import ndimage
from scipy.spatial import cKDTree

from virtual.scenes import Floats, Pixels, Scene

STEEL, PAPER, INK = (0.42, 0.43, 0.45), (0.80, 0.80, 0.78), (0.035, 0.035, 0.04)
"""Colours of a block, and of a printed card, as shares of the incident light [1]."""


@dataclass(frozen=True)
class Picture:
    """A picture and its truth: ``jpeg``, and ``thinnest_mm`` between ``ends``.

    The rest is where a person would mark it [px]: ``reference`` (2 or 4 points), the two ``ends``, ``reach_px``.
    """

    jpeg: bytes
    thinnest_mm: float
    reference: Floats
    ends: Floats
    reach_px: float

    @property
    def pixels(self) -> Pixels:
        """Return the decoded picture, shape (height, width, 3)."""
        return np.asarray(Image.open(io.BytesIO(self.jpeg)).convert("RGB"))


@dataclass(frozen=True)
class _Camera:
    """A pinhole camera over the plane of the cut, its axis to the picture's middle."""

    turn: Floats
    eye: Floats
    focal: float
    width: int
    height: int
    lens: float

    def px(self, points: Floats) -> Floats:
        """Return points of space, shape (count, 3) [mm], in the picture [px]."""
        seen = (points - self.eye) @ self.turn.T
        flat = seen[:, :2] / seen[:, 2:]
        bent = flat * (1 + self._bends * (flat**2).sum(axis=-1, keepdims=True))
        found: Floats = bent * self.focal + (self.width / 2, self.height / 2)
        return found

    @property
    def _bends(self) -> float:
        """The lens distortion, per square of the distance from the axis [1]."""
        corner = math.hypot(self.width, self.height) / 2 / self.focal
        return self.lens / corner**2

    def on_plane(self, at: Floats, frame: Floats) -> tuple[Floats, Floats]:
        """Return where each pixel's ray meets a plane, both (height, width) [mm]."""
        y, x = np.ogrid[0 : self.height, 0 : self.width]
        x, y = (x - self.width / 2) / self.focal, (y - self.height / 2) / self.focal
        # The distortion is so small that its inverse is its negative.
        straight = (1 - self._bends * (x**2 + y**2)).astype(np.float32)
        x, y = (x * straight).astype(np.float32), (y * straight).astype(np.float32)
        # The ray in the axes of the plane, and the position of the eye in them.
        way, eye = self.turn @ frame.T, frame @ (self.eye - at)
        rays = [way[0, one] * x + way[1, one] * y + way[2, one] for one in range(3)]
        far = -eye[2] / rays[2]
        return eye[0] + far * rays[0], eye[1] + far * rays[1]


def _rotation(x_deg: float, y_deg: float) -> Floats:
    a, b = math.radians(x_deg), math.radians(y_deg)
    about_x = np.array([[1, 0, 0], [0, math.cos(a), -math.sin(a)], [0, math.sin(a), math.cos(a)]])
    about_y = np.array([[math.cos(b), 0, math.sin(b)], [0, 1, 0], [-math.sin(b), 0, math.cos(b)]])
    found: Floats = about_x @ about_y
    return found


def _camera(scene: Scene) -> _Camera:
    # z points away from the camera, into the bench.
    turn = _rotation(*scene.tilt)
    eye = -scene.away_mm * turn[2]
    width, height = (int(one * scene.px_per_mm) for one in scene.size_mm)
    return _Camera(turn, eye, scene.px_per_mm * scene.away_mm, width, height, scene.lens)


def render(scene: Scene) -> Picture:
    """Photograph a scene."""
    camera = _camera(scene)
    cut = camera.on_plane(np.zeros(3), np.eye(3))
    light = _ground(scene, cut)
    light = _laid(light, *_clay(scene, cut))
    frame, at = _reference_frame(scene)
    there = camera.on_plane(at, frame)
    for colour, cover in _reference(scene, there):
        light = _laid(light, colour, cover)
    light *= _lamp(scene, camera)[..., None]
    coded = _developed(scene, light)
    file = io.BytesIO()
    Image.fromarray(coded).save(file, "JPEG", quality=scene.jpeg)
    reference, ends, reach = _marked(scene, camera, frame, at)
    return Picture(file.getvalue(), _true(scene), reference, ends, reach)


def _laid(light: Floats, colour: Floats, cover: Floats) -> Floats:
    laid: Floats = light + (colour - light) * cover[..., None]
    return laid


def _grain(scene: Scene, shape: tuple[int, ...], size_px: float, amount: float) -> Floats:
    """Speckle of a material, about 1."""
    grain = np.asarray(ndimage.gaussian_filter(scene.rng.standard_normal(shape, np.float32), size_px))
    found: Floats = np.asarray(1 + amount / max(float(grain.std()), 1e-9) * grain)
    return found


def _ground(scene: Scene, cut: tuple[Floats, Floats]) -> Floats:
    grain = _grain(scene, cut[0].shape, 2.0, 0.02)
    light: Floats = np.array(scene.ground, np.float32) * grain[..., None]
    # A soft shadow to the right of and below each thing.
    x, y = _in_slice(scene, (cut[0] - 0.5, cut[1] - 0.5))
    depth = np.minimum(np.minimum(y - scene.lower_mm(x) + scene.thick_mm(x), scene.lower_mm(x) - y), 12 - np.abs(x))
    shade = (1 - 0.25 / (1 + np.exp(np.clip(-(depth + 0.3) / 0.5, -40, 40)))).astype(np.float32)
    shaded: Floats = light * shade[..., None]
    return shaded


def _in_slice(scene: Scene, cut: tuple[Floats, Floats]) -> tuple[Floats, Floats]:
    angle = math.radians(scene.turned_deg)
    right, down = cut[0] - scene.middle_mm[0], cut[1] - scene.middle_mm[1]
    x = right * math.cos(angle) + down * math.sin(angle)
    y = -right * math.sin(angle) + down * math.cos(angle)
    return x, y


def _roughness(scene: Scene, x: Floats) -> Floats:
    """Return the knife's marks: tenths of a millimetre long, hundredths high [mm]."""
    fine = ndimage.gaussian_filter1d(scene.rng.standard_normal(4000), 6.0)
    fine = fine / max(float(fine.std()), 1e-9) * scene.rough_mm
    found: Floats = np.interp(x, np.linspace(-30, 30, 4000), fine).astype(np.float32)
    return found


def _clay(scene: Scene, cut: tuple[Floats, Floats]) -> tuple[Floats, Floats]:
    x, y = _in_slice(scene, cut)
    low = scene.lower_mm(x) + _roughness(scene, x)
    high = scene.lower_mm(x) - scene.thick_mm(x) + _roughness(scene, x)
    depth = np.minimum(np.minimum(low - y, y - high), scene.half_mm + 2 - np.abs(x))
    cover = np.clip(0.5 + depth * scene.px_per_mm, 0, 1).astype(np.float32)
    if scene.covered:
        hidden = np.hypot(x + 2.0, y - scene.lower_mm(x) + scene.thick_mm(x)) < 0.32 * scene.half_mm
        cover = np.where(hidden, np.float32(0), cover)
    # Blur mixes the two sides of an edge; inside one side a blurred grain is still a grain.
    cover = ndimage.gaussian_filter(cover, scene.blur_px)
    grain = _grain(scene, x.shape, 3.0, 0.04)
    return np.array(scene.clay, np.float32) * grain[..., None], cover


def _reference_frame(scene: Scene) -> tuple[Floats, Floats]:
    """Return the axes of the reference, rows of a (3, 3), and its middle in space [mm]."""
    angle = math.radians(scene.block_turned_deg)
    flat = np.array([[math.cos(angle), math.sin(angle), 0], [-math.sin(angle), math.cos(angle), 0], [0, 0, 1.0]])
    frame = flat @ _rotation(*scene.reference_askew).T
    return frame, np.array([*scene.reference_mm, -scene.reference_up_mm])


def _reference(scene: Scene, there: tuple[Floats, Floats]) -> Iterator[tuple[Floats, Floats]]:
    """Yield colours over the scene and their coverage of each pixel."""
    x, y = there
    half = scene.length_mm / 2
    own = math.hypot(scene.blur_px, scene.reference_blur_px)
    if not scene.card:
        cover = np.clip(0.5 + np.minimum(half - np.abs(y), 2.5 - np.abs(x)) * scene.px_per_mm, 0, 1)
        steel = np.array(_unlike(scene), np.float32) * (1 + 0.1 * np.sin(x))[..., None]
        yield steel, ndimage.gaussian_filter(cover.astype(np.float32), own)
        return
    out = np.maximum(np.abs(x), np.abs(y))
    for colour, edge in ((PAPER, half + 2.0), (INK, half)):
        cover = np.clip(0.5 + (edge - out) * scene.px_per_mm, 0, 1).astype(np.float32)
        yield np.array(colour, np.float32), ndimage.gaussian_filter(cover, own)


def _unlike(scene: Scene) -> tuple[float, float, float]:
    return STEEL if abs(sum(scene.ground) - sum(STEEL)) > 0.5 else INK


def _lamp(scene: Scene, camera: _Camera) -> Floats:
    y, x = np.mgrid[0 : camera.height, 0 : camera.width]
    x, y = x / camera.width - 0.5, y / camera.height - 0.5
    way = scene.rng.uniform(0, 2 * math.pi)
    slope = scene.uneven * (x * math.cos(way) + y * math.sin(way))
    found: Floats = (scene.exposure * (1 + slope - 0.3 * scene.uneven * (x**2 + y**2))).astype(np.float32)
    return found


def _developed(scene: Scene, light: Floats) -> Pixels:
    """Apply the noise of the sensor and the camera's processing: tones, sharpening, eight bits."""
    sigma = np.sqrt(scene.noise**2 + 2e-5 * np.maximum(light, 0))
    light = np.clip(light + sigma * scene.rng.standard_normal(light.shape, np.float32), 0, 1)
    level = np.linspace(0, 1, 65_536)
    coded = np.where(level <= 0.0031308, 12.92 * level, 1.055 * level ** (1 / 2.4) - 0.055)
    coded = (coded + scene.tone * (coded - 0.5) * coded * (1 - coded) * 2).astype(np.float32)
    coded = coded[(light * 65_535).astype(np.uint16)]
    if scene.sharpened:
        # Cameras sharpen lightness, not each colour.
        lightness = coded.mean(axis=2)
        coded += (scene.sharpened * (lightness - ndimage.gaussian_filter(lightness, 1.2)))[..., None]
    found: Pixels = np.clip(coded * 255 + 0.5, 0, 255).astype(np.uint8)
    return found


def _true(scene: Scene) -> float:
    """Return the smallest distance between the two intended edges, without the knife marks [mm]."""
    x = np.linspace(-scene.half_mm, scene.half_mm, 20_001)
    beyond = np.linspace(-scene.half_mm - 2, scene.half_mm + 2, 20_001)
    low = np.column_stack([beyond, scene.lower_mm(beyond)])
    high = np.column_stack([x, scene.lower_mm(x) - scene.thick_mm(x)])
    away, _ = cKDTree(low).query(high)
    return float(np.min(away))


def _marked(scene: Scene, camera: _Camera, frame: Floats, at: Floats) -> tuple[Floats, Floats, float]:
    """Return marks as set by a finger on a screen: half a millimetre off."""
    rng, half = scene.rng, scene.length_mm / 2
    known = [(-half, -half), (half, -half), (half, half), (-half, half)] if scene.card else [(0, -half), (0, half)]
    space = np.array([at + x * frame[0] + y * frame[1] for x, y in known])
    jitter = 0.02 * scene.length_mm if scene.card else 0.03 * scene.length_mm
    reference = camera.px(space) + rng.uniform(-jitter, jitter, (len(known), 2)) * scene.px_per_mm
    angle = math.radians(scene.turned_deg)
    x = np.array([-scene.half_mm, scene.half_mm])
    y = scene.lower_mm(x) - scene.thick_mm(x) / 2 + rng.uniform(-0.15, 0.15, 2)
    space = np.column_stack(
        [
            scene.middle_mm[0] + x * math.cos(angle) - y * math.sin(angle),
            scene.middle_mm[1] + x * math.sin(angle) + y * math.cos(angle),
            np.zeros(2),
        ]
    )
    most = float(scene.thick_mm(np.linspace(-scene.half_mm, scene.half_mm, 50)).max())
    reach = (most / 2 + rng.uniform(0.7, 1.3)) * scene.px_per_mm
    return reference, camera.px(space), float(reach)
