import math

import numpy as np
import pytest

from rapzel.core.document.places import changed
from rapzel.core.evaluate import evaluate
from rapzel.core.frame import depth, optics
from rapzel.core.physics import Physics
from rapzel.core.physics.framing import Frame
from rapzel.core.possible import read_possible_scene
from rapzel.core.shared.errors import OutOfRange


def frame(document, **values) -> Frame:
    paths = {key.replace("__", "."): value for key, value in values.items()}
    return Physics(read_possible_scene(changed(document, paths))).frame


def test_thin_lens_by_hand() -> None:
    assert optics.magnification(0.05, 4.0) == pytest.approx(0.05 / 3.95)
    # life size at twice the focal length
    assert optics.magnification(0.1, 0.2) == pytest.approx(1.0)
    with pytest.raises(
        OutOfRange,
        match=r"subject_distance_m is 0\.04, but must be above the focal length",
    ):
        optics.magnification(0.05, 0.04)


def test_freeze_limit_of_the_worked_example(document) -> None:
    """10 m/s across, 50 mm at 4.00 m, 36 mm / 6000 px, 2 px: 12 µm / (10 · 0.05 / 3.95) = 94.8 µs, 1/10 549 s."""
    found = frame(document, motion__speed_m_s=10.0)
    assert found.limit_s() == pytest.approx(94.8e-6, rel=1e-3)
    assert 1 / found.limit_s() == pytest.approx(10_549, rel=1e-3)
    assert found.smear_px(found.limit_s()) == pytest.approx(2.0)  # there and back


def test_twice_as_fast_or_twice_as_large_halves_the_limit(document) -> None:
    limit = frame(document).limit_s()
    assert frame(document, motion__speed_m_s=18.0).limit_s() == pytest.approx(limit / 2)
    assert frame(document, lens__field_width_m=1.422).limit_s() == pytest.approx(
        limit / 2, rel=1e-3
    )


def test_nothing_moves_has_no_limit(document) -> None:
    assert math.isinf(frame(document, motion__speed_m_s=0.0).limit_s())


def test_criteria_by_hand(document) -> None:
    diagonal = math.hypot(36e-3, 24e-3)
    prints = frame(document, criterion={"kind": "print"})
    # 28.8 µm: the usual circle of confusion, common practice
    assert prints.circle_m == pytest.approx(diagonal / 1500)
    seen = frame(
        document,
        criterion={
            "kind": "viewing",
            "print_height_m": 0.24,
            "viewing_distance_m": 0.5,
        },
    )
    # a tenth of it on the sensor
    assert seen.circle_m == pytest.approx(0.5 * math.radians(1 / 60) * 0.1, rel=1e-6)


def test_movement_at_an_angle(document) -> None:
    limit = frame(document).limit_s()
    for angle in (
        30,
        150,
    ):  # sin 30° = ½, and away at the same angle; on the axis nothing else smears
        motion = {
            "kind": "steady",
            "speed_m_s": 9.0,
            "angle_deg": angle,
            "off_axis_mm": 0.0,
        }
        assert frame(document, motion=motion).limit_s() == pytest.approx(2 * limit)


def test_movement_at_the_camera_smears_by_growing(document) -> None:
    """At height h the image moves by h v / u: 10 mm · 9 m/s / 4 m = 22.5 mm/s on the sensor."""
    found = frame(
        document,
        motion={
            "kind": "steady",
            "speed_m_s": 9.0,
            "angle_deg": 0,
            "off_axis_mm": 10.0,
        },
    )
    assert found.towards_decides
    assert found.image_speed_m_s == pytest.approx(0.010 * 9 / 4)
    on_axis = frame(
        document,
        motion={"kind": "steady", "speed_m_s": 9.0, "angle_deg": 0, "off_axis_mm": 0.0},
    )
    assert on_axis.image_speed_m_s == pytest.approx(0, abs=1e-12), (
        "on the axis nothing grows sideways"
    )


