"""Motion, diffraction and focus as one blur, against points drawn one by one."""

import numpy as np
import pytest

from rapzel.core.advice import advise
from rapzel.core.document.places import changed
from rapzel.core.document.scene import read_scene
from rapzel.core.evaluate import evaluate
from rapzel.core.motion.presets import USUAL_SPEEDS
from rapzel.core.physics import Physics

N = 400_000


def test_widths_add_up_as_the_spread_of_many_points(document) -> None:
    """Each photon: along an even smear, off by an even disc, and off by a normal core of 0.42 λ N."""
    document = changed(document, {"motion.reach_m": 0.6, "exposure.f_number": 16.0})
    frame = Physics(read_scene(document)).frame
    rng = np.random.default_rng(4)
    smear = 1.7
    along = rng.uniform(-smear / 2, smear / 2, N)
    radius = frame.reach_blur_m / 2 / frame.pixel_pitch_m
    along += radius * np.sqrt(rng.random(N)) * np.cos(rng.uniform(0, 2 * np.pi, N))
    core = 0.42 * frame.airy_m / 2.44 / frame.pixel_pitch_m
    along += core * rng.standard_normal(N)
    assert frame.blur_px(smear) == pytest.approx(np.sqrt(12) * along.std(), rel=5e-3)


def test_what_stands_still_in_a_large_disc_is_not_sharp(document) -> None:
    """f/32 at life size: 1.6 px of motion beside a disc of some 14 px."""
    near = {
        "lens": {"focal_length_mm": 100.0, "subject_distance_m": 0.2},
        "motion.speed_m_s": 0.09,
        "lights[0].power": 1 / 256,
    }
    small = evaluate(changed(document, {**near, "exposure.f_number": 32.0}))
    assert small.smear_px < 2
    assert small.diffraction_px > 14
    margin = small.margin("freeze")
    assert margin.state == "fails"
    assert "with diffraction" in margin.says
    assert "not sharp" in small.sentence.lower()
    wide = evaluate(changed(document, {**near, "exposure.f_number": 8.0}))
    assert wide.margin("freeze").state != "fails"


def test_a_usual_speed_keeps_its_range_as_its_doubt() -> None:
    """Nine in ten of a normal law lie within 1.645 standard deviations."""
    kick = next(one for one in USUAL_SPEEDS if one.name == "Kicking foot")
    assert kick.sd_m_s == pytest.approx((25 - 12) / 2 / 1.645, rel=0.02)


def test_a_pulse_may_be_shorter_than_told_as_well(document) -> None:
    """Just beyond the limit of a claimed duration it is a coin, and no failure; well beyond it is one."""
    limit = evaluate(document).freeze_limit_s
    for times, state in ((0.7, "passes"), (0.9, "unsure"), (1.1, "unsure"), (1.4, "fails")):  # fmt: skip
        table = [{"power": 1.0, "t01_s": limit * times, "provenance": "claimed"}]
        strobe = {"circuit": "voltage", "guide_number_m": 40.0, "durations": table}
        scene = changed(document, {"lights[0].strobe": strobe, "lights[0].power": 1.0})
        found = evaluate(scene)
        assert found.margin("freeze").state == state, times
        if times == 1.1:
            assert "probably smeared" in found.sentence.lower()
            assert [one.margin for one in advise(read_scene(scene), found)]
