"""Searches that are kept: what is found, what comes near, what is done with a set-up, and what costs."""

import pytest
from django.test import Client

from rapzel.accounts.models import User
from rapzel.core.evaluate import evaluate
from rapzel.core.search.limits import Limits
from rapzel.finding import searching, services
from rapzel.finding.kits import of_parts
from rapzel.finding.models import Finding
from rapzel.finding.question import read_question
from rapzel.finding.words import Words
from rapzel.kit.models import Strobe
from rapzel.shoots.models import Scene
from rapzel.shoots.services import change_scene
from tests.apps.asking import TIGHT, page, question, set_word

# --- find ---------------------------------------------------------------------------------------------------------


def found(visitor: Client, scene: Scene) -> Finding:
    assert visitor.get(page(scene, "find")).status_code == 200
    return scene.findings.latest("pk")


def test_what_is_found_is_listed_and_kept(
    visitor: Client, kit: User, scene: Scene
) -> None:
    set_word(visitor, scene, "lights", "1")
    row = found(visitor, scene)
    assert row.state == Finding.State.DONE
    body = visitor.get(page(scene, "find")).content.decode()
    assert "set-ups are listed. First:" in body.replace("\u00a0", " ")
    assert found(visitor, scene).pk == row.pk, "asked again, nothing is searched anew"
    change_scene(scene, {"exposure.iso": 400.0})
    assert found(visitor, scene).pk != row.pk, "another scene is another question"


def test_hits_beyond_those_shown_first_are_judged_when_they_are_asked_for(
    visitor: Client, kit: User, scene: Scene
) -> None:
    visitor.get(page(scene, "find"))
    row = Finding.objects.get()
    hits = row.result["hits"]
    assert len(hits) > searching.SHOWN_FIRST
    assert all("margins" in hit for hit in hits[: searching.SHOWN_FIRST])
    assert not any("margins" in hit for hit in hits[searching.SHOWN_FIRST :])
    every = visitor.get(page(scene, "find", "?all=1")).content.decode()
    assert every.count("Make it the scene") >= len(hits)
    row.refresh_from_db()
    last = row.result["hits"][-1]
    answer = evaluate(last["document"])
    assert {one["name"]: one["value"] for one in last["margins"]} == {
        one.name: one.value for one in answer.margins
    }
    assert "between_frames_s" in last["cost"]


def test_a_set_up_beyond_those_shown_first_opens(
    visitor: Client, kit: User, scene: Scene
) -> None:
    visitor.get(page(scene, "find"))
    row = Finding.objects.get()
    last = len(row.result["hits"]) - 1
    assert (
        visitor.get(f"/scenes/{scene.pk}/find/{row.pk}/hits/{last}/").status_code == 200
    )


def test_a_set_up_opens_is_pinned_and_becomes_the_scene(
    visitor: Client, kit: User, scene: Scene
) -> None:
    row = found(visitor, scene)
    assert row.result is not None
    own = page(scene, "find", f"{row.pk}/hits/0/")
    assert "Make it the scene" in visitor.get(own).content.decode()
    assert visitor.get(f"{own}rehearsal.jpg")["Content-Type"] == "image/jpeg"
    visitor.post(f"{own}use/", {"as": "snapshot"})
    assert scene.snapshots.count() == 1
    visitor.post(f"{own}use/", {"as": "scene"})
    scene.refresh_from_db()
    needs = row.result["hits"][0]["needs"]
    assert scene.document["exposure"]["iso"] == needs["iso"]
    assert len(scene.document["lights"]) == needs["lights"]
    for wrong in ("hits/999/", "secrets/0/"):
        assert visitor.get(page(scene, "find", f"{row.pk}/{wrong}")).status_code == 404


def test_nothing_fits_shows_what_is_nearest_and_what_would_do(
    visitor: Client, kit: User, scene: Scene
) -> None:
    services.keep_limits(kit, scene, Limits(**TIGHT))
    row = found(visitor, scene)
    body = visitor.get(page(scene, "find")).content.decode()
    assert row.result is not None
    assert row.result["misses"]
    assert "works within these limits" in body
    assert "instead of" in body
    visitor.post(page(scene, "find", f"{row.pk}/relax/0/"))
    assert found(visitor, scene).result["hits"], (
        "the relaxation that was offered succeeds"
    )


