import math

import pytest

from rapzel.core.document.places import changed
from rapzel.core.document.possible import read_possible_scene
from rapzel.core.frame import framing
from rapzel.core.physics import Physics
from rapzel.core.shared.errors import OutOfRange


def frame(document, **values) -> framing.Frame:
    paths = {key.replace("__", "."): value for key, value in values.items()}
    return Physics(read_possible_scene(changed(document, paths))).frame


def test_thin_lens_by_hand() -> None:
    assert framing.magnification(0.05, 4.0) == pytest.approx(0.05 / 3.95)
    assert framing.magnification(0.1, 0.2) == pytest.approx(1.0)  # life size at twice the focal length
    with pytest.raises(OutOfRange, match=r"subject_distance_m is 0\.04, but must be above the focal length"):
        framing.magnification(0.05, 0.04)


def test_freeze_limit_of_the_worked_example(document) -> None:
    """10 m/s across, 50 mm at 4.00 m, 36 mm / 6000 px, 2 px: 12 µm / (10 · 0.05 / 3.95) = 94.8 µs, 1/10 549 s."""
    found = frame(document, motion__speed_m_s=10.0)
    assert found.limit_s == pytest.approx(94.8e-6, rel=1e-3)
    assert 1 / found.limit_s == pytest.approx(10_549, rel=1e-3)
    assert found.smear_px(found.limit_s) == pytest.approx(2.0)  # there and back


def test_twice_as_fast_or_twice_as_large_halves_the_limit(document) -> None:
    limit = frame(document).limit_s
    assert frame(document, motion__speed_m_s=18.0).limit_s == pytest.approx(limit / 2)
    assert frame(document, lens__field_width_m=1.422).limit_s == pytest.approx(limit / 2, rel=1e-3)


def test_nothing_moves_has_no_limit(document) -> None:
    assert math.isinf(frame(document, motion__speed_m_s=0.0).limit_s)


def test_criteria_by_hand(document) -> None:
    diagonal = math.hypot(36e-3, 24e-3)
    prints = frame(document, criterion={"kind": "print"})
    assert prints.circle_m == pytest.approx(diagonal / 1500)  # 28.8 µm: the usual circle of confusion, common practice
    seen = frame(document, criterion={"kind": "viewing", "print_height_m": 0.24, "viewing_distance_m": 0.5})
    assert seen.circle_m == pytest.approx(0.5 * math.radians(1 / 60) * 0.1, rel=1e-6)  # a tenth of it on the sensor


def test_movement_at_an_angle(document) -> None:
    limit = frame(document).limit_s
    assert frame(document, motion__angle_deg=30).limit_s == pytest.approx(2 * limit)  # sin 30° = ½
    assert frame(document, motion__angle_deg=150).limit_s == pytest.approx(2 * limit)  # away at the same angle


def test_movement_at_the_camera_smears_by_growing(document) -> None:
    """At height h the image moves by h v t / (u − f): 10 mm · 9 m/s / 3.95 m = 22.8 mm/s on the sensor."""
    found = frame(document, motion={"kind": "steady", "speed_m_s": 9.0, "angle_deg": 0, "off_axis_mm": 10.0})
    assert found.towards_decides
    assert found.speed_across_m_s == pytest.approx(0)
    assert found.image_speed_m_s == pytest.approx(0.010 * 9 / 3.95)


def test_a_part_that_reaches_forward_is_larger_and_smears_more(document) -> None:
    found = frame(document, motion={"kind": "steady", "speed_m_s": 9.0, "reach_m": 2.0})
    assert found.enlargement == pytest.approx(2.0)  # u / (u − Δ) = 4 / 2
    assert found.limit_s == pytest.approx(frame(document).limit_s / 2)


def test_hyperfocal_and_depth_of_field_of_a_published_example() -> None:
    """50 mm at f/8 with a circle of 0.03 mm: hyperfocal 10.467 m, and half of it to infinity is sharp.

    The worked example of the encyclopaedia article “Hyperfocal distance” (from memory); the sums are repeated here.
    """
    at_hyperfocal = framing.depth_of_field(0.05, 8, 30e-6, 10.467)
    assert at_hyperfocal.hyperfocal_m == pytest.approx(10.467, abs=0.001)
    assert at_hyperfocal.near_m == pytest.approx(10.467 / 2, rel=0.005)
    assert math.isinf(framing.depth_of_field(0.05, 8, 30e-6, 10.47).far_m)


def test_depth_of_field_edges_are_blurred_by_just_the_circle() -> None:
    """Independent of the formulas: image distances by the lens equation, blur by similar triangles."""
    f, n, circle, u = 0.085, 2.8, 29e-6, 3.0
    depth = framing.depth_of_field(f, n, circle, u)
    sensor = f * u / (u - f)
    for edge in (depth.near_m, depth.far_m):
        image = f * edge / (edge - f)
        assert abs(sensor - image) / image * f / n == pytest.approx(circle, rel=1e-3)
    assert depth.near_m < u < depth.far_m
