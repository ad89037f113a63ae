"""The sun, the sky and the dark window."""

import math
from datetime import UTC, datetime
from itertools import pairwise
from typing import Any

import numpy as np
import pytest

from rapzel.core.document.places import changed
from rapzel.core.document.scene import Scene, read_scene
from rapzel.core.evaluate import evaluate
from rapzel.core.light import room, sky
from rapzel.core.physics import Physics
from rapzel.core.shared.errors import DocumentError
from rapzel.core.verdict.dusk import dusk_of, holds_at
from tests.plans import LUNGE

YARD: dict[str, Any] = {
    "state": "clear", "latitude_deg": 51.48, "longitude_deg": 0.0, "date": "2024-06-20", "hour": 13.0,
    "utc_offset_h": 1.0, "facing": None,
}  # fmt: skip


def outdoors(**values: Any) -> Scene:
    own = {key: values.pop(key) for key in list(values) if key in YARD}
    return read_scene(changed(LUNGE, {"ambient": {"sky": {**YARD, **own}}, **values}))


@pytest.mark.parametrize(
    ("latitude", "longitude", "at", "height", "within"),
    [
        # At a solstice's noon the sun stands 90° − latitude + 23.44° high (definition of the obliquity).
        (51.48, 0.0, datetime(2024, 6, 20, 12, 1, tzinfo=UTC), 61.96, 0.05),
        (-33.87, 151.21, datetime(2024, 12, 21, 1, 53, tzinfo=UTC), 79.6, 0.1),
        # Sunset at Greenwich on that day, 20:21 UTC by almanacs (memory): the upper limb meets the horizon.
        (51.48, 0.0, datetime(2024, 6, 20, 20, 21, tzinfo=UTC), -0.3, 0.4),
        (0.0, 0.0, datetime(2024, 3, 20, 12, 7, tzinfo=UTC), 90.0, 0.4),
    ],
)
def test_the_sun_stands_where_almanacs_say(
    latitude, longitude, at, height, within
) -> None:
    assert sky.sun_elevation_deg(latitude, longitude, at) == pytest.approx(
        height, abs=within
    )


def test_daylight_is_what_exposure_guides_say() -> None:
    """Full sun is EV 15 (the sunny-16 rule: 1/ISO at f/16), civil dusk 3.4 lx (Explanatory Supplement, memory)."""
    usual, low, high = sky.sky_ev100("clear", 50.0)
    assert usual == pytest.approx(15.0, abs=0.35)
    assert low < usual < high
    sunny_16 = math.log2(16**2 * 100)
    assert usual == pytest.approx(sunny_16, abs=0.5)
    assert sky.clear_lux(-6.0) == pytest.approx(3.4)
    assert sky.sky_ev100("heavy", 50.0)[0] == pytest.approx(usual - 3.3)


def test_the_light_never_jumps_and_falls_with_the_sun() -> None:
    heights = [step / 10 for step in range(-250, 900)]
    lux = [sky.clear_lux(height) for height in heights]
    for before, after in pairwise(lux):
        assert before <= after * (1 + 1e-9)
        assert math.log2(after / before) < 0.25


def test_a_night_may_have_a_full_moon() -> None:
    usual, _, most = sky.sky_ev100("clear", -30.0)
    assert usual < -11
    assert most == pytest.approx(-3.0, abs=0.3)


def test_a_scene_outdoors_has_the_light_of_its_sky_with_its_doubt() -> None:
    physics = Physics(outdoors(state="heavy"))
    ev100, working = physics.room_ev100
    assert ev100 == pytest.approx(12.0, abs=0.3)
    assert working is not None
    assert working.provenance == "estimated"
    assert "sun at 62" in working.formula
    assert physics.room_doubt_stops == pytest.approx(1.2, abs=0.01)


# Handbook §18, of a clear sky by the IES form: a plane turned to the sun against level ground, at three heights of it.
@pytest.mark.parametrize(
    ("height", "least", "most"), [(5, 1.2, 1.5), (10, 1.6, 1.9), (15, 1.4, 1.7), (30, 0.6, 0.7)]
)  # fmt: skip
def test_a_face_turned_to_a_low_sun_is_brighter_than_the_ground(
    height, least, most
) -> None:
    usual, low, high = sky.facing_stops("clear", height, "sun")
    assert least <= round(usual, 1) <= most
    assert low < usual < high


def test_turned_away_it_is_down_to_two_and_a_half_stops_darker() -> None:
    """A face away from the sun gets half the sky and what the ground sends back, whatever the sun's height."""
    darkest = min(
        sky.facing_stops("clear", height, "away")[0] for height in range(1, 90)
    )
    assert darkest == pytest.approx(-2.6, abs=0.05)
    for height in range(1, 90):
        away, across, to = (
            sky.facing_stops("clear", height, facing)[0]
            for facing in ("away", "across", "sun")
        )
        assert away <= across <= to
        # What nobody says lies between the two, and is told as wide as that.
        _, low, high = sky.facing_stops("clear", height, None)
        assert low <= away
        assert high >= to


