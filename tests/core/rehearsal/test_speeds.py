"""The scene a third slower and a third faster: speeds and smear by hand, and where the close-up lies in the frame."""

import math

import numpy as np
import pytest

from rapzel.core.document.places import changed
from rapzel.core.document.scene import read_scene
from rapzel.core.motion import KINDS
from rapzel.core.physics import Physics
from rapzel.core.rehearsal.render import close_up_box, render_close_up, render_frame
from rapzel.core.rehearsal.speeds import at_speeds
from tests.plans import LUNGE

FACTORS = (2 / 3, 1.0, 4 / 3)
MOTIONS = {kind: {"kind": kind, **motion.beginning} for kind, motion in KINDS.items()}
# Off the top, where a leap has a speed upwards that grows with the time from it.
MOTIONS["leap"] |= {"from_apex_s": 0.1, "horizontal_m_s": 2.0}


@pytest.mark.parametrize("kind", MOTIONS)
def test_every_motion_is_a_third_slower_and_a_third_faster(kind: str) -> None:
    physics = Physics(read_scene(changed(LUNGE, {"motion": MOTIONS[kind]})))
    usual = physics.trajectory.wanted_speed_m_s
    speeds = [one.speed for one in at_speeds(physics)]
    assert speeds == pytest.approx([usual * by for by in FACTORS], rel=1e-6)


def test_the_smear_is_the_way_of_the_image_while_lit() -> None:
    """9 m/s and its spread, 50 mm at 4 m on 6 µm pixels, as the Freeze tile has it: f / (u − f) · v · t / pitch."""
    physics = Physics(read_scene(LUNGE))
    motion, camera = physics.scene.motion, physics.scene.camera
    pitch_m = camera.sensor_width_mm / 1000 / camera.pixels_wide
    sharp = physics.stopping_s * 0.05 / (4.0 - 0.05) / pitch_m
    by_hand = [(motion.speed_m_s + motion.speed_sd_m_s) * by * sharp for by in FACTORS]
    found = at_speeds(physics)
    assert [one.smear_px for one in found] == pytest.approx(by_hand, rel=1e-6)
    limit = physics.frame.criterion_px
    assert [one.too_much for one in found] == [smear > limit for smear in by_hand]
    assert [one.planned for one in found] == [False, True, False]


def test_what_no_scene_may_be_is_left_out_and_said() -> None:
    """A speed at the end of what a scene takes: a third more is refused, and nothing is made up in its place."""
    fastest = read_scene(
        changed(LUNGE, {"motion.speed_m_s": 9e4, "motion.speed_sd_m_s": 0.0})
    )
    slower, planned, faster = at_speeds(Physics(fastest))
    assert slower.physics is not None
    assert planned.speed == pytest.approx(9e4)
    assert (faster.physics, faster.smear_px, faster.too_much) == (None, None, False)


def test_the_close_up_shows_what_its_box_marks_in_the_frame() -> None:
    """Its mean brightness is that of the marked part of a whole frame drawn at the same scale."""
    physics = Physics(read_scene(LUNGE))
    size, crop = (1500, 1000), (600, 400)
    left, top, width, height = close_up_box(physics, crop, size)
    assert width == pytest.approx(600 / physics.scene.camera.pixels_wide * 1500)
    assert math.isclose(width / height, 1.5)
    frame = render_frame(physics, size)
    marked = frame[round(top) : round(top + height), round(left) : round(left + width)]
    close_up = render_close_up(physics, crop)
    assert np.mean(close_up) == pytest.approx(np.mean(marked), rel=0.06)
