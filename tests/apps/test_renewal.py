"""A scene whose strobe the kit has come to know better says so, and takes the new figures when it is told to."""

from django.urls import reverse

from rapzel.kit.models import Strobe
from rapzel.shoots import light_services, services
from rapzel.shoots.models import Scene
from rapzel.workbench.renewal import known_strobes, newer_figures
from tests.apps.rows import set_figures


def with_a_light(scene, kit) -> Strobe:
    strobe = Strobe.objects.get(name="Hot-shoe 60")
    light_services.add_light(scene, strobe.to_core())
    return strobe


def news(scene, owner) -> list[str]:
    stored = Scene.objects.get(pk=scene.pk).document
    return [each.says for each in newer_figures(stored, known_strobes(owner, [stored]))]


def test_nothing_is_said_while_nothing_differs(scene, kit) -> None:
    strobe = with_a_light(scene, kit)
    set_figures(strobe, price=12.0, notes="lent to the assistant")
    assert news(scene, kit) == [], "no scene is answered by a price"


def test_what_differs_for_this_light_is_said_in_its_own_figures(scene, kit) -> None:
    strobe = with_a_light(scene, kit)
    strobe.settings.update(t01_s=0.0005, t05_s=None)
    (said,) = news(scene, kit)
    assert said.startswith("t.1 500 µs instead of ")
    light_services.use_strobe(
        scene,
        scene.document["lights"][1]["id"],
        Strobe.objects.get(pk=strobe.pk).to_core(),
    )
    assert news(scene, kit) == []
    set_figures(strobe, guide_number_m=50)
    assert news(scene, kit) == ["GN 50 m instead of 38 m"] or news(scene, kit)[
        0
    ].startswith("GN 50 m instead of ")
    set_figures(strobe, min_power=0.5)
    assert "is below its range" in news(scene, kit)[0]


def test_the_shoots_page_lists_the_scenes_and_one_press_renews(
    visitor, scene, kit
) -> None:
    strobe = with_a_light(scene, kit)
    strobe.settings.update(t01_s=0.0005, t05_s=None)
    shown = visitor.get(
        reverse("workbench:shoot", args=[scene.shoot_id])
    ).content.decode()
    assert "The kit has newer figures than 1 scene:" in " ".join(shown.split())
    light = scene.document["lights"][1]["id"]
    page = visitor.get(reverse("workbench:scene", args=[scene.pk])).content.decode()
    assert f'id="renew-{light}"' in page
    visitor.post(
        reverse("workbench:act", args=[scene.pk, "use-strobe"]),
        {"item": light, "pk": strobe.pk},
    )
    assert (
        "newer figures"
        not in visitor.get(reverse("workbench:scene", args=[scene.pk])).content.decode()
    )


def test_a_snapshot_is_renamed_restored_and_opened(visitor, scene) -> None:
    snapshot = services.pin(scene, "")
    services.change_scene(scene, {"exposure.iso": 1600.0})
    visitor.post(
        reverse("workbench:snapshot_rename", args=[scene.pk, snapshot.pk]),
        {"name": "Darker"},
    )
    snapshot.refresh_from_db()
    assert snapshot.name == "Darker"
    visitor.post(reverse("workbench:snapshot_open", args=[scene.pk, snapshot.pk]))
    opened = Scene.objects.exclude(pk=scene.pk).get()
    assert opened.document["exposure"]["iso"] == 200
    assert opened.name.endswith("Darker")
    visitor.post(reverse("workbench:snapshot_restore", args=[scene.pk, snapshot.pk]))
    scene.refresh_from_db()
    assert scene.document["exposure"]["iso"] == 200
    visitor.post(reverse("workbench:act", args=[scene.pk, "undo"]))
    scene.refresh_from_db()
    assert scene.document["exposure"]["iso"] == 1600, "and that can be taken back"
    visitor.post(reverse("workbench:scene_copy", args=[scene.pk]))
    assert Scene.objects.filter(name__endswith="again").exists()
