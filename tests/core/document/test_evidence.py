"""What a try is evidence of, checked by brute force: whatever is not listed may change without moving the light."""

from collections.abc import Iterator
from typing import Any

import pytest

from rapzel.core.document import places
from rapzel.core.document.evidence import OF_NO_TRY, PARTS, is_evidence
from rapzel.core.physics import Physics
from rapzel.core.possible import read_possible_scene
from rapzel.core.shared.errors import DocumentError
from tests import plans
from tests.apps.dial_plans import GLASS

BEAM = {
    "id": "link-1",
    "kind": "beam",
    "name": "Beam",
    "lag_s": 0.0003,
    "jitter_s": 0.0001,
    "distance_m": 0.5,
}
CROSSED = places.changed(
    plans.LUNGE,
    {
        "trigger.links": [BEAM],
        "moment.lasts_s": 0.02,
        "trigger.latency_s": 0.0004,
        "subject.aside_sd_m": 0.05,
    },
)
PLANS = {"lunge": plans.LUNGE, "glass": GLASS, "crossed": CROSSED}


def leaves(node: Any, path: str = "") -> Iterator[tuple[str, Any]]:
    """Every figure, text and switch of a document with its path."""
    if isinstance(node, dict):
        for key, value in node.items():
            yield from leaves(value, f"{path}.{key}" if path else key)
    elif isinstance(node, list):
        for place, value in enumerate(node):
            yield from leaves(value, f"{path}[{place}]")
    else:
        yield path, node


def others(value: Any) -> list[Any]:
    """Other values that could stand in its place."""
    if isinstance(value, bool):
        return [not value]
    if isinstance(value, int | float):
        return [value * 1.15, value * 0.85, value + 1]
    if isinstance(value, str):
        return [f"{value} two"]
    return [0.5, 1e-3]


def possible_changes(
    document: dict[str, Any], left_alone: tuple[str, ...]
) -> Iterator[dict[str, Any]]:
    """The document with one leaf changed, for every leaf that lies in none of those parts.

    How well a lag is known changes what is said of it, and not what a try found.
    """
    left_alone = (*left_alone, "camera.lag_provenance", "camera.lags_s")
    for path, value in leaves(document):
        if any(
            path == part or path.startswith((f"{part}.", f"{part}["))
            for part in left_alone
        ):
            continue
        for other in others(value):
            after = places.changed(document, {path: other})
            try:
                read_possible_scene(after)
            except DocumentError:
                continue
            yield after


def physics_of(document: dict[str, Any]) -> Physics:
    return Physics(read_possible_scene(document))


@pytest.mark.parametrize("name", PLANS)
def test_what_no_try_depends_on_moves_no_light(name: str) -> None:
    complete = read_possible_scene(PLANS[name]).to_document()
    now = physics_of(complete).timing
    seen = 0
    for after in possible_changes(complete, PARTS["lateness"]):
        timing = physics_of(after).timing
        # None: no light is left that could come
        if timing.flash_after_event_s is not None:
            assert timing.flash_after_event_s == now.flash_after_event_s
        assert timing.needed_delay_s == now.needed_delay_s
        assert is_evidence("lateness", complete, after)
        seen += 1
    assert seen > 20, "the hunt found something to change"


@pytest.mark.parametrize("name", PLANS)
def test_what_no_landing_depends_on_leaves_the_share_alone(name: str) -> None:
    complete = read_possible_scene(PLANS[name]).to_document()
    now = physics_of(complete).timing.share
    seen = 0
    for after in possible_changes(complete, PARTS["landing"]):
        assert physics_of(after).timing.share == now
        seen += 1
    assert seen > 10


def test_a_part_that_is_listed_counts() -> None:
    complete = read_possible_scene(plans.LUNGE).to_document()
    body = places.changed(complete, {"camera.lag_s": 0.025})
    frame = places.changed(complete, {"lens.focal_length_mm": 300.0})
    assert not is_evidence("lateness", body, complete)
    assert is_evidence("lateness", frame, complete)
    assert not is_evidence("landing", frame, complete)


def test_a_longer_exposure_moves_the_light_of_the_second_curtain_alone() -> None:
    first = read_possible_scene(plans.LUNGE).to_document()
    second = places.changed(first, {"exposure.flash_at": "second"})
    longer = {"exposure.shutter_s": 0.02}
    for plan, moved in ((first, False), (second, True)):
        after = places.changed(plan, longer)
        before_s = physics_of(plan).timing.flash_after_event_s
        after_s = physics_of(after).timing.flash_after_event_s
        assert (after_s != before_s) == moved
        assert is_evidence("lateness", plan, after) != moved


def test_every_part_is_a_place_of_a_scene() -> None:
    complete = read_possible_scene(plans.LUNGE).to_document()
    nothing = object()
    for path in {*PARTS["landing"], *OF_NO_TRY} - {
        "drops.observations",
        "drops.frame_above_m",
    }:
        assert places.get(complete, path, nothing) is not nothing, path
