"""Scenes of older versions, and scenes that a newer rule refuses: they open, and are mended in place."""

import copy

import pytest
from django.urls import reverse

from rapzel.core.document.places import changed
from rapzel.core.document.upgrade import upgrade
from rapzel.core.evaluate import evaluate
from rapzel.shoots.models import Scene
from tests.plans import LUNGE


def version_1(document):
    """The scene as the first version wrote it, defaults included."""
    old = copy.deepcopy(document)
    for key in ("moment", "look", "subject", "pinned"):
        old.pop(key, None)
    old["version"] = 1
    old["trigger"]["wanted_delay_s"] = 0.3
    old["trigger"]["links"] = [
        {
            "name": "Finger",
            "kind": "fixed",
            "lag_s": 0.21,
            "jitter_s": 0.03,
            "distance_m": 0.0,
            "temperature_c": 20.0,
        },
        {
            "name": "Beam",
            "kind": "beam",
            "lag_s": 0.0001,
            "distance_m": 0.4,
            "temperature_c": 20.0,
        },
    ]
    return old


def test_an_older_document_says_the_same_in_the_new_words() -> None:
    raised = upgrade(version_1(LUNGE))
    assert raised["version"] == 2
    assert raised["moment"] == {"at_s": 0.3}
    assert [link["kind"] for link in raised["trigger"]["links"]] == ["device", "beam"]
    assert raised["trigger"]["links"][1] == {
        "name": "Beam",
        "kind": "beam",
        "lag_s": 0.0001,
        "jitter_s": 0.0,
        "distance_m": 0.4,
    }
    found = evaluate(version_1(LUNGE))
    assert found.timing.flash_after_event_s == pytest.approx(
        0.21 + 0.0001 + 0.055 + 0.0004
    )
    assert found.timing.wanted_s == 0.3
    assert upgrade(raised) == raised, "raised once"


def test_zeros_that_stood_for_not_known_are_not_known() -> None:
    old = version_1(LUNGE)
    old["camera"].update(curtain_travel_s=0.0, lag_s=0.0, lag_jitter_s=0.0)
    found = evaluate(old)
    assert found.timing.flash_after_event_s is None
    assert found.shutter.open_window_s is None
    assert found.margin("timing").state == "unknown"


def test_nothing_of_an_older_document_is_changed_by_reading_it() -> None:
    old = version_1(LUNGE)
    before = copy.deepcopy(old)
    evaluate(old)
    assert old == before


@pytest.mark.parametrize(
    "document",
    [
        {},
        {"version": 1},
        {"version": 1, "trigger": 7, "camera": [], "moment": 3},
        {"version": 1, "trigger": {"links": [3, None]}},
    ],
)
def test_raising_what_is_broken_leaves_the_refusal_to_the_reader(document) -> None:
    assert upgrade(document)["version"] == 2


def store(scene, document) -> None:
    Scene.objects.filter(pk=scene.pk).update(document=document)


def test_a_stored_scene_of_version_1_opens_everywhere(visitor, scene) -> None:
    store(scene, version_1(LUNGE))
    for name in (
        "workbench:scene",
        "workbench:sheet",
        "workbench:compare",
        "takes:list",
        "tools:scene_index",
    ):
        assert visitor.get(reverse(name, args=[scene.pk])).status_code == 200, name
    assert (
        "Finger"
        in visitor.get(reverse("workbench:scene", args=[scene.pk])).content.decode()
    )
    answer = visitor.post(
        reverse("workbench:set", args=[scene.pk]),
        {"path": "exposure.iso", "value": "400"},
        headers={"HX-Request": "true"},
    )
    assert answer.status_code == 200
    scene.refresh_from_db()
    assert scene.document["version"] == 2
    assert scene.document["exposure"]["iso"] == 400


BODY = '{"sensor_width_mm": 36.0, "sensor_height_mm": 24.0, "pixels_wide": 6000, "pixels_high": 4000}'
BROKEN = {
    "one figure": ({"exposure.f_number": 1e-300}, {"exposure.f_number": "f/8"}),
    "a word that is gone": (
        {"exposure.method": "stroboscope"},
        {"exposure.method": "pulse"},
    ),
    "an unknown key": (
        {"motion.colour": "red"},
        {"motion": '{"kind": "steady", "speed_m_s": 9.0}'},
    ),
    "a part that is gone": ({"camera": None}, {"camera": BODY}),
    "lights that are none": ({"lights": [3]}, {"lights[0]": ""}),
    "impossible together": (
        {"lens.subject_distance_m": 0.01},
        {"lens.subject_distance_m": "4 m"},
    ),
}


@pytest.mark.parametrize(("breaks", "mends"), BROKEN.values(), ids=BROKEN)
def test_a_broken_scene_names_what_is_wrong_and_is_mended_in_place(
    visitor, scene, breaks, mends
) -> None:
    broken = changed(scene.document, breaks)
    store(scene, broken)
    opened = visitor.get(reverse("workbench:scene", args=[scene.pk]))
    assert opened.status_code == 422
    for path in mends:
        assert f'name="value:{path}"' in opened.content.decode()
    listed = visitor.get(reverse("workbench:shoot", args=[scene.shoot_id]))
    assert listed.status_code == 200
    assert "Mend it" in listed.content.decode()
    for name in (
        "workbench:sheet",
        "workbench:compare",
        "takes:list",
        "workbench:rehearsal",
    ):
        args = [scene.pk, "jpg"] if name == "workbench:rehearsal" else [scene.pk]
        assert visitor.get(reverse(name, args=args)).status_code < 500, name
    data = {
        "path": list(mends),
        **{f"value:{path}": text for path, text in mends.items()},
    }
    mended = visitor.post(reverse("workbench:mend", args=[scene.pk]), data, follow=True)
    assert "The scene answers again" in mended.content.decode()
    assert mended.status_code == 200


def test_what_is_still_wrong_stores_nothing_and_keeps_what_was_typed(
    visitor, scene
) -> None:
    broken = changed(
        scene.document, {"exposure.f_number": 1e-300, "lens.subject_distance_m": 0.01}
    )
    store(scene, broken)
    data = {"path": ["exposure.f_number"], "value:exposure.f_number": "eight"}
    again = visitor.post(reverse("workbench:mend", args=[scene.pk]), data)
    assert again.status_code == 422
    assert "It is still refused as typed" in again.content.decode()
    assert 'value="eight"' in again.content.decode()
    scene.refresh_from_db()
    assert scene.document == broken


def test_nobody_mends_the_scene_of_another(client, stranger, scene) -> None:
    store(scene, changed(scene.document, {"exposure.f_number": 1e-300}))
    client.force_login(stranger)
    data = {"path": ["exposure.f_number"], "value:exposure.f_number": "8"}
    assert (
        client.post(reverse("workbench:mend", args=[scene.pk]), data).status_code == 404
    )
