"""Bursts frame by frame, heat, charges, lights in turn, and the drive modes of a body."""

import math
from itertools import pairwise
from typing import Any

import pytest

from rapzel.core.document.gear import Light
from rapzel.core.document.places import changed
from rapzel.core.document.scene import Scene, read_scene
from rapzel.core.evaluate import evaluate
from rapzel.core.methods import method_of
from rapzel.core.physics.pace import (
    drives_of,
    frames_of,
    pops_of_a_charge,
    recycle_s,
    thermal_s,
)
from rapzel.core.search.find import Kit, Search
from rapzel.core.search.limits import Limits
from tests.plans import LUNGE, MONOBLOC

STROBE = {
    **MONOBLOC, "full_recycle_s": 2.0, "recycle_floor_s": 0.0, "battery_pops": 240.0, "thermal_pops_per_min": 12.0,
}  # fmt: skip
KEY: dict[str, Any] = {
    **LUNGE["lights"][0],
    "id": "key",
    "strobe": STROBE,
    "mode": None,
}
DRIVES = [
    {"name": "Electronic", "frames_per_s": 30, "shutters": ["rolling"], "flash": False},
    {"name": "High", "frames_per_s": 12, "shutters": ["focal_plane"], "hss": False, "slowest_s": 1 / 100},
    {"name": "Low", "frames_per_s": 4},
]  # fmt: skip


def scene_of(light: dict[str, Any] | None = None, **values: Any) -> Scene:
    return read_scene(changed(LUNGE, {"lights": [{**KEY, **(light or {})}], **values}))


def test_a_burst_empties_the_reservoir_and_goes_on_at_what_flows_in() -> None:
    """Quarter power, two seconds for a full charge, ten a second: four frames, then 0.05 of 0.25 each."""
    light = Light.model_validate({**KEY, "power": 0.25})
    frames = frames_of(light, 10.0, 30)
    assert frames is not None
    assert frames[:4] == pytest.approx([0.0] * 4)
    assert frames[-1] == pytest.approx(math.log2(0.05 / 0.25), abs=1e-6)
    assert all(before >= after - 1e-9 for before, after in pairwise(frames))


@pytest.mark.parametrize("count", [2, 4])
def test_lights_in_turn_keep_up_so_many_times_as_fast_and_light_as_one(
    count: int,
) -> None:
    one = evaluate(scene_of({"power": 0.25}))
    turns = evaluate(scene_of({"power": 0.25, "count": count, "in_turn": True}))
    assert turns.flash_offset_stops == pytest.approx(one.flash_offset_stops)
    assert one.pace.sustained_fps is not None
    assert turns.pace.sustained_fps == pytest.approx(one.pace.sustained_fps * count)
    light = Light.model_validate(
        {**KEY, "power": 0.25, "count": count, "in_turn": True}
    )
    single = Light.model_validate({**KEY, "power": 0.25})
    own, alone = frames_of(light, 10.0 * count, 8 * count), frames_of(single, 10.0, 8)
    assert own is not None
    assert alone is not None
    assert own[::count] == pytest.approx(alone)
    assert pops_of_a_charge(light) == count * (pops_of_a_charge(single) or 0)


def test_heat_and_charge_go_with_the_energy_of_a_pop() -> None:
    full, low = (
        Light.model_validate({**KEY, "power": power}) for power in (1.0, 1 / 8)
    )
    assert thermal_s(full) == pytest.approx(5.0)
    assert thermal_s(low) == pytest.approx(5.0 / 8)
    assert (pops_of_a_charge(full), pops_of_a_charge(low)) == (240, 1920)
    assert recycle_s(full) == pytest.approx(2.0)
    found = evaluate(scene_of({"power": 1 / 8}))
    assert found.pace.bears_fps == pytest.approx(1.6)


@pytest.mark.parametrize(
    ("values", "best", "why"),
    [
        ({}, "High", "Electronic with 30/s: needs rolling"),
        (
            {"camera.shutter": "rolling", "camera.curtain_travel_s": 0.02},
            "Low",
            "no flash",
        ),
        ({"exposure.shutter_s": 1 / 30}, "Low", "needs rolling"),
    ],
)
def test_the_line_that_blocks_the_top_rate_is_named(
    values: dict[str, Any], best: str, why: str
) -> None:
    scene = scene_of(
        **{"camera.drives": DRIVES, "exposure.shutter_s": 1 / 200, **values}
    )
    drives = drives_of(scene, method_of(scene))
    assert drives.best is not None
    assert drives.best.name == best
    assert why in drives.says


def test_a_rate_beyond_the_drive_fails_with_its_reason() -> None:
    fast = {"full_recycle_s": 0.01}
    light = {"power": 1 / 8, "strobe": {**STROBE, **fast}}
    values = {
        "camera.drives": DRIVES,
        "exposure.frames_per_s": 20.0,
        "exposure.shutter_s": 1 / 200,
    }
    found = evaluate(scene_of(light, **values))
    pace = found.margin("pace")
    assert pace.state == "fails"
    assert pace.says == "20 asked; Electronic with 30/s: needs rolling"
    assert found.pace.sustained_fps == pytest.approx(12.0)
    assert evaluate(
        scene_of(light, **{**values, "exposure.frames_per_s": 12.0})
    ).margin("pace")


def test_a_search_keeps_to_the_drive_modes() -> None:
    scene = scene_of(**{"camera.drives": DRIVES})
    kit = Kit((scene.lights[0].strobe.model_copy(update={"full_recycle_s": 0.01}),))
    wide = {
        "iso": (100.0, 25600.0),
        "f_number": (1.4, 11.0),
        "methods": ("pulse",),
        "lights": 1,
    }
    assert Search(scene, kit, Limits(**wide, frames_per_s=10)).any_hit()
    assert not Search(scene, kit, Limits(**wide, frames_per_s=20)).any_hit()
    for hit in Search(scene, kit, Limits(**wide, frames_per_s=10)).run().hits[:5]:
        assert hit.evaluation.margin("pace").state == "passes"


def test_a_burst_that_only_a_fresh_battery_holds_is_not_sure(document) -> None:
    """By the reservoir, frame by frame: with recycles a fifth longer the tenth frame is the first that is short.

    What a recycle a fifth shorter holds does not fail either.
    """
    strobe = {
        **document["lights"][0]["strobe"],
        "full_recycle_s": 1.0,
        "recycle_floor_s": 0.0,
    }

    def first_short(recycle_s: float) -> int:
        stored, frame = 1.0, 0
        while frame < 500:
            given = min(1 / 8, stored)
            if math.log2(given * 8) < -0.1:
                return frame
            stored = min(stored - given + 1 / 11 / recycle_s, 1.0)
            frame += 1
        raise AssertionError("it holds for ever")

    best, usual, worst = first_short(0.8), first_short(1.0), first_short(1.2)
    assert worst < usual < best
    for burst, state in (
        (worst, "passes"),
        (worst + 1, "unsure"),
        (usual + 1, "unsure"),
        (best, "unsure"),
        (best + 1, "fails"),
    ):
        values = {
            "lights[0].strobe": strobe,
            "lights[0].power": 1 / 8,
            "exposure.frames_per_s": 11.0,
            "exposure.burst": burst,
        }
        assert evaluate(changed(document, values)).margin("pace").state == state