def test_a_round_body_lit_from_the_side_catches_a_third_of_what_it_catches_from_the_front() -> (
    None
):
    """By the sum over thin strips of a cylinder: each turned by an angle, seen by its cosine, lit by its own."""
    turned = np.linspace(-math.pi / 2, math.pi / 2, 20_001)
    seen = np.cos(turned)
    front = np.sum(seen * np.maximum(np.cos(turned), 0))
    side = np.sum(seen * np.maximum(np.cos(turned - math.pi / 2), 0))
    assert side / front == pytest.approx(sky.FACINGS["across"], rel=1e-3)


def test_where_the_subject_is_turned_is_doubt_until_somebody_says_it() -> None:
    low_sun = {"hour": 19.8, "state": "clear"}
    unsaid = Physics(outdoors(**low_sun))
    to_it = Physics(outdoors(**low_sun, facing="sun"))
    away = Physics(outdoors(**low_sun, facing="away"))
    assert unsaid.room_doubt_stops > 1.5
    assert to_it.room_doubt_stops == pytest.approx(0.5, abs=0.01)
    assert away.room_doubt_stops == pytest.approx(0.5, abs=0.01)
    assert to_it.room_ev100[0] - unsaid.room_ev100[0] > 1.2
    assert away.room_ev100[0] - unsaid.room_ev100[0] < -0.9
    assert "turned away from it" in away.room_ev100[1].formula
    # Under a cloud there is no sun to turn to.
    cloudy = [Physics(outdoors(state="heavy", facing=way)) for way in (None, "sun")]
    assert cloudy[0].room_ev100[0] == cloudy[1].room_ev100[0]


def test_a_window_in_which_it_may_hold_is_wider_while_nobody_says_where_the_subject_is_turned() -> (
    None
):
    def hours(facing: str | None) -> float:
        look = {"look": {"room": "lit", "room_stops": -1.5, "trail_m": None}}
        dusk = dusk_of(outdoors(hour=22.0, facing=facing, **look))
        assert dusk is not None
        return sum(one.end_h - one.begin_h for one in dusk.windows if not one.sure)

    assert hours(None) > hours("away")
    assert hours(None) > hours("sun")


def test_usual_rooms_agree_with_the_sky() -> None:
    """A preset by name is the sky's own light at the height that its name says, within half a stop."""
    for name, state, height in (
        ("Sunset, open sky", "clear", 0.0),
        ("Overcast day", "heavy", 45.0),
        ("Sunny day", "clear", 50.0),
    ):
        usual = sky.sky_ev100(state, height)[0]
        assert room.PRESETS[name] == pytest.approx(usual, abs=0.5)


@pytest.mark.parametrize(
    ("wrong", "said"),
    [
        ({"date": "26.11.2026"}, "is not a day. Accepted: 2026-11-26"),
        ({"date": "2026-02-30"}, "is not a day"),
        ({"latitude_deg": 100.0}, "must be 90 or less"),
    ],
)
def test_a_place_or_day_that_cannot_be_is_refused(
    wrong: dict[str, Any], said: str
) -> None:
    with pytest.raises(DocumentError, match=said):
        outdoors(**wrong)


def test_the_dark_window_is_when_the_look_holds() -> None:
    """Inside a window the evaluation is black, outside of it not; a dark room always holds."""
    scene = outdoors(hour=22.0)
    dusk = dusk_of(scene)
    assert dusk is not None
    sure = [window for window in dusk.windows if window.sure]
    assert len(sure) == 1
    for hour, holds in ((sure[0].begin_h + 0.2, True), (sure[0].begin_h - 1.0, False)):
        found = evaluate(outdoors(hour=hour % 24)).margin("room")
        assert (found.state == "passes") is holds, hour
    assert dusk.holding[0][0] == -math.inf
    assert dusk_of(read_scene(LUNGE)) is None


def test_a_room_that_is_wanted_has_a_window_between_too_bright_and_too_dark() -> None:
    shutter = {"exposure.shutter_s": 1 / 100, "motion.speed_m_s": 0.0}
    look = {"look": {"room": "lit", "room_stops": -1.5, "trail_m": None}}
    dusk = dusk_of(outdoors(hour=22.0, **shutter, **look))
    assert dusk is not None
    ((low, high),) = dusk.holding
    assert high - low == pytest.approx(1, abs=0.05)
    scene = outdoors(hour=22.0, **shutter, **look)
    assert holds_at(scene, (low + high) / 2)
    assert not holds_at(scene, low - 0.1)
    assert not holds_at(scene, high + 0.1)
    hours = [window.begin_h for window in dusk.windows]
    assert any(19 < hour < 24 for hour in hours)
