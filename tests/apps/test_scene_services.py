from concurrent.futures import ThreadPoolExecutor

import pytest
from django.db import connection

from rapzel.core.document.scene import read_scene
from rapzel.core.physics import Physics
from rapzel.core.shared.errors import DocumentError
from rapzel.kit.models import Camera, Strobe
from rapzel.shoots import documents, history, light_services, services
from rapzel.shoots.models import Scene, SceneRevision


def test_a_change_is_stored_with_what_was_before(scene) -> None:
    services.change_scene(scene, {"exposure.iso": 400.0, "name": "Renamed"})
    stored = Scene.objects.get(pk=scene.pk)
    assert stored.document["exposure"]["iso"] == 400
    assert (stored.name, stored.revision) == ("Renamed", 2)
    assert stored.revisions.get().document["exposure"]["iso"] == 200


@pytest.mark.parametrize(
    "values",
    [{"exposure.iso": -1.0}, {"lights[0].power": 1 / 512}, {"lights[7].power": 0.5}],
)
def test_a_refused_change_stores_nothing(scene, values) -> None:
    before = Scene.objects.get(pk=scene.pk).document
    with pytest.raises(DocumentError):
        services.change_scene(scene, {"exposure.f_number": 11.0, **values})
    stored = Scene.objects.get(pk=scene.pk)
    assert stored.document == before
    assert stored.revision == 1
    assert not SceneRevision.objects.exists()


def test_a_change_that_changes_nothing_leaves_no_trace(scene) -> None:
    services.change_scene(scene, {"exposure.iso": 200.0})
    assert not SceneRevision.objects.exists()


def test_undo_goes_back_step_by_step(scene) -> None:
    def iso() -> float:
        return Scene.objects.get(pk=scene.pk).document["exposure"]["iso"]

    for value in (400.0, 800.0):
        services.change_scene(scene, {"exposure.iso": value}, f"ISO {value:g}")
    assert (history.undo(scene), iso()) == ("ISO 800", 400)
    assert (history.undo(scene), iso()) == ("ISO 400", 200)
    assert (history.undo(scene), iso()) == (None, 200)
    assert (history.redo(scene), iso()) == ("ISO 400", 400)
    assert (history.redo(scene), iso()) == ("ISO 800", 800)
    assert (history.redo(scene), iso()) == (None, 800)
    assert history.undo(scene) == "ISO 800", "what was done again can be undone again"
    services.change_scene(scene, {"exposure.iso": 1600.0})
    assert history.redo(scene) is None, (
        "another change ends what could have been done again"
    )
    assert Scene.objects.get(pk=scene.pk).revision == 9, "it only ever grows"


def test_history_is_kept_to_a_limit(scene, monkeypatch) -> None:
    monkeypatch.setattr(history, "KEPT_REVISIONS", 3)
    for iso in range(100, 1100, 100):
        services.change_scene(scene, {"exposure.iso": float(iso)})
    assert scene.revisions.count() == 3


def test_two_changes_from_two_tabs_both_stand(scene) -> None:
    one, other = Scene.objects.get(pk=scene.pk), Scene.objects.get(pk=scene.pk)
    services.change_scene(one, {"exposure.iso": 400.0})
    services.change_scene(other, {"exposure.f_number": 11.0})
    stored = Scene.objects.get(pk=scene.pk).document["exposure"]
    assert (stored["iso"], stored["f_number"]) == (400, 11)


def test_a_value_that_another_tab_changed_meanwhile_is_set_back(scene) -> None:
    """What was read says that nothing changes; what is stored says otherwise, and the later press counts."""
    same = Scene.objects.get(pk=scene.pk)
    services.change_scene(scene, {"exposure.iso": 400.0})
    assert services.change_scene(same, {"exposure.iso": 200.0}) == 2, (
        "the revision that it changed"
    )
    assert Scene.objects.get(pk=scene.pk).document["exposure"]["iso"] == 200
    assert [each.document["exposure"]["iso"] for each in scene.revisions.all()] == [
        400,
        200,
    ]


