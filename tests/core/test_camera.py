"""A thickness from pictures drawn by closed form: found, known to, refused."""

import math

import numpy as np
import pytest

from mockup.base.faults import FaultsError
from mockup.camera.curves import through
from mockup.camera.marks import Marks
from mockup.camera.measure import MOST_U_MM, Cause, measure
from mockup.camera.reference import four_corners
from mockup.camera.scan import LINEAR, find_edge, inside, longest_run, strip

SCALE = 40.0
"""Pixels a millimetre."""
THICK_MM = 2.5
HEIGHT, WIDTH = 420, 1100
TOP = 160.3


def coded(light):
    """Light as a camera codes it: sRGB, IEC 61966-2-1, by its own formula."""
    light = np.clip(light, 0, 1)
    code = np.where(light <= 0.0031308, 12.92 * light, 1.055 * np.maximum(light, 1e-9) ** (1 / 2.4) - 0.055)
    return np.rint(code * 255).astype(np.uint8)


def between(at, low, high, blur):
    """How much of a place is between two blurred edges: the closed form."""
    erf = np.vectorize(math.erf)
    one, other = ((at - edge) / (blur * math.sqrt(2)) for edge in (low, high))
    return 0.5 * (erf(one) - erf(other))


def drawn(blur=1.0, clay=0.15, ground=0.7, bulge=0.0, noise=0.0, block_blur=None, gap=None, seed=1):
    """A strip of clay 2.5 mm thick on the right, and a square of 5 mm on the left."""
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH].astype(float)
    thin = bulge * ((x - 780) / 260) ** 2
    light = ground + (clay - ground) * between(y, TOP - thin, TOP + THICK_MM * SCALE + thin, blur) * (x > 460)
    if gap is not None:
        light = np.where((x > gap[0]) & (x < gap[1]), ground, light)
    own = block_blur or blur
    light += (0.02 - light) * between(y, 110.2, 310.2, own) * between(x, 90.7, 290.7, own)
    light = light + noise * np.random.default_rng(seed).standard_normal(light.shape)
    return np.repeat(coded(light)[..., None], 3, axis=2)


def marks(four=True, off=6.0, **more):
    corners = ((90 + off, 110 - off), (291 - off, 110 + off), (291 + off, 310 - off), (90 - off, 310 + off))
    edges = ((190.0, 110 + off), (192.0, 310 - off))
    fields = {"reference": corners if four else edges, "ends": ((540.0, 212.0), (1030.0, 207.0))}
    return Marks(**(fields | {"reach_px": 90.0, "length_mm": 5.0, "u_mm": 0.003} | more))


@pytest.mark.parametrize("four", [True, False])
@pytest.mark.parametrize("blur", [0.6, 1.5, 3.0])
@pytest.mark.parametrize(("clay", "ground"), [(0.15, 0.7), (0.5, 0.06)])
def test_a_strip_of_known_thickness_is_measured_to_a_tenth_of_a_pixel(four, blur, clay, ground):
    seen = measure(drawn(blur, clay, ground), marks(four))
    assert seen.refused == ()
    assert abs(seen.thickness.value - THICK_MM) * SCALE < 0.12
    assert abs(seen.thickness.value - THICK_MM) <= seen.thickness.expanded <= MOST_U_MM
    assert seen.blur_px == pytest.approx(blur, abs=0.3)
    assert seen.px_per_mm == pytest.approx(SCALE, rel=0.002)


def test_the_thinnest_place_is_found_where_it_is():
    seen = measure(drawn(bulge=30.0), marks())
    assert abs(seen.thickness.value - THICK_MM) < 0.02
    assert seen.thinnest.mean(axis=0)[0] == pytest.approx(780, abs=25)
    assert not seen.cautions
    cut_off = measure(drawn(bulge=30.0), marks(ends=((850.0, 210.0), (1040.0, 210.0)), reach_px=100.0))
    assert cut_off.cautions[0].startswith("It is thinnest where the marks end")


def test_marks_may_be_rough_and_say_the_same():
    picture = drawn(noise=0.01)
    found = [measure(picture, marks(off=off)).thickness.value for off in (-8.0, 0.0, 7.0)]
    assert max(found) - min(found) < 0.004


def test_noise_and_roughness_widen_u():
    quiet, loud = measure(drawn(), marks()), measure(drawn(noise=0.05), marks())
    assert loud.thickness.u > quiet.thickness.u
    assert {part.of for part in loud.parts} == set(Cause)
    assert loud.thickness.u**2 == pytest.approx(sum(part.u**2 for part in loud.parts))


def test_a_reference_known_less_surely_widens_u_in_proportion():
    sure, unsure = (measure(drawn(), marks(u_mm=u)) for u in (0.001, 0.05))
    added = math.sqrt(unsure.thickness.u**2 - sure.thickness.u**2)
    assert added == pytest.approx(THICK_MM / 5.0 * 0.05, rel=0.02)


def test_a_square_measured_one_way_only_is_known_less_surely():
    one, both = measure(drawn(), marks()), measure(drawn(), marks(across_mm=5.0))
    assert both.thickness.value == pytest.approx(one.thickness.value, abs=1e-9)
    assert math.sqrt(one.thickness.u**2 - both.thickness.u**2) == pytest.approx(THICK_MM * 0.005 / 3**0.5, rel=1e-3)


def test_two_edges_are_less_sure_than_four_corners_and_the_further_off_the_less():
    four, two = measure(drawn(), marks()), measure(drawn(), marks(four=False))
    assert two.thickness.u > four.thickness.u
    far = measure(drawn(), marks(four=False, ends=((800.0, 210.0), (1060.0, 210.0))))
    assert far.thickness.u > two.thickness.u


