"""Limits as a sentence, the methods page, searches that are kept, and what is done with a set-up."""

import copy
from typing import Any

import pytest
from django.test import Client

from rapzel.accounts.models import User
from rapzel.core.evaluate import evaluate
from rapzel.core.possible import read_possible_scene
from rapzel.core.search.limits import Limits
from rapzel.finding import searching, services
from rapzel.finding.chips import WORDS, chip_of, with_word
from rapzel.finding.kits import of_owner, of_parts
from rapzel.finding.models import Finding, KeptLimits
from rapzel.finding.question import question_of, read_question
from rapzel.finding.words import Words
from rapzel.kit.models import Strobe
from rapzel.shoots.history import undo
from rapzel.shoots.models import Scene
from rapzel.shoots.services import add_scene, change_scene
from tests.plans import LUNGE

TIGHT = {"iso": [100, 100], "distance_m": [4, 4], "lights": 1}


def page(scene: Scene, name: str, more: str = "") -> str:
    return f"/scenes/{scene.pk}/{name}/{more}"


def set_word(
    visitor: Client,
    scene: Scene,
    name: str,
    *values: str,
    where: str = "find",
    follow: bool = True,
) -> Any:
    """Changes a word; the page that it leads to searches anew, which takes its time."""
    address = page(scene, where, "limits/")
    data = {"name": name, "value": list(values)}
    return visitor.post(address, data, headers={"HX-Request": "true"}, follow=follow)


def limits_of(owner: User, scene: Scene) -> Limits:
    return services.limits_for(owner, scene)[0]


# --- limits -------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("name", "typed", "limit", "stored"),
    [
        ("iso.1", "1600", "iso", (100.0, 1600.0)),
        ("f_number.0", "f/4", "f_number", (4.0, 11.0)),
        ("shutter_s.0", "1/2000", "shutter_s", (1 / 2000, 1.0)),
        ("distance_m.1", "250 cm", "distance_m", (1.0, 2.5)),
        ("lights", "5", "lights", 5),
        ("frames_per_s", "8", "frames_per_s", 8.0),
        ("equal_power", "1", "equal_power", True),
        ("order", "rate", "order", "rate"),
    ],
)
def test_a_word_of_the_sentence_is_a_limit(
    visitor: Client,
    kit: User,
    scene: Scene,
    name: str,
    typed: str,
    limit: str,
    stored: Any,
) -> None:
    assert set_word(visitor, scene, name, typed, follow=False).status_code == 302
    assert getattr(limits_of(kit, scene), limit) == stored


def test_a_word_of_the_sentence_is_changed_in_place(
    visitor: Client, kit: User, scene: Scene
) -> None:
    response = set_word(visitor, scene, "distance_m.1", "250 cm")
    assert response.status_code == 200
    assert 'id="we-distance-m-1"' in response.content.decode()


@pytest.mark.parametrize(
    ("name", "typed", "said"),
    [
        ("iso.1", "bright", "ISO"),
        ("iso.0", "6400", "the least, 6400, is above the most, 3200"),
        ("lights", "many", "Accepted"),
        ("lights", "99", "12"),
        ("burst", "9", "burst needs"),
        ("order", "prettiest", "iso"),
        ("bribe", "1", "no limit is called"),
    ],
)
def test_a_word_that_is_refused_says_what_is_accepted_and_changes_nothing(
    visitor: Client, kit: User, scene: Scene, name: str, typed: str, said: str
) -> None:
    response = set_word(visitor, scene, name, typed)
    assert response.status_code == 422
    assert said in response.content.decode()
    assert not KeptLimits.objects.exists()


def test_some_of_the_kit_are_chosen_and_all_of_them_is_the_whole_kit(
    visitor: Client, kit: User, scene: Scene
) -> None:
    response = set_word(
        visitor, scene, "strobes", "Hot-shoe 60", "Bank pack 2400", "no such"
    )
    assert "2 strobes" in response.content.decode()
    assert limits_of(kit, scene).strobes == ("Bank pack 2400", "Hot-shoe 60")
    names = Strobe.objects.visible_to(kit).values_list("name", flat=True)
    set_word(visitor, scene, "strobes", *names, "Monobloc 600")
    assert limits_of(kit, scene).strobes in (None, tuple(sorted(names)))


def test_limits_are_a_persons_until_a_scene_has_its_own(
    visitor: Client, kit: User, scene: Scene
) -> None:
    other = add_scene(scene.shoot, copy.deepcopy(LUNGE), "Other")
    set_word(visitor, scene, "lights", "2", follow=False)
    assert limits_of(kit, other).lights == 2
    visitor.post(page(scene, "find", "limits/scope/"), {"own": "1"})
    set_word(visitor, scene, "lights", "6", follow=False)
    assert (limits_of(kit, scene).lights, limits_of(kit, other).lights) == (6, 2)
    visitor.post(page(scene, "find", "limits/scope/"), {"own": "0"})
    assert limits_of(kit, scene).lights == 2


