"""The first page, help, words, and where typed words lead."""

import io

import pytest
from django.test import Client
from django.urls import reverse
from PIL import Image

from rapzel.guide.live import POWER_STEPS, SPEEDS_M_S, live_answer
from rapzel.guide.questions import questions
from rapzel.shoots.services import add_scene
from rapzel.workbench.way import comes_next, way_of


@pytest.fixture
def anybody(db) -> Client:
    return Client()


def found(client: Client, typed: str, **about: int) -> list[dict[str, str]]:
    return client.get(reverse("guide:go"), {"q": typed, **about}).json()["found"]


# --- the first page ---


def test_the_first_page_answers_without_an_account(anybody) -> None:
    page = anybody.get("/").content.decode()
    assert live_answer(14, 9).evaluation.sentence[:20] in page
    assert reverse("accounts:sign_up") in page


def test_who_is_logged_in_comes_to_the_shoots(visitor) -> None:
    assert visitor.get("/")["Location"] == reverse("workbench:shoots")


def test_the_live_scene_answers_to_speed_and_power() -> None:
    """Less power freezes what more power smears, and is darker: the trade that the page is there to show."""
    slow_end, fast_end = 0, len(SPEEDS_M_S) - 1
    bright = live_answer(fast_end, 6).evaluation
    short = live_answer(fast_end, 18).evaluation
    assert bright.margin("freeze").value < 0 < short.margin("freeze").value
    assert short.margin("light").value < bright.margin("light").value - 3
    assert live_answer(slow_end, 6).evaluation.margin("freeze").value > 0


@pytest.mark.parametrize(
    "asked", ["", "speed=0", "speed=99&power=0", "speed=1&power=x", "speed=٣&power=0"]
)
def test_no_other_steps_are_answered(anybody, asked: str) -> None:
    assert anybody.get(f"{reverse('guide:live')}?{asked}").status_code == 404


def test_its_picture_is_there_for_each_step_and_no_other(anybody, monkeypatch) -> None:
    monkeypatch.setattr(
        "rapzel.workbench.pictures._composed",
        lambda physics, size: Image.new("RGB", (8, 8)),
    )
    monkeypatch.setattr("rapzel.workbench.pictures.RENDERED_BY", "nobody")
    last = reverse("guide:live_picture", args=[len(SPEEDS_M_S) - 1, POWER_STEPS - 1])
    picture = anybody.get(last)
    assert Image.open(io.BytesIO(picture.content)).size == (8, 8)
    beyond = reverse("guide:live_picture", args=[len(SPEEDS_M_S), 0])
    assert anybody.get(beyond).status_code == 404


# --- help ---


def test_each_of_a_dozen_questions_leads_to_a_page_of_the_last_scene(
    visitor, kit, scene
) -> None:
    assert len(questions()) == 12
    for question in questions():
        assert visitor.get(question.address(scene.pk)).status_code in (200, 302), (
            question.asks
        )


def test_without_a_scene_a_question_leads_to_where_one_begins(anybody) -> None:
    page = anybody.get(reverse("guide:help")).content.decode()
    assert f'href="{reverse("finding:begin")}"' in page


# --- go to or do ---


def test_typing_finds_pages_scenes_inputs_gear_and_words(visitor, kit, scene) -> None:
    by_name = {
        "meth": reverse("finding:methods", args=[scene.pk]),
        "ape": f"{reverse('workbench:scene', args=[scene.pk])}#f-exposure-f-number",
        "curtain tra": reverse("bench:curtains"),
        "how long": f"{reverse('guide:help')}#question-6",
        "t.1": f"{reverse('guide:words')}#t1",
    }
    for typed, address in by_name.items():
        assert address in [
            one["address"] for one in found(visitor, typed, scene=scene.pk)
        ], typed
    assert any(one["kind"] == "strobe" for one in found(visitor, "monobloc"))
    assert found(visitor, scene.name)[0]["says"] == scene.name
    assert found(visitor, "no such thing at all") == []


def test_nothing_of_anybody_else_is_found(visitor, scene, stranger, anybody) -> None:
    other = Client()
    other.force_login(stranger)
    assert found(other, scene.name, scene=scene.pk) == []
    assert found(other, "aperture", scene=scene.pk) == found(other, "aperture")
    kinds = {one["kind"] for typed in ("", "s", "kit") for one in found(anybody, typed)}
    assert kinds <= {"page", "help", "word"}


# --- the way through a scene ---


def test_the_bar_knows_its_neighbours_and_how_pages_stand(shoot, scene) -> None:
    second = add_scene(shoot, scene.document, "Second")
    way = way_of(second, "finding:methods")
    assert (way.number, way.count, way.after) == (2, 2, None)
    assert way.before is not None
    assert way.before.address == reverse("finding:methods", args=[scene.pk])
    assert way.here is not None
    assert way.here.step.key == "methods"
    plan, timing = way.stops[0].mark, way.stops[3].mark
    assert plan is not None
    assert timing is not None
    assert (plan.kind, timing.kind) == ("fails", "unknown")


def test_takes_lead_to_the_next_look_and_the_last_one_to_the_shoot(
    shoot, scene
) -> None:
    second = add_scene(shoot, scene.document, "Second")
    to_second, to_shoot = (
        comes_next(scene, "takes:list"),
        comes_next(second, "takes:list"),
    )
    assert to_second is not None
    assert to_shoot is not None
    assert to_second.address == reverse("workbench:scene", args=[second.pk])
    assert to_shoot.address == reverse("workbench:shoot", args=[shoot.pk])