@pytest.mark.django_db(transaction=True)
def test_twenty_changes_at_once_all_stand(shoot, document) -> None:
    scene = Scene.objects.create(
        shoot=shoot, name="Busy", document=documents.stored_form(document)
    )
    own = [Scene.objects.get(pk=scene.pk) for _ in range(20)]

    def add(place: int) -> int:
        try:
            return services.add_link(
                own[place], {"kind": "device", "name": f"unit {place}"}
            )
        finally:
            connection.close()

    with ThreadPoolExecutor(8) as pool:
        found = list(pool.map(add, range(20)))
    scene.refresh_from_db()
    names = {link["name"] for link in scene.document["trigger"]["links"]}
    assert names >= {f"unit {place}" for place in range(20)}
    assert sorted(found) == list(range(1, 21))
    assert scene.revision == 21


@pytest.mark.parametrize("kind", services.NEW_MOTION)
def test_every_kind_of_motion_begins_possible(scene, kind: str) -> None:
    services.change_scene(scene, {"motion.kind": kind})
    assert scene.document["motion"]["kind"] == kind
    assert scene.document["motion"]["angle_deg"] == 90


@pytest.mark.parametrize("kind", services.NEW_CRITERION)
def test_every_criterion_begins_possible(scene, kind: str) -> None:
    services.change_scene(scene, {"criterion.kind": kind})
    assert scene.document["criterion"]["kind"] == kind


def test_an_unknown_kind_is_refused_with_the_known_ones(scene) -> None:
    with pytest.raises(DocumentError, match="must be one of steady, fall, leap"):
        services.change_scene(scene, {"motion.kind": "flying"})


def test_a_lower_leap_keeps_its_moment_in_the_air(scene) -> None:
    services.change_scene(scene, {"motion.kind": "leap"})
    services.change_scene(scene, {"motion.from_apex_s": 0.3})
    services.change_scene(scene, {"motion.rise_m": 0.1})
    assert scene.document["motion"]["from_apex_s"] == pytest.approx(
        (2 * 0.1 / 9.80665) ** 0.5
    )


def test_lights_come_from_the_kit_and_go_again(scene, kit) -> None:
    monobloc = Strobe.objects.get(name="Monobloc 600 quenched")
    light_services.add_light(scene, monobloc.to_core())
    light = scene.document["lights"][1]
    assert (light["name"], light["mode"]) == ("Rim", "speed"), "its shorter mode"
    light_services.use_strobe(
        scene,
        light["id"],
        Strobe.objects.get(name="Old voltage monobloc 500").to_core(),
    )
    light = scene.document["lights"][1]
    assert (light["strobe"]["circuit"], light["mode"]) == ("voltage", None)
    light_services.remove_light(scene, "light-1")
    assert [light["name"] for light in scene.document["lights"]] == ["Rim"]
    history.undo(scene)
    assert len(scene.document["lights"]) == 2
    with pytest.raises(DocumentError, match="that light is no longer in this scene"):
        light_services.remove_light(scene, "light-5")
    light_services.copy_light(scene, "light-1")
    assert [light["name"] for light in scene.document["lights"]] == [
        "Key",
        "Key again",
        "Rim",
    ]
    assert len({light["id"] for light in scene.document["lights"]}) == 3


def test_a_strobe_starts_at_the_lowest_power_it_is_known_at(scene, kit) -> None:
    """Known from full to a quarter and with no lowest power of its own, it cannot be set to an eighth."""
    strobe = Strobe.objects.create(
        owner=kit, name="Old pack", guide_number_m=50, circuit="banks"
    )
    strobe.settings.create(power=1.0, t01_s=0.003)
    strobe.settings.create(power=0.25, t01_s=0.002)
    light_services.add_light(scene, strobe.to_core())
    assert scene.document["lights"][1]["power"] == 0.25
    light_services.use_strobe(scene, "light-1", strobe.to_core())
    assert scene.document["lights"][0]["power"] == 0.25


def test_a_strobe_without_a_table_is_refused_in_words(scene, kit) -> None:
    strobe = Strobe.objects.create(owner=kit, name="Not measured yet")
    with pytest.raises(DocumentError, match="guide_number_m: must be a number"):
        light_services.add_light(scene, strobe.to_core())


