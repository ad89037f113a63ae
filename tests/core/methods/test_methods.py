"""Every way to stop motion through one contract."""

import math

import numpy as np
import pytest

from rapzel.core.document.exposed import Exposure
from rapzel.core.document.gear import Camera, Strobe
from rapzel.core.document.places import changed
from rapzel.core.evaluate import evaluate
from rapzel.core.methods import METHODS, method_of, of_word
from rapzel.core.physics import Physics
from rapzel.core.possible import read_possible_scene
from rapzel.core.rehearsal.render import linear_picture

BODIES = {"global": "global", "leaf": "leaf"}


def by(document, key: str):
    """The scene by a method, on a body that can."""
    body = {
        "camera.shutter": BODIES.get(key, "focal_plane"),
        "camera.fastest_shutter_s": 1e-5,
    }
    return METHODS[key].recipe(changed(document, {**body, "ambient.ev100": 12.0}))


@pytest.mark.parametrize("key", METHODS)
def test_every_method_keeps_the_contract(document, key: str) -> None:
    """Its recipe gives a possible scene by that method without conflict, whose picture is exposed as it is judged."""
    method = METHODS[key]
    physics = Physics(read_possible_scene(by(document, key)))
    assert physics.method is method is method_of(physics.scene)
    assert method.conflict(physics.scene) == ""
    assert method.on_camera(physics.scene.camera) == ""
    found = evaluate(physics.scene)
    assert all(margin.says for margin in found.margins)
    stopped = physics.stopping_s
    assert stopped is not None
    if method.stopped_by == "shutter":
        assert stopped == physics.scene.exposure.shutter_s
        assert method.pulsed is False
    else:
        assert stopped <= physics.lights[0].known.t01_s * 1.001
    still = {
        "motion.speed_m_s": 0.0,
        "rehearsal": {"subject": "wheel", "background": "grey", "size_m": 0.001},
    }
    picture = linear_picture(
        Physics(read_possible_scene(changed(by(document, key), still))), (90, 60)
    )
    rows = slice(0, 30)
    # no two rows are alike: the one that is judged, counted from the lower edge
    if method.leads:
        judged = round((1 - physics.curves.best_place) * 60 - 0.5)
        rows = slice(judged, judged + 1)
    level = math.log2(float(np.median(picture[rows])) / 0.18)
    assert level == pytest.approx(found.exposure_offset_stops, abs=0.03)
    assert method.title
    assert method.on_the_body


@pytest.mark.parametrize("key", METHODS)
def test_what_a_method_offers_against_its_conflict_ends_it(document, key: str) -> None:
    made = by(document, key)
    other = "camera" if made["trigger"]["fires"] == "flash" else "flash"
    crossed = changed(made, {"trigger.fires": other})
    scene = read_possible_scene(crossed)
    method = method_of(scene)
    if not method.conflict(scene):
        return  # without a flash nothing depends on what the trigger fires
    assert method.remedy
    for says, values in method.remedy:
        mended = read_possible_scene(changed(crossed, dict(values)))
        assert method_of(mended).conflict(mended) == "", says


def test_every_word_of_the_document_has_its_plain_method() -> None:
    words = Exposure.model_json_schema()["properties"]["method"]["enum"]
    for word in words:
        assert of_word(word).word == of_word(word).key == word


def test_what_gear_cannot_do_is_said(document) -> None:
    focal = Camera.model_validate(document["camera"])
    assert METHODS["global"].on_camera(focal) == "needs a global shutter"
    assert METHODS["leaf"].on_camera(focal) == "needs a leaf shutter"
    leaf = focal.model_copy(update={"shutter": "leaf"})
    assert "belongs to a focal-plane" in METHODS["hss"].on_camera(leaf)
    plain = Strobe.model_validate({**document["lights"][0]["strobe"], "hss": False})
    assert METHODS["hss"].on_strobe(plain) == "has no high-speed sync"
