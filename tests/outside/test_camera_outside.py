"""The camera against rendered pictures, and scikit-image on the same ones.

Independent library: scikit-image (threshold by Otsu, contours by marching squares, projective transforms). The renderer
(``virtual.pictures``) is a pinhole camera written apart; an import contract holds the two apart.
"""

import io

import numpy as np
import pytest
from PIL import Image
from scipy.spatial import cKDTree
from skimage import filters, measure, transform

from mockup.camera.measure import measure as measured
from mockup.camera.reference import four_corners
from virtual.camera_trial import marks_of, try_many
from virtual.demo_picture import FILE, demo_picture
from virtual.pictures import render
from virtual.scenes import a_scene
from web.demo.bittern import MARKS


def library_thickness(picture, marks, plane):
    """The least distance between the blob's long sides by scikit-image's outline [mm]."""
    (x0, y0), (x1, y1) = marks.ends
    way = np.array([x1 - x0, y1 - y0]) / np.hypot(x1 - x0, y1 - y0)
    across = np.array([-way[1], way[0]])
    long = int(np.hypot(x1 - x0, y1 - y0))
    rows = np.arange(-int(marks.reach_px), int(marks.reach_px) + 1)
    grid = np.array([x0, y0]) + np.arange(long)[None, :, None] * way + rows[:, None, None] * across
    band = transform.warp(picture.mean(axis=2) / 255, grid.transpose(2, 0, 1)[::-1], order=1)
    level = filters.threshold_otsu(band)
    curves = sorted(measure.find_contours(band, level), key=len)[-2:]
    sides = [plane.mm(np.array([x0, y0]) + c[:, 1:] * way + (c[:, :1] + rows[0]) * across) for c in curves]
    return float(cKDTree(sides[0]).query(sides[1])[0].min())


@pytest.mark.parametrize("seed", [1, 4, 6])
def test_scikit_image_measures_the_same_slice_and_neither_is_far_from_the_truth(seed):
    scene = a_scene(np.random.default_rng([seed, 7]), card=True)
    scene.px_per_mm, scene.rough_mm = 30.0, 0.004
    picture = render(scene)
    marks = marks_of(picture, scene.length_mm)
    seen = measured(picture.pixels, marks)
    plane = four_corners(picture.pixels, list(np.array(marks.reference)), scene.length_mm, scene.length_mm)
    theirs = library_thickness(picture.pixels, marks, plane)
    # A threshold moves with the light, and the least of rough contours lies below the smooth ones: 4 thou.
    assert abs(theirs - picture.thinnest_mm) < 0.1
    assert abs(seen.thickness.value - theirs) < 0.1
    assert abs(seen.thickness.value - picture.thinnest_mm) <= seen.thickness.expanded


def test_the_homography_is_the_one_scikit_image_finds():
    picture = demo_picture()
    plane = four_corners(picture.pixels, list(picture.reference), 20.0, 20.0)
    seen = plane.px(np.array([(0, 0), (20, 0), (20, 20), (0, 20)], float))
    theirs = transform.ProjectiveTransform.from_estimate(seen, np.array([(0, 0), (20, 0), (20, 20), (0, 20)], float))
    somewhere = np.random.default_rng(2).uniform(0, 800, (40, 2))
    assert np.allclose(theirs(somewhere), plane.mm(somewhere), atol=1e-6)


def test_the_demo_picture_is_what_the_renderer_makes_and_measures_what_it_is():
    true = demo_picture().thinnest_mm
    with Image.open(io.BytesIO(FILE.read_bytes())) as opened:
        seen = measured(np.asarray(opened.convert("RGB")), MARKS)
    assert abs(seen.thickness.value - true) <= seen.thickness.expanded


def test_a_short_trial_misses_nothing(capsys):
    # ./mole prove --pictures 1000 is the long one, with the figures of docs/camera.md.
    assert try_many(12, 1) == []
    assert "two edges" in capsys.readouterr().out