@pytest.mark.parametrize("angle", [20.0, 60.0, 120.0])
def test_both_components_against_two_projections(document, angle: float) -> None:
    """Independent: the image point f · X / Z of a part that is square to the way off the axis, a microsecond apart."""
    m = 0.05 / 3.95
    found = frame(
        document,
        motion={
            "kind": "steady",
            "speed_m_s": 9.0,
            "angle_deg": angle,
            "off_axis_mm": 10.0,
        },
    )
    up, image_distance = 0.010 / m, m * 4.0

    def point(time: float) -> tuple[float, float]:
        depth_m = 4.0 - 9 * time * math.cos(math.radians(angle))
        return image_distance * 9 * time * math.sin(
            math.radians(angle)
        ) / depth_m, image_distance * up / depth_m

    (x0, y0), (x1, y1) = point(-5e-7), point(5e-7)
    assert found.image_speed_m_s == pytest.approx(
        math.hypot(x1 - x0, y1 - y0) / 1e-6, rel=1e-4
    )


def test_freeze_is_judged_one_standard_deviation_faster(document) -> None:
    spread = frame(
        document, motion={"kind": "steady", "speed_m_s": 8.0, "speed_sd_m_s": 1.0}
    )
    assert spread.limit_s() == pytest.approx(frame(document).limit_s())  # of 9 m/s
    assert any(
        line.symbol == "v judged" and line.value == 9.0 for line in spread.working
    )


def test_a_leap_at_its_apex_still_moves_while_light_arrives(document) -> None:
    """½ g t² · m = c: 12 µm at m = 0.01266 are 0.948 mm, which take √(2 · 0.948 mm / g) = 13.9 ms."""
    at_apex = frame(document, motion={"kind": "leap", "rise_m": 0.6})
    assert at_apex.image_speed_m_s == 0
    assert at_apex.limit_s() == pytest.approx(
        math.sqrt(2 * 12e-6 / (0.05 / 3.95) / 9.80665), rel=1e-3
    )
    assert at_apex.smear_px(0.5, centred=True) * 6e-6 == pytest.approx(
        9.80665 * 0.25**2 * 0.05 / 3.95, rel=3e-3
    )
    moving = frame(
        document, motion={"kind": "leap", "rise_m": 0.6, "horizontal_m_s": 5.0}
    )
    assert moving.limit_s() == pytest.approx(12e-6 / (0.05 / 3.95) / 5, rel=1e-3), (
        "the apex does not stop the run"
    )


def test_diffraction_by_hand(document) -> None:
    """Airy: 2.44 · 550 nm · f/16 · (1 + m) at m = 0.286 is 27.6 µm."""
    assert optics.airy_diameter_m(16.0, 0.2857) == pytest.approx(27.6e-6, rel=1e-3)
    assert frame(document).diffraction_px == pytest.approx(
        2.44 * 0.55 * 8 * (1 + 0.05 / 3.95) / 6, rel=1e-6
    )


@pytest.mark.parametrize(("m", "stops"), [(0.29, 0.73), (1.0, 2.0), (2.0, 3.17)])
def test_the_extension_of_the_handbook(m: float, stops: float) -> None:
    assert optics.bellows_stops(m) == pytest.approx(stops, abs=0.01)


def test_depth_of_field_uses_the_criterion_of_the_smear(document) -> None:
    strict, wide = (
        frame(document),
        frame(document, criterion={"kind": "pixels", "pixels": 8}),
    )
    assert (
        strict.depth.far_m - strict.depth.near_m
        < (wide.depth.far_m - wide.depth.near_m) / 3
    )
    assert strict.depth.near_m == pytest.approx(
        depth.depth_of_field(0.05, 8.0, 12e-6, 4.0).near_m
    )


def test_a_reaching_part_has_a_blur_disc_of_its_own(document) -> None:
    """By similar triangles, as for the edges of the depth of field."""
    blur = depth.blur_disc_m(0.05, 8.0, 4.0, 3.0)
    image, sensor = 0.05 * 3 / 2.95, 0.05 * 4 / 3.95
    assert blur == pytest.approx(abs(image - sensor) / image * 0.05 / 8, rel=1e-6)
    assert (
        frame(
            document, motion={"kind": "steady", "speed_m_s": 1.0, "reach_m": 1.0}
        ).reach_blur_m
        == blur
    )


