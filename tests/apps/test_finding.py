"""Limits as a sentence, the methods page, searches that are kept, and what is done with a set-up."""

import copy
from typing import Any

import pytest
from django.test import Client

from rapzel.accounts.models import User
from rapzel.core.evaluate import evaluate
from rapzel.core.search.limits import Limits
from rapzel.finding.chips import WORDS, chip_of, with_word
from rapzel.finding.kits import of_owner
from rapzel.finding.models import KeptLimits
from rapzel.finding.question import read_question
from rapzel.kit.models import Strobe
from rapzel.shoots.history import undo
from rapzel.shoots.models import Scene
from rapzel.shoots.services import add_scene
from tests.apps.asking import limits_of, page, question, set_word
from tests.plans import LUNGE

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