def test_another_camera_keeps_the_scene_possible(scene, kit) -> None:
    services.change_scene(
        scene, {"exposure.method": "hss", "exposure.shutter_s": 1 / 8000}
    )
    services.use_camera(scene, Camera.objects.get(name="Global-shutter body").to_core())
    assert scene.document["exposure"]["method"] == "pulse"
    services.use_camera(
        scene,
        {
            **Camera.objects.get(name="Full-frame body").to_core(),
            "fastest_shutter_s": 1 / 2000,
        },
    )
    assert scene.document["exposure"]["shutter_s"] == 1 / 2000


def test_links_of_the_chain(scene) -> None:
    services.add_link(scene, {"name": "Beam", "kind": "beam", "lag_s": 0.0001})
    link = scene.document["trigger"]["links"][0]["id"]
    services.change_scene(scene, {f"trigger.links[#{link}].distance_m": 0.4})
    assert scene.document["trigger"]["links"][0]["distance_m"] == 0.4
    services.remove_link(scene, link)
    assert scene.document["trigger"]["links"] == []


def test_several_scenes_are_added_all_or_none(shoot, document) -> None:
    broken = {**document, "lens": {"focal_length_mm": 50.0, "subject_distance_m": 0.01}}
    with pytest.raises(DocumentError, match=r"scenes\[1\].lens.subject_distance_m"):
        services.add_scenes(shoot, [document, broken])
    assert not shoot.scenes.exists()
    assert len(services.add_scenes(shoot, [document, document])) == 2


def test_a_ratio_moves_power_or_distance(scene) -> None:
    light_services.copy_light(scene, "light-1")
    second = scene.document["lights"][1]
    at, before = f"lights[#{second['id']}]", second["power"]
    services.change_scene(scene, {f"{at}.against_key_by_power": -1.0})
    assert scene.document["lights"][1]["power"] == pytest.approx(before / 2, rel=1e-3)
    services.change_scene(scene, {f"{at}.against_key_by_distance": -3.0})
    assert scene.document["lights"][1]["distance_m"] == pytest.approx(
        2 * second["distance_m"], rel=1e-2
    )
    light_services.equalise_powers(scene)
    lights = scene.document["lights"]
    assert lights[1]["power"] == lights[0]["power"]
    assert lights[1]["distance_m"] == pytest.approx(
        lights[0]["distance_m"] * 2**1.5, rel=1e-2
    )


def test_a_continuous_light_comes_and_goes(scene) -> None:
    for kind in ("lamp", "video", "stick"):
        light_services.add_lamp(scene, kind)
    assert [lamp["kind"] for lamp in scene.document["lamps"]] == [
        "lamp",
        "video",
        "stick",
    ]
    light_services.remove_lamp(scene, scene.document["lamps"][1]["id"])
    assert [lamp["kind"] for lamp in scene.document["lamps"]] == ["lamp", "stick"]
    with pytest.raises(DocumentError, match="lamp, video, stick"):
        light_services.add_lamp(scene, "torch")


@pytest.mark.parametrize("way", ["lux", "meter", "sky", "ev100", "dark"])
def test_the_room_is_known_another_way_and_stays_as_bright(scene, way) -> None:
    services.change_scene(scene, {"ambient.ev100": 9.0})
    services.change_scene(scene, {"ambient.known_by": way})
    known = {
        key
        for key in ("ev100", "lux", "meter", "sky")
        if scene.document["ambient"][key]
    }
    assert known == ({way} if way != "dark" else set())
    ev100 = Physics(read_scene(scene.document)).room_ev100[0]
    if way in ("lux", "meter", "ev100"):
        assert ev100 == pytest.approx(9.0, abs=0.2)
    services.change_scene(scene, {"ambient.ev100": 4.0})
    assert scene.document["ambient"]["sky"] is None


def test_a_usual_room_and_an_unknown_way(scene) -> None:
    services.use_room(scene, "Sports hall")
    assert scene.document["ambient"]["ev100"] == 8.0
    with pytest.raises(DocumentError, match="known_by"):
        services.change_scene(scene, {"ambient.known_by": "guess"})


@pytest.mark.parametrize("value", [[], {}, 3, None, ["hss"]])
def test_a_method_that_is_no_word_is_refused_like_any_other(scene, value) -> None:
    before = scene.document
    with pytest.raises(DocumentError, match=r"exposure\.method"):
        services.change_scene(scene, {"exposure.method": value})
    scene.refresh_from_db()
    assert scene.document == before
