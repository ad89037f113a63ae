"""A camera that follows, and a flash at either curtain: streaks, what is left of a way, and where trails lie."""

import math
from typing import Any

import numpy as np
import pytest

from rapzel.core.document.places import changed
from rapzel.core.document.scene import Scene, read_scene
from rapzel.core.evaluate import evaluate
from rapzel.core.physics import Physics
from rapzel.core.rehearsal.exposures import room_light
from rapzel.core.rehearsal.passed import streaked
from rapzel.core.rehearsal.render import linear_picture
from rapzel.core.search.find import Kit, Search
from rapzel.core.search.limits import read_limits
from rapzel.core.subjects.pen import View
from tests.plans import LUNGE

STREAKS: dict[str, Any] = {
    "look": {"room": "streaks", "room_stops": None, "trail_m": 0.3},
    "exposure.panning": {"error": 0.1},
    "exposure.shutter_s": 1 / 30,
    "ambient.ev100": 8.0,
}


def scene(**values: Any) -> Scene:
    return read_scene(changed(LUNGE, values))


def test_what_is_left_of_a_followed_way_is_the_error_and_the_rest_streaks() -> None:
    """By hand: 9 m/s for 1/30 s at 50 mm from 4 m, m = 1/79; the camera is off by a tenth."""
    still = Physics(scene(**{"exposure.shutter_s": 1 / 30}))
    pans = Physics(scene(**STREAKS))
    assert pans.room_trail_px == pytest.approx(still.room_trail_px / 10, rel=1e-9)
    assert pans.limit_s == pytest.approx(10 * still.limit_s)
    assert pans.streak_m == pytest.approx(9 / 30)
    assert still.streak_m == 0.0
    assert pans.frame.passed_m(1 / 30) == pytest.approx(9 / 30 / 79, rel=1e-9)


def test_an_approach_is_not_followed_away() -> None:
    """What comes at the camera grows in the picture, whichever way the camera turns."""
    towards = {"motion.angle_deg": 0.0}
    assert Physics(scene(**towards)).limit_s == pytest.approx(
        Physics(scene(**towards, **{"exposure.panning": {"error": 0.1}})).limit_s
    )


def test_how_well_somebody_follows_is_doubt_until_it_is_said() -> None:
    unsaid = evaluate(changed(LUNGE, {"exposure.panning": {"error": None}})).margin(
        "freeze"
    )
    said = evaluate(changed(LUNGE, {"exposure.panning": {"error": 0.12}})).margin(
        "freeze"
    )
    assert unsaid.value == pytest.approx(said.value)
    assert unsaid.doubt == pytest.approx(
        math.hypot(said.doubt or 0.0, math.log2(0.2 / 0.12))
    )


def test_tries_are_sharp_as_often_as_the_camera_follows_well_enough() -> None:
    """By one plain normal law: the error of a try has the stated standard deviation."""
    by_shutter = {
        "exposure.method": "ambient",
        "exposure.shutter_s": 1 / 250,
        "ambient.ev100": 9.0,
    }
    panned = {
        **by_shutter,
        "exposure.panning": {"error": 0.1},
        "moment": {"at_s": 0.0554, "lasts_s": 1.0},
    }
    physics = Physics(scene(**panned))
    image_m_s = 9.0 * physics.frame.magnification
    allowed = physics.frame.circle_m / (image_m_s / 250)
    drawn = np.abs(np.random.default_rng(3).normal(0, 0.1, 400_000))
    share = physics.timing.shares.slow_enough
    assert 0.05 < share < 0.95
    assert share == pytest.approx(float(np.mean(drawn <= allowed)), abs=0.01)


def test_a_late_try_stays_in_a_frame_that_follows() -> None:
    late = {"trigger.set_delay_s": 0.25, "moment": {"at_s": 0.0554, "lasts_s": 1.0}}
    assert Physics(scene(**late)).timing.shares.in_frame == 0.0
    pans = {**late, "exposure.panning": {"error": 0.1}}
    assert Physics(scene(**pans)).timing.shares.in_frame == 1.0


def test_streaks_are_judged_by_their_length_and_by_whether_they_are_seen() -> None:
    found = evaluate(changed(LUNGE, STREAKS)).margin("ghost")
    assert found.state == "passes"
    assert found.says == "streaks 30 cm, wanted 30 cm"
    short = evaluate(changed(LUNGE, {**STREAKS, "exposure.shutter_s": 1 / 125})).margin(
        "ghost"
    )
    assert short.state == "fails"
    dark = evaluate(changed(LUNGE, {**STREAKS, "ambient.ev100": 0.0})).margin("ghost")
    assert dark.says.endswith("and streaks show from −3 on")
    still = evaluate(changed(LUNGE, {**STREAKS, "exposure.panning": None})).margin(
        "ghost"
    )
    assert still.says == "the camera does not follow, so nothing streaks"


