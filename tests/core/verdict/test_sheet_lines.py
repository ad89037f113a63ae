"""What the sheet says of colour, filters, the sun and what flies about; and answers that agree with each other."""

import math

import numpy as np
import pytest

from rapzel.core.document.places import changed
from rapzel.core.document.scene import read_scene
from rapzel.core.evaluate import evaluate
from rapzel.core.physics import Physics
from rapzel.core.tools import TOOLS, ask
from rapzel.core.verdict.cautions import cautions_for, danger_m
from rapzel.core.verdict.sheet_lines import sheet_lines
from tests.plans import LUNGE, MONOBLOC

WARM_STROBE = {
    **MONOBLOC,
    "durations": [{**row, "cct_k": 5600.0} for row in MONOBLOC["durations"]],
}
HALL = {
    "look": {"room": "lit", "room_stops": None, "trail_m": None},
    "ambient.ev100": 9.0, "ambient.cct_k": 3200.0, "lights[0].strobe": WARM_STROBE,
}  # fmt: skip


def lines(**values) -> dict[str, str]:
    return dict(sheet_lines(Physics(read_scene(changed(LUNGE, values)))))


def test_a_warm_room_asks_for_an_orange_gel() -> None:
    """10⁶/3200 − 10⁶/5600 = 134 mired: a full gel of 159 is 25 off, a half one 53."""
    said = lines(**HALL)["Colour"]
    assert "134 mired warmer" in said
    assert "A full orange gel" in said
    assert "but for 25 mired" in said
    assert lines(**{**HALL, "ambient.cct_k": 5550.0})["Colour"].endswith(
        "match: no gel."
    )
    cold = lines(**{**HALL, "ambient.cct_k": 8500.0})["Colour"]
    assert "61 mired cooler" in cold
    assert "A half blue gel" in cold


def test_a_colour_that_nobody_measured_is_named_and_a_black_room_has_none() -> None:
    assert "is not known" in lines(**{**HALL, "lights[0].strobe": MONOBLOC})["Colour"]
    assert "Colour" not in lines(**{**HALL, "ambient.cct_k": None})
    assert "Colour" not in lines(
        **{**HALL, "look.room": "black", "ambient.ev100": -3.0}
    )


def test_the_sun_behind_the_subject_is_a_rim_light() -> None:
    """At 62° the beam is 127.5 · e^(−0.21 / sin 62°) = 100.5 klx, EV 15.3: by hand on 1/200, f/8 and ISO 200."""
    sky = {
        "state": "clear", "latitude_deg": 51.48, "longitude_deg": 0.0, "date": "2024-06-20", "hour": 13.0,
        "utc_offset_h": 1.0, "facing": "away",
    }  # fmt: skip
    said = lines(**{"ambient": {"sky": sky}})["Sun"]
    extension = 2 * math.log2(1 + 1 / 79)
    stops = math.log2(100_500 * 100 / 250) + 1 - math.log2(64 * 200) - extension
    assert f"+{stops:.1f} stops" in said
    assert "Sun" not in lines(**{"ambient": {"sky": {**sky, "facing": "sun"}}})


def test_polariser_curtain_and_panning_have_their_lines() -> None:
    said = lines(
        **{
            "exposure.polariser_stops": 1.5, "exposure.flash_at": "second", "exposure.shutter_s": 1 / 30,
            "exposure.panning": {"error": None}, "ambient.flicker": {"frequency_hz": 100.0, "depth": 0.5},
        }
    )  # fmt: skip
    assert said["Polariser"].startswith("Takes 1.5 stops")
    assert said["Flash"].endswith("behind the subject.")
    assert "not tried yet" in said["Panning"]
    assert said["Flicker"].startswith("Even at")


def test_how_far_shards_fly_is_told_with_the_caution() -> None:
    """The farthest of all throws by a plain search over angles, each by its parabola."""
    glass = changed(
        LUNGE,
        {
            "hazards": ["glass"],
            "motion.speed_m_s": 8.0,
            "motion.speed_sd_m_s": 0.5,
            "subject.height_m": 1.2,
        },
    )
    scene = read_scene(glass)
    angles = np.radians(np.linspace(-20, 89, 20_001))
    v, g = 9.0, 9.80665
    up, along = v * np.sin(angles), v * np.cos(angles)
    lands = (up + np.sqrt(up**2 + 2 * g * 1.2)) / g
    farthest = float((along * lands).max())
    assert danger_m(scene) == pytest.approx(farthest, rel=1e-4)
    caution = next(one for one in cautions_for(scene) if one.key == "glass")
    assert f"{farthest:.2f} m" in caution.says
    assert not any(
        "land" in one.says
        for one in cautions_for(read_scene(LUNGE))
        if one.key != "glass"
    )


BEAM = {
    "id": "link-1",
    "kind": "beam",
    "name": "Beam",
    "lag_s": 0.0001,
    "jitter_s": 0.00001,
    "distance_m": 0.3,
}


def test_a_beam_and_a_moment_that_disagree_are_named_and_not_judged() -> None:
    """Cut 30 cm before the place, and wanted at that same instant: the tool of the beam finds none."""
    crossed = {
        "motion.speed_m_s": 1.0,
        "trigger.links": [BEAM],
        "trigger.fires": "flash",
        "exposure.method": "open_shutter",
        "exposure.shutter_s": 1.0,
    }
    wrong = evaluate(
        changed(LUNGE, {**crossed, "moment": {"at_s": 0.0, "place_m": 0.05}})
    )
    assert wrong.margin("timing").state == "unknown"
    assert wrong.margin("timing").says == "beam and moment disagree by 30 cm"
    assert any("Leave the instant empty" in one for one in wrong.warnings)
    for agrees in ({"at_s": None, "place_m": 0.05}, {"at_s": 0.3, "place_m": 0.05}):
        right = evaluate(
            changed(
                LUNGE,
                {**crossed, "moment": agrees, "trigger.set_delay_s": 0.3 - 0.0005},
            )
        )
        assert right.margin("timing").state == "passes"
        assert not any("Leave the instant empty" in one for one in right.warnings)


def test_dialling_in_from_a_scene_begins_where_the_scene_stands() -> None:
    scene = read_scene(changed(LUNGE, {"trigger.set_delay_s": 0.0123}))
    begins = TOOLS["dial-in"].from_scene(scene, evaluate(scene))
    assert begins["history"] == []
    found = ask(TOOLS["dial-in"], begins)
    assert found["next_value"] == pytest.approx(0.0123)
    assert found["says"].startswith("Begin at 12.3 ms")
