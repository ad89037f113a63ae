"""What no comparison may say, whatever it is asked: some two hundred situations from dark to noon, slow to fast."""

import itertools
import re

import pytest

from rapzel.core.document.places import changed
from rapzel.core.evaluate import evaluate
from rapzel.core.search.compare import compare
from rapzel.core.search.hits import Hit
from rapzel.core.search.limits import read_limits
from rapzel.core.shared.units import SHUTTERS_S, next_mark
from tests.core.search.test_find import MONOBLOC, SMALL, kit, scene_of

ROOMS = [None, -3.0, 2.0, 8.0, 12.0, 15.0]
SPEEDS = [0.5, 3.0, 9.0, 30.0]
SPARE = ([100, 100], [100, 400], [100, 6400])
LOOKS = [
    {"room": "black"},
    {"room": "lit", "room_stops": -1.0},
    {"room": "trail", "trail_m": 0.2},
]


@pytest.mark.parametrize("look", LOOKS, ids=lambda look: look["room"])
@pytest.mark.parametrize("room", ROOMS)
def test_nothing_absurd_is_said(room: float | None, look: dict) -> None:
    ambient = {} if room is None else {"ev100": room}
    for speed, spare in itertools.product(SPEEDS, SPARE):
        scene = scene_of(
            **{"ambient": ambient, "motion.speed_m_s": speed, "look": look}
        )
        limits = read_limits({"iso": spare, "lights": 2})
        found = compare(scene, kit(SMALL, MONOBLOC), limits)
        said = " ".join([found.because, *found.turning(), *(one.binds for one in found.columns)])  # fmt: skip
        # A shortage beyond what any sensor tells from nothing is no figure.
        stops = [float(one) for one in re.findall(r"([\d.]+) stops? ", said)]
        assert all(one < 60 for one in stops), said
        if "Nearest is" in found.because and room is None:
            assert "ND" not in found.because.split(":")[0], "a filter in the dark"
        for column in found.columns:
            if not column.method.flashes:
                assert column.reach_m is None, "nothing reaches without a flash"
            if column.reach_m is not None:
                assert column.reach_m < 300, "the room would expose it anyway"
            if column.hit is None:
                continue
            for margin in column.hit.evaluation.margins:
                if margin.name != "timing":
                    assert margin.state in ("passes", "unsure"), (column.method.key, margin)  # fmt: skip
            if column.method.key in ("pulse", "nd") and look["room"] == "black":
                assert not beaten_by_a_faster_shutter(column.hit), column.hit.needs


def beaten_by_a_faster_shutter(hit: Hit) -> bool:
    """Whether the next faster mark leaves every margin holding, and the room's trail further from showing."""
    faster = next_mark(hit.shutter_s, -1, SHUTTERS_S)
    quick = evaluate(changed(hit.document, {"exposure.shutter_s": faster}))
    states = {one.state for one in quick.margins if one.name != "timing"}
    now = hit.evaluation
    return states <= {"passes", "unsure"} and all(
        quick.margin(name).rank >= now.margin(name).rank
        for name in ("freeze", "light", "room", "ghost", "sync")
    )


def test_lights_that_spill_on_the_backdrop_from_everywhere_are_no_hit() -> None:
    """A white wall half a metre behind: no distance of the lights leaves it five stops under."""
    wall = {"behind_m": 0.5, "reflectance": 0.8, "flagged_stops": 0.0}
    limits = read_limits({"iso": [100, 6400], "lights": 2})
    found = compare(scene_of(backdrop=wall), kit(SMALL, MONOBLOC), limits)
    assert found.recommended is None
    assert "backdrop" in found.column("pulse").reason
    cloth = {"behind_m": 4.0, "reflectance": 0.03, "flagged_stops": 2.0}
    dark = compare(scene_of(backdrop=cloth), kit(SMALL, MONOBLOC), limits)
    assert dark.column("pulse").hit.evaluation.margin("room").state == "passes"