def test_corners_give_the_tilt_of_the_camera():
    # A plane turned 12 degrees about the upright, seen from very far: narrower by its cosine and by nothing else.
    narrow = math.cos(math.radians(12))
    picture = drawn()
    squeezed = picture[:, np.clip(np.rint(np.arange(int(WIDTH * narrow)) / narrow).astype(int), 0, WIDTH - 1)]
    corners = tuple((x * narrow, y) for x, y in marks(off=0).reference)
    seen = measure(squeezed, marks(reference=corners, ends=((540 * narrow, 211.0), (1030 * narrow, 209.0))))
    assert seen.tilt_deg == pytest.approx(12, abs=0.7)
    assert abs(seen.thickness.value - THICK_MM) < 0.015


@pytest.mark.parametrize(
    ("picture", "how", "says"),
    [
        (lambda: drawn(blur=6.0), {}, "blurred over"),
        (lambda: drawn(clay=0.7), {}, "clay does not stand out"),
        (lambda: drawn(ground=0.02, clay=0.6), {}, "reference does not stand out"),
        (lambda: drawn(block_blur=3.2), {}, "not in one plane"),
        (lambda: drawn(gap=(700, 790)), {}, "not one line"),
        (drawn, {"ends": ((1.0, 1.0), (4.0, 2.0))}, "too short"),
        (drawn, {"ends": ((900.0, 210.0), (2000.0, 210.0))}, "outside of the picture"),
        (drawn, {"reference": ((90, 110), (90, 110), (90, 110), (90, 110))}, "too near each other"),
        (drawn, {"reference": ((90, 210), (290, 210))}, "askew of the clay"),
        (lambda: drawn(noise=0.3), {}, "stand out"),
        (drawn, {"u_mm": 0.2}, "mostly by the reference: a caliper does as well"),
        (lambda: np.ascontiguousarray(drawn()[::4, ::4]), None, "too few"),
    ],
)
def test_what_cannot_be_measured_honestly_is_refused_with_the_reason(picture, how, says):
    if how is None:
        quarter = marks(off=1.0)
        how = {
            "reference": tuple((x / 4, y / 4) for x, y in quarter.reference),
            "ends": tuple((x / 4, y / 4) for x, y in quarter.ends),
            "reach_px": 22.0,
        }
    seen = measure(picture(), marks(**how))
    assert seen.thickness is None
    assert says in " ".join(seen.refused)


@pytest.mark.parametrize(
    "wrong",
    [
        {"reference": ((1, 1), (2, 2), (3, 3))},
        {"length_mm": 0.0},
        {"length_mm": math.nan},
        {"across_mm": 900.0},
        {"u_mm": 0.0},
        {"reach_px": 3.0},
        {"ends": ((0.0, math.inf), (1.0, 1.0))},
    ],
)
def test_marks_that_make_no_measurement_are_refused(wrong):
    with pytest.raises(FaultsError):
        marks(**wrong)


def test_light_is_linear_by_the_standard():
    # IEC 61966-2-1: code 188 of 255 is half the light within a two-hundredth; both ends are themselves.
    assert LINEAR[0] == 0
    assert LINEAR[255] == pytest.approx(1)
    assert LINEAR[188] == pytest.approx(0.5029, abs=1e-3)


def test_a_rectangle_that_is_none_gives_another_scale_each_way():
    plane = four_corners(drawn(), [np.array(p) for p in marks(off=2).reference], 5.0, 10.0)
    assert plane.px_per_mm(np.array([190.0, 210.0])) == (pytest.approx(40, rel=0.01), pytest.approx(20, rel=0.01))


def test_a_strip_must_be_long_enough_and_lie_inside():
    picture = drawn()
    with pytest.raises(ValueError, match="too short"):
        strip(picture, np.array([10.0, 10.0]), np.array([12.0, 10.0]), -20, 20)
    assert inside(picture, np.array([[0.0, 0.0], [1099.0, 419.0]]))
    assert not inside(picture, np.array([[0.0, 419.5]]))


def test_an_edge_is_followed_at_a_slant():
    y, x = np.mgrid[0:200, 0:300].astype(float)
    picture = np.repeat(coded(0.1 + 0.6 / (1 + np.exp(-(y - 60 - 0.25 * x))))[..., None], 3, axis=2)
    found = find_edge(strip(picture, np.array([20.0, 90.0]), np.array([280.0, 100.0]), -60, 60))
    off = found.points[:, 1] - 60 - 0.25 * found.points[:, 0]
    assert np.abs(off).max() < 0.1


def test_the_longest_run_is_found():
    assert longest_run(np.array([True, False, True, True, False])) == 2
    assert longest_run(np.zeros(4, bool)) == 0


def test_a_curve_leaves_out_what_lies_far_off():
    rng = np.random.default_rng(4)
    x = np.linspace(0, 20, 400)
    y = 1 + 0.02 * (x - 9) ** 2 + rng.normal(0, 0.01, 400)
    y[100:115] += 0.8
    found = through(np.column_stack([x, y]))
    assert np.abs(found.spline(x) - 1 - 0.02 * (x - 9) ** 2).max() < 0.02
    assert 0.03 < found.left_out < 0.06
    assert found.scatter_mm == pytest.approx(0.01, rel=0.15)
    with pytest.raises(ValueError, match="too few"):
        through(np.column_stack([x, y])[:10])
