"""Tools on their own, beside a scene, and headless."""

import html
import io
import json

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import CommandError, call_command
from django.urls import reverse
from PIL import Image

from rapzel.core.tools import TOOLS
from rapzel.shoots import history
from rapzel.tools.drawings import DRAWINGS
from rapzel.tools.models import Question
from tests.plans import LUNGE

ASKED = {"visits_per_s": "0.2", "open_s": "5 s"}


@pytest.mark.parametrize("slug", TOOLS)
def test_every_tool_has_its_page_and_its_files(visitor, slug: str) -> None:
    shown = visitor.get(reverse("tools:page", args=[slug])).content.decode()
    assert TOOLS[slug].title in shown
    assert 'class="sentence"' in shown
    assert visitor.get(reverse("tools:csv", args=[slug])).content.count(b"\n") > 3
    assert visitor.get(reverse("tools:schema", args=[slug])).json()["properties"]["out"]
    drawn = visitor.get(reverse("tools:svg", args=[slug]))
    assert drawn.status_code == (200 if slug in DRAWINGS else 404)


def test_a_tool_answers_what_people_write_as_a_part_of_the_page(visitor) -> None:
    address = reverse("tools:page", args=["open-shutter"])
    part = visitor.get(address, ASKED, headers={"HX-Request": "true"}).content.decode()
    assert "<html" not in part
    assert "Open for 5 s, 37 % of the frames hold one pop" in part
    wrong = visitor.get(
        address, {"visits_per_s": "often"}, headers={"HX-Request": "true"}
    ).content.decode()
    assert "“often” is not a plain number" in wrong
    assert "sentence" not in wrong
    beyond = visitor.get(
        address, {"visits_per_s": "1e9"}, headers={"HX-Request": "true"}
    ).content.decode()
    assert "Must be 10000 or less" in beyond


def test_json_goes_out_and_comes_in(visitor) -> None:
    out = visitor.get(reverse("tools:json", args=["open-shutter"]), ASKED).json()
    assert out["in"]["open_s"] == 5
    assert out["out"]["best_open_s"] == pytest.approx(5)
    posted = visitor.post(
        reverse("tools:ask", args=["open-shutter"]),
        json.dumps(out["in"]),
        "application/json",
    )
    assert posted.json() == out["out"]
    refused = visitor.post(
        reverse("tools:ask", args=["open-shutter"]),
        '{"open_s": -1}',
        "application/json",
    )
    assert refused.status_code == 422
    assert {problem["path"] for problem in refused.json()["problems"]} == {
        "visits_per_s",
        "open_s",
    }
    file = SimpleUploadedFile("asked.json", json.dumps(out).encode())
    opened = visitor.post(
        reverse("tools:open", args=["open-shutter"]), {"file": file}, follow=True
    )
    assert 'value="5 s"' in opened.content.decode()
    bad = visitor.post(
        reverse("tools:open", args=["open-shutter"]),
        {"file": SimpleUploadedFile("a.json", b"{")},
        follow=True,
    )
    assert "not JSON" in bad.content.decode()


def test_a_tool_beside_a_scene_begins_with_it_and_pins_what_it_says(
    visitor, scene
) -> None:
    address = reverse("tools:for_scene", args=[scene.pk, "open-shutter"])
    assert 'value="5 ms"' in visitor.get(address).content.decode(), (
        "the shutter of the scene"
    )
    asked = {**ASKED, "lockout_s": "0", "pops_tolerated": "1", "clear_stops": "5"}
    visitor.post(reverse("tools:pin", args=[scene.pk, "open-shutter"]), asked)
    scene.refresh_from_db()
    (kept,) = scene.document["pinned"]
    assert kept["tool"] == "open-shutter"
    assert kept["answer"]["best_open_s"] == pytest.approx(5)
    assert (
        kept["says"]
        in visitor.get(reverse("workbench:scene", args=[scene.pk])).content.decode()
    )
    assert (
        kept["says"]
        in visitor.get(reverse("tools:scene_index", args=[scene.pk])).content.decode()
    )
    visitor.post(reverse("tools:unpin", args=[scene.pk, kept["id"]]))
    scene.refresh_from_db()
    assert scene.document["pinned"] == []
    history.undo(scene)
    assert scene.document["pinned"] == [kept]


def test_tools_that_are_not_there_are_not_found(visitor, scene) -> None:
    for name, args in (
        ("tools:page", ["soup"]),
        ("tools:for_scene", [scene.pk, "soup"]),
        ("tools:csv", ["soup"]),
    ):
        assert visitor.get(reverse(name, args=args)).status_code == 404


