"""A scene begun from a motion: with the lights of the kit, or the starter's."""

import pytest
from django.test import Client

from rapzel.accounts.models import User
from rapzel.core.evaluate import evaluate
from rapzel.finding.beginning import BEGINNINGS
from rapzel.kit.models import Strobe
from rapzel.shoots.models import Scene


@pytest.mark.parametrize("key", sorted(BEGINNINGS))
def test_every_motion_makes_a_scene_that_answers(
    visitor: Client, owner: User, key: str
) -> None:
    """Without a kit the starter's lights are put in, and said; what is recommended freezes and is bright enough."""
    response = visitor.post(f"/begin/{key}/", follow=True)
    assert response.status_code == 200
    assert "these are the starter" in response.content.decode()
    scene = Scene.objects.get(shoot__owner=owner)
    states = {one.name: one.state for one in evaluate(scene.document).margins}
    assert scene.document["lights"]
    assert "unknown" not in states.values()
    assert BEGINNINGS[key].subject == scene.document["rehearsal"]["subject"]
    assert states["freeze"] in ("passes", "unsure"), states
    assert states["light"] in ("passes", "unsure"), states
    assert {states["room"], states["ghost"], states["sync"]} <= {"passes", "unsure"}
    # What fails is only a finger that is wanted within hundredths of a second, and it is said so.
    timing = evaluate(scene.document).margin("timing")
    if timing.state == "fails":
        assert scene.document["trigger"]["links"][0]["kind"] == "finger"
        assert "miss the moment: " in timing.says
        assert timing.says.endswith(("drill the finger", "use a sensor"))
    assert not Strobe.objects.filter(owner=owner).exists(), (
        "the kit is the person's own"
    )


def test_what_rounding_leaves_of_sums_of_lags_is_not_told(
    visitor: Client, owner: User
) -> None:
    """A finger that is pressed ahead by all that follows it: the light is on time, and late by 10⁻¹⁷ s."""
    visitor.post("/begin/kick/", follow=True)
    scene = Scene.objects.get(shoot__owner=owner)
    body = visitor.get(f"/scenes/{scene.pk}/timing/").content.decode()
    assert "0 ± 40 ms after the event" in body
    for dust in ("0 µs", "0 µm", "0 widths", "too late at best"):
        assert dust not in body.replace("400 µs", ""), dust


def test_a_scene_begins_in_a_shoot_with_the_lights_of_the_kit(
    visitor: Client, kit: User, scene: Scene
) -> None:
    response = visitor.post("/begin/kick/", {"shoot": scene.shoot_id}, follow=True)
    assert "starter" not in response.content.decode()
    assert scene.shoot.scenes.count() == 2
    assert visitor.post("/begin/kick/", {"shoot": 10**6}).status_code == 404
    assert visitor.post("/begin/magic/").status_code == 404


def test_the_motions_are_pictures(visitor: Client) -> None:
    body = visitor.get("/begin/").content.decode()
    assert body.count('class="motion"') == 12
    assert visitor.get("/begin/leap.png")["Content-Type"] == "image/png"
    assert visitor.get("/begin/magic.png").status_code == 404