def test_a_part_that_reaches_forward_is_larger_and_smears_more(document) -> None:
    found = frame(document, motion={"kind": "steady", "speed_m_s": 9.0, "reach_m": 2.0})
    assert found.enlargement == pytest.approx(2.0)  # u / (u − Δ) = 4 / 2
    assert found.limit_s() == pytest.approx(frame(document).limit_s() / 2)


def test_hyperfocal_and_depth_of_field_of_a_published_example() -> None:
    """50 mm at f/8 with a circle of 0.03 mm: hyperfocal 10.467 m, and half of it to infinity is sharp.

    The worked example of the encyclopaedia article “Hyperfocal distance” (from memory); the sums are repeated here.
    """
    at_hyperfocal = depth.depth_of_field(0.05, 8, 30e-6, 10.467)
    assert at_hyperfocal.hyperfocal_m == pytest.approx(10.467, abs=0.001)
    assert at_hyperfocal.near_m == pytest.approx(10.467 / 2, rel=0.005)
    assert math.isinf(depth.depth_of_field(0.05, 8, 30e-6, 10.47).far_m)


def test_depth_of_field_edges_are_blurred_by_just_the_circle() -> None:
    """Independent of the formulas: image distances by the lens equation, blur by similar triangles."""
    f, n, circle, u = 0.085, 2.8, 29e-6, 3.0
    field = depth.depth_of_field(f, n, circle, u)
    sensor = f * u / (u - f)
    for edge in (field.near_m, field.far_m):
        image = f * edge / (edge - f)
        assert abs(sensor - image) / image * f / n == pytest.approx(circle, rel=1e-3)
    assert field.near_m < u < field.far_m


@pytest.mark.parametrize("shutter_s", [1 / 1000, 1 / 30, 0.5])
@pytest.mark.parametrize(
    "motion",
    [
        {"kind": "fall", "height_m": 0.4},
        {"kind": "leap", "rise_m": 0.8, "horizontal_m_s": 1.5, "from_apex_s": 0.05},
        {"kind": "leap", "rise_m": 0.8},
        {"kind": "rotation", "radius_m": 0.4, "rpm": 200.0, "phase_deg": 30.0},
        {
            "kind": "swing",
            "length_m": 1.2,
            "angle_from_rest_deg": 70.0,
            "phase_deg": 60.0,
        },
        {
            "kind": "swing",
            "length_m": 1.2,
            "angle_from_rest_deg": 70.0,
            "phase_deg": 90.0,
        },
    ],
    ids=lambda motion: f"{motion['kind']} {motion.get('phase_deg', '')}",
)
def test_ways_of_the_image_against_an_integration_of_places(
    document, motion, shutter_s
) -> None:
    """The picture's way summed up from place to place in 40 000 steps, within 1 %; the limit by the same sum."""
    document["exposure"].update(method="ambient", shutter_s=shutter_s)
    document["ambient"] = {"ev100": 12.0}
    physics = Physics(read_possible_scene(changed(document, {"motion": motion})))
    m, wanted = physics.frame.magnification, physics.trajectory.wanted_s

    def way_px(begin: float, end: float) -> float:
        times = np.linspace(wanted + begin, wanted + end, 40_001)
        place = physics.trajectory.place_m(times)
        steps = np.hypot(
            *(
                np.diff(np.broadcast_to(part, times.shape))
                for part in (place.across, place.up)
            )
        )
        return float(steps.sum()) * m / 6e-6

    found = evaluate(physics.scene)
    assert found.smear_px == pytest.approx(
        way_px(-shutter_s / 2, shutter_s / 2), rel=0.01
    )
    limit = found.freeze_limit_s
    assert way_px(-limit / 2, limit / 2) == pytest.approx(2.0, rel=0.01)
    pulse = evaluate(
        changed(
            document,
            {"motion": motion, "exposure.method": "pulse", "exposure.shutter_s": 0.02},
        )
    )
    assert pulse.smear_px == pytest.approx(way_px(0.0, pulse.stopping_s), rel=0.01)
    assert way_px(0.0, pulse.freeze_limit_s) == pytest.approx(2.0, rel=0.01)