def test_the_tool_command(tmp_path) -> None:
    asked = tmp_path / "asked.json"
    asked.write_text('{"visits_per_s": 0.2, "open_s": 5}')
    out = io.StringIO()
    call_command("tool", "open-shutter", str(asked), "--json", stdout=out)
    assert json.loads(out.getvalue())["best_open_s"] == pytest.approx(5)
    out = io.StringIO()
    call_command("tool", "open-shutter", "--schema", stdout=out)
    assert json.loads(out.getvalue())["title"] == "Rapzel tool: Open shutter"
    for args, why in (
        (["soup", str(asked)], "there are: beam, .*open-shutter"),
        (["open-shutter"], "Name a JSON file"),
        (["open-shutter", str(tmp_path / "none.json")], "Cannot read"),
    ):
        with pytest.raises(CommandError, match=why):
            call_command("tool", *args)
    asked.write_text('{"open_s": 5}')
    with pytest.raises(CommandError, match="visits_per_s: is missing"):
        call_command("tool", "open-shutter", str(asked))


def test_the_rehearse_command(tmp_path) -> None:
    plan, picture, light = (
        tmp_path / name for name in ("scene.json", "picture.png", "linear.npy")
    )
    plan.write_text(json.dumps(LUNGE))
    out = io.StringIO()
    call_command(
        "rehearse",
        str(plan),
        str(picture),
        size="90x60",
        linear=str(light),
        json=True,
        stdout=out,
    )
    assert json.loads(out.getvalue())["size"] == [90, 60]
    assert Image.open(picture).size == (90, 60)
    assert np.load(light).shape == (60, 90, 3)
    for change, why in (
        ({"size": "huge"}, "is no size"),
        ({"scene": "{}"}, "is refused"),
    ):
        plan.write_text(change.pop("scene", plan.read_text()))
        with pytest.raises(CommandError, match=why):
            call_command("rehearse", str(plan), str(picture), **change)
    with pytest.raises(CommandError, match="is not a picture"):
        call_command("rehearse", str(plan), str(tmp_path / "picture.txt"))


MANY = "\n".join(f"{100 + place} ms; late; {place + 1} ms late" for place in range(95))


def asked_of(visitor, address: str, **inputs: str):
    """What the page sends when an input is changed."""
    return visitor.post(address, inputs, headers={"HX-Request": "true"})


def test_a_question_longer_than_an_address_gets_a_short_one(
    visitor, owner, stranger
) -> None:
    """It was asked by GET: more than 150 rows were refused by the server before Rapzel saw them."""
    address = reverse("tools:page", args=["dial-in"])
    answer = asked_of(visitor, address, history=MANY, highest="500 ms")
    assert answer.status_code == 200
    pushed = answer["HX-Push-Url"]
    assert len(pushed) < 200
    assert "kept=" in pushed
    again = visitor.get(pushed).content.decode()
    assert "194 ms; late; 95 ms late" in again
    table = visitor.get(
        f"{reverse('tools:csv', args=['dial-in'])}?{pushed.split('?')[1]}"
    )
    assert len(table.content.decode().splitlines()) > 90
    assert (
        asked_of(visitor, address, history=MANY, highest="500 ms")["HX-Push-Url"]
        == pushed
    )
    visitor.force_login(stranger)
    assert visitor.get(pushed).status_code == 404


def test_a_short_question_stands_in_its_address(visitor, owner) -> None:
    answer = asked_of(
        visitor, reverse("tools:page", args=["open-shutter"]), open_s="2 s"
    )
    assert "open_s=2+s" in answer["HX-Push-Url"]
    assert not Question.objects.exists()
    refused = asked_of(
        visitor, reverse("tools:page", args=["open-shutter"]), open_s="soon"
    )
    assert "HX-Push-Url" not in refused


def test_a_person_keeps_some_questions_and_the_oldest_go(
    visitor, owner, monkeypatch
) -> None:
    monkeypatch.setattr("rapzel.tools.questions.MOST_KEPT", 3)
    address = reverse("tools:page", args=["dial-in"])
    pushed = [
        asked_of(visitor, address, history=MANY, highest=f"{10 * value} ms")[
            "HX-Push-Url"
        ]
        for value in range(50, 55)
    ]
    assert Question.objects.count() == 3
    assert visitor.get(pushed[-1]).status_code == 200
    assert visitor.get(pushed[0]).status_code == 404


@pytest.mark.parametrize("slug", TOOLS)
def test_the_json_says_in_words_what_the_page_says(visitor, slug: str) -> None:
    """A figure that is null is one that is not known, and the words say why."""
    page = visitor.get(reverse("tools:page", args=[slug])).content.decode()
    out = visitor.get(reverse("tools:json", args=[slug])).json()["out"]
    assert out["says"].endswith(".")
    assert html.escape(out["says"]) in page