def test_every_word_says_itself_and_is_read_again(kit: User, scene: Scene) -> None:
    supply = of_owner(kit, read_question(question(kit, scene, Limits()))[0])
    limits = Limits(frames_per_s=8, burst=20, depth_m=0.3, freeze_stops=0.5)
    for imperial in (False, True):
        for word in WORDS:
            chip = chip_of(word, limits, supply.kit, imperial)
            if not word.several and not chip.choices:
                again = with_word(limits, word.name, [chip.text], supply.kit, imperial)
                assert word.value(again) == pytest.approx(
                    word.value(limits), rel=0.02
                ), word.name


@pytest.mark.parametrize(
    ("name", "typed", "direction", "limit", "stored"),
    [
        ("iso.1", "1600", "up", "iso", (100.0, 2000.0)),
        ("f_number.0", "f/4", "down", "f_number", (3.5, 11.0)),
        ("lights", "3", "up", "lights", 4),
        ("iso.1", "not a number", "down", "iso", (100.0, 1250.0)),
    ],
)
def test_a_word_steps_as_the_inputs_of_the_workbench_do(
    visitor: Client,
    scene: Scene,
    owner: User,
    name: str,
    typed: str,
    direction: str,
    limit: str,
    stored: Any,
) -> None:
    set_word(visitor, scene, "iso.1", "1600", follow=False)
    address = page(scene, "find", "limits/")
    data = {"name": name, "value": typed, "direction": direction}
    answer = visitor.post(address, data, headers={"HX-Request": "true"})
    assert answer.status_code == 302
    assert getattr(limits_of(owner, scene), limit) == pytest.approx(stored)


def test_a_step_beyond_what_is_possible_says_so(visitor: Client, scene: Scene) -> None:
    address = page(scene, "find", "limits/")
    data = {"name": "lights", "value": "0", "direction": "down"}
    answer = visitor.post(address, data, headers={"HX-Request": "true"})
    assert answer.status_code == 422


# --- the methods page ---------------------------------------------------------------------------------------------


def test_the_page_shows_every_method_and_recommends_one_by_numbers(
    visitor: Client, kit: User, scene: Scene
) -> None:
    body = visitor.get(page(scene, "methods")).content.decode()
    for title in (
        "Short pulse",
        "High-speed sync",
        "Leaf shutter",
        "Open shutter",
        "No flash",
    ):
        assert title in body
    assert "recommended" in body
    assert "stops of light left within these limits" in body.replace("\u00a0", " ")
    assert "Needs a global shutter." in body
    document = visitor.get(page(scene, "methods", "methods.json")).json()
    assert document["recommended"] in {one["method"] for one in document["methods"]}


def test_a_column_becomes_the_scene_and_undo_takes_it_back(
    visitor: Client, kit: User, scene: Scene
) -> None:
    before = copy.deepcopy(scene.document)
    visitor.post(page(scene, "methods", "nd/use/"), {"as": "scene"})
    scene.refresh_from_db()
    assert scene.document["exposure"]["nd_stops"] > 0
    assert scene.name == before["name"]
    held = {one.name: one.state for one in evaluate(scene.document).margins}
    assert {held["freeze"], held["light"]} <= {"passes", "unsure"}
    undo(scene)
    assert scene.document == before


def test_a_column_is_pinned_beside_the_scene(
    visitor: Client, kit: User, scene: Scene
) -> None:
    visitor.post(page(scene, "methods", "pulse/use/"), {"as": "snapshot"})
    assert [one.name for one in scene.snapshots.all()] == [
        "Short pulse, at or below sync"
    ]
    assert visitor.get(page(scene, "compare")).status_code == 200


def test_a_picture_is_made_for_each_set_up_and_for_nothing_else(
    visitor: Client, kit: User, scene: Scene
) -> None:
    picture = visitor.get(page(scene, "methods", "pulse.jpg"))
    assert picture["Content-Type"] == "image/jpeg"
    assert visitor.get(page(scene, "methods", "leaf.jpg")).status_code == 404
    assert visitor.get(page(scene, "methods", "magic.jpg")).status_code == 404


def test_a_cheap_answer_is_done_and_can_be_undone(
    visitor: Client, kit: User, scene: Scene
) -> None:
    address = page(scene, "methods", "cheap/")
    visitor.post(address, {"says": "camera back to 5 m"})
    scene.refresh_from_db()
    assert scene.document["lens"]["subject_distance_m"] == 5.0
    assert undo(scene) == "camera back to 5 m"
    before = copy.deepcopy(scene.document)
    assert visitor.post(address, {"says": "a miracle"}).status_code == 422
    scene.refresh_from_db()
    assert scene.document == before


# --- find ---------------------------------------------------------------------------------------------------------


def question(owner: User, scene: Scene, limits: Limits) -> str:
    return question_of(scene.document, kit_for(owner, scene), limits)


def kit_for(owner: User, scene: Scene) -> Any:
    return of_owner(owner, read_possible_scene(scene.document)).kit


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