def test_the_flash_of_the_second_curtain_comes_before_that_curtain_starts_and_delays_the_light() -> (
    None
):
    first = Physics(scene(**{"exposure.shutter_s": 1 / 30}))
    second = Physics(
        scene(**{"exposure.shutter_s": 1 / 30, "exposure.flash_at": "second"})
    )
    start = second.flashes[0].start_s
    # 2 ms before the second curtain, and the trigger's latency.
    assert start == pytest.approx(1 / 30 - 0.002 + 0.0004)
    later = second.timing.flash_after_event_s - first.timing.flash_after_event_s
    assert later == pytest.approx(start - first.flashes[0].start_s)
    # Too short a shutter has one instant for both.
    short = {"exposure.shutter_s": 1 / 200}
    both = [
        Physics(scene(**short, **{"exposure.flash_at": at})) for at in (None, "second")
    ]
    assert both[0].flashes[0].start_s == both[1].flashes[0].start_s


def test_a_trail_lies_before_the_subject_by_the_first_curtain_and_behind_it_by_the_second() -> (
    None
):
    trail = {
        "look": {"room": "trail", "room_stops": None, "trail_m": 0.3}, "ambient.ev100": 8.0,
        "exposure.shutter_s": 1 / 30,
    }  # fmt: skip
    first = evaluate(changed(LUNGE, trail)).margin("ghost")
    second = evaluate(changed(LUNGE, {**trail, "exposure.flash_at": "second"})).margin(
        "ghost"
    )
    assert first.says.endswith("before the subject")
    assert second.says.endswith("behind the subject")
    # By the clock: how long the best-lit row is open after the light, of all its time.
    physics = Physics(scene(**trail))
    opens = physics.curves.best_place * physics.travel_s
    after = opens + 1 / 30 - physics.flashes[0].start_s
    assert physics.trail_ahead == pytest.approx(after * 30, abs=0.01)


def test_a_long_pulse_is_cut_by_the_second_curtain_and_the_first_is_offered() -> None:
    full = {
        "exposure.shutter_s": 1 / 30,
        "exposure.flash_at": "second",
        "lights[0].power": 1.0,
    }
    found = evaluate(changed(LUNGE, full))
    assert found.margin("sync").state == "fails"
    assert (
        evaluate(changed(LUNGE, {**full, "exposure.flash_at": None}))
        .margin("sync")
        .passes
    )


def test_a_search_for_streaks_takes_the_shutters_that_draw_them() -> None:
    found = Search(
        scene(**STREAKS),
        Kit((Physics(scene()).scene.lights[0].strobe,)),
        read_limits({"iso": [100, 3200], "f_number": [2.8, 16], "lights": 1}),
    ).run()
    assert found.hits
    for hit in found.hits:
        assert hit.evaluation.margin("ghost").state in ("passes", "unsure")
        assert 0.8 / 30 <= hit.shutter_s <= 1.27 / 30
    still = Search(
        scene(**{**STREAKS, "exposure.panning": None}), Kit(()), read_limits({})
    )
    assert not still.run().hits


def test_the_rehearsal_streaks_posts_as_far_as_the_plan_says() -> None:
    """A long exposure evens the posts out along the way: the picture differs less from pixel to pixel."""

    def roughness(shutter_s: float) -> float:
        physics = Physics(scene(**{**STREAKS, "exposure.shutter_s": shutter_s}))
        view = View(480 / physics.frame.field_width_m, 480, 320)
        exposure = room_light(physics, np.linspace(0, 1, 320))
        assert exposure is not None

        def way(times: np.ndarray) -> np.ndarray:
            return np.asarray(times) * 9.0 * 0.1 * view.px_per_m

        picture = streaked(exposure, view, way, 9.0, 1)
        return float(np.abs(np.diff(picture, axis=1)).mean())

    assert roughness(1 / 8) < roughness(1 / 60) / 3


def test_streaks_equal_a_plain_mean_over_the_opening() -> None:
    """Pixel by pixel, a picture that stands for an instant, averaged over two thousand of them."""
    physics = Physics(
        scene(**{**STREAKS, "camera.shutter": "global", "exposure.shutter_s": 1 / 60})
    )
    view = View(120 / physics.frame.field_width_m, 120, 4)
    exposure = room_light(physics, np.linspace(0, 1, 4))
    assert exposure is not None

    def at(speed: float):
        return lambda times: np.asarray(times) * speed

    moving = streaked(exposure, view, at(900.0), 2.0, 1)
    instants = exposure.opens_s[0] + (np.arange(2000) + 0.5) / 2000 / 60
    summed = np.zeros_like(moving)
    for instant in instants:
        place = float(instant) * 900.0
        summed += streaked(
            exposure,
            view,
            lambda times, place=place: np.full(np.shape(times), place),
            2.0,
            1,
        )
    # A picture of an instant is a pixel wide itself.
    assert np.abs(moving - summed / 2000).max() < 0.03 * summed.max() / 2000 + 0.01


def test_the_picture_streaks_the_more_the_better_the_camera_follows() -> None:
    """A camera that is off by nearly all of the speed stands nearly still, and leaves the posts behind it sharp."""

    def roughness(error: float) -> float:
        still = {
            **STREAKS,
            "exposure.panning": {"error": error},
            "exposure.shutter_s": 1 / 8,
        }
        physics = Physics(
            scene(**still, **{"lights": [], "exposure.method": "ambient"})
        )
        picture = linear_picture(physics, (240, 160))[:20, :, 0]
        return float(np.abs(np.diff(picture, axis=1)).mean())

    assert roughness(0.1) < roughness(0.99) / 3