def test_how_many_of_a_light_that_is_short(
    visitor: Client, kit: User, scene: Scene
) -> None:
    change_scene(scene, {"lights[#light-1].distance_m": 5.0, "exposure.f_number": 8.0})
    light = scene.document["lights"][0]
    visitor.post(page(scene, "find", f"how-many/{light['id']}/"))
    limits, own = services.limits_for(kit, scene)
    assert own
    assert limits.distance_m == (5.0, 5.0)
    row = found(visitor, scene)
    assert row.result is not None
    fewest = row.result["hits"][0]["needs"] if row.result["hits"] else None
    if fewest is not None:
        assert {one["strobe"] for one in fewest["rig"]} == {light["strobe"]["name"]}
        lights = [hit["needs"]["lights"] for hit in row.result["hits"]]
        assert lights == sorted(lights)
    assert visitor.post(page(scene, "find", "how-many/none/")).status_code == 404


def test_a_long_search_goes_to_the_background_tells_and_can_be_stopped(
    kit: User, scene: Scene, settings, monkeypatch: pytest.MonkeyPatch
) -> None:
    settings.SEARCH_AT_ONCE_S = -1.0
    monkeypatch.setattr(searching, "_REPORT_S", 0.0)
    asked = question(kit, scene, Limits(lights=1))
    handed: list[int] = []
    row = searching.find(scene, asked, handed.append)
    assert handed == [row.pk]
    assert row.busy
    assert searching.find(scene, asked, handed.append).pk == row.pk
    assert handed == [row.pk], "one who asks again does not begin it again"
    searching.cancel(row)
    searching.work(row.pk)
    row.refresh_from_db()
    assert row.state == Finding.State.CANCELLED
    searching.again(row, handed.append)
    searching.work(row.pk)
    row.refresh_from_db()
    assert (row.state, row.progress) == (Finding.State.DONE, 100)


def test_old_searches_of_a_scene_are_thrown_away(
    kit: User, scene: Scene, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(searching, "KEPT", 3)
    for iso in range(100, 106):
        limits = Limits(iso=(iso, iso), lights=0, methods=("ambient",))
        searching.find(scene, question(kit, scene, limits), lambda pk: None)
    kept = [
        read_question(row.question)[2].iso[0] for row in scene.findings.order_by("pk")
    ]
    assert kept == [103, 104, 105]


def test_nobody_sees_the_searches_or_limits_of_another(
    visitor: Client, stranger: User, kit: User, scene: Scene
) -> None:
    row = found(visitor, scene)
    other = Client()
    other.force_login(stranger)
    for address in (
        page(scene, "find"),
        page(scene, "methods"),
        page(scene, "methods", "pulse.jpg"),
        page(scene, "find", f"{row.pk}/hits/0/"),
        page(scene, "find", f"{row.pk}/found.json"),
    ):
        assert other.get(address).status_code == 404, address
    for address in (
        page(scene, "find", "limits/"),
        page(scene, "find", "limits/scope/"),
        page(scene, "find", f"{row.pk}/cancel/"),
        page(scene, "methods", "pulse/use/"),
    ):
        assert (
            other.post(address, {"name": "lights", "value": "2"}).status_code == 404
        ), address


def test_two_strobes_of_one_name_with_other_figures_are_both_searched(
    kit: User, scene: Scene
) -> None:
    twin = Strobe.objects.get(owner=kit, name="Hot-shoe 60").to_core()
    weaker = {**twin, "guide_number_m": 20.0}
    supply = of_parts(
        [twin, twin, weaker], [], read_question(question(kit, scene, Limits()))[0]
    )
    numbers = [
        one.guide_number_m for one in supply.kit.strobes if one.name == "Hot-shoe 60"
    ]
    assert numbers == [34.0, 20.0]


def test_a_strobe_that_waits_for_its_figures_is_left_out_and_named(
    visitor: Client, kit: User, scene: Scene
) -> None:
    Strobe.objects.create(owner=kit, name="Unmeasured")
    body = visitor.get(page(scene, "find")).content.decode()
    assert "Left out until their figures are known: Unmeasured" in body


def test_costs_are_told_to_what_is_known_of_them() -> None:
    """Energy in round figures, a price to the last coin, what is not known as such."""
    needs = {"rig": [{"strobe": "Monobloc", "mode": "", "power": 0.5, "count": 1}]}
    told = Words(needs, {"energy_ws": 476.2, "price": 12345.0})
    assert (told.energy, told.price) == ("480 W s", "12\u2009345")
    unknown = Words(needs, {"energy_ws": None, "price": None})
    assert (unknown.energy, unknown.price) == ("not known", "not known")
