"""The page that takes one's own cut-out into a scene, and out of it."""

from typing import Any

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from PIL import Image

from rapzel.shoots.history import undo
from rapzel.shoots.models import Scene
from rapzel.shoots.services import change_scene
from tests.core.rehearsal.test_cutout import png, two_squares

MARKS = {"partly": "on", "left": "50", "top": "10", "right": "95", "bottom": "90"}


def send(
    visitor: Client, scene: Scene, file: bytes | None = None, **values: Any
) -> Any:
    sent = (
        {}
        if file is None
        else {"picture": SimpleUploadedFile("own.png", file, "image/png")}
    )
    return visitor.post(f"/scenes/{scene.pk}/cut-out/", {**sent, **values})


def rehearsal_of(scene: Scene) -> dict[str, Any]:
    scene.refresh_from_db()
    return dict(scene.document["rehearsal"])


def test_a_picture_becomes_the_subject_and_its_marks_are_counted_in_what_is_kept(
    visitor: Client, scene: Scene
) -> None:
    turn = {"turns": "on", "pivot_x": "50", "pivot_y": "50"}
    assert (
        send(
            visitor, scene, png(two_squares()), height="1.2 m", **MARKS, **turn
        ).status_code
        == 302
    )
    kept = rehearsal_of(scene)
    assert (kept["subject"], kept["size_m"]) == ("cutout", 1.2)
    # The picture is trimmed from 0.1 to 0.9 of its width and from a sixth to five sixths of its height.
    assert kept["cutout"]["moving"] == pytest.approx([0.5, 0, 1, 1])
    assert kept["cutout"]["pivot"] == pytest.approx([0.5, 0.5])
    assert visitor.get(f"/scenes/{scene.pk}/rehearsal.jpg").status_code == 200
    assert b"own cut-out" in visitor.get(f"/scenes/{scene.pk}/").content
    undo(scene)
    assert rehearsal_of(scene)["cutout"] is None


def test_marks_change_without_a_new_picture_and_the_cut_out_goes_again(
    visitor: Client, scene: Scene
) -> None:
    send(visitor, scene, png(two_squares()))
    before = rehearsal_of(scene)["cutout"]
    assert before["moving"] is None
    assert send(visitor, scene, **MARKS).status_code == 302
    after = rehearsal_of(scene)["cutout"]
    assert after["picture"] == before["picture"]
    assert after["moving"] == pytest.approx([0.5, 0.1, 0.95, 0.9])
    assert visitor.post(f"/scenes/{scene.pk}/cut-out/remove/").status_code == 302
    gone = rehearsal_of(scene)
    assert (gone["subject"], gone["cutout"]) == ("figure", None)


@pytest.mark.parametrize(
    ("file", "values", "why"),
    [
        (None, {}, "Choose a picture"),
        (png(Image.new("RGB", (9, 9))), {}, "no transparency"),
        (b"GIF89a", {}, "not a PNG"),
        (png(two_squares()), {"partly": "on", "left": "5"}, "Mark the part"),
        (png(two_squares()), {**MARKS, "right": "20"}, "no area"),
        (
            png(two_squares()),
            {**MARKS, "left": "0", "right": "5"},
            "Nothing of the subject",
        ),
        (png(two_squares()), {**MARKS, "turns": "on"}, "Mark the pivot"),
        (png(two_squares()), {**MARKS, "left": "120"}, "less than or equal to 100"),
        (png(two_squares()), {"height": "tall"}, "tall"),
    ],
)
def test_what_is_refused_says_why_and_keeps_what_was_entered(
    visitor: Client, scene: Scene, file: bytes | None, values: dict[str, str], why: str
) -> None:
    before = rehearsal_of(scene)
    answer = send(visitor, scene, file, **values)
    assert answer.status_code == 422
    page = answer.content.decode()
    assert why in page
    assert all(f'value="{text}"' in page for text in values.values() if text != "on")
    assert rehearsal_of(scene) == before


def test_a_scene_with_a_cut_out_goes_out_and_comes_in_whole(
    visitor: Client, scene: Scene
) -> None:
    send(visitor, scene, png(two_squares()), **MARKS)
    out = visitor.get(f"/scenes/{scene.pk}/scene.json").content
    file = SimpleUploadedFile("scene.json", out, "application/json")
    visitor.post(f"/shoots/{scene.shoot_id}/import/", {"file": file})
    again = Scene.objects.exclude(pk=scene.pk).get()
    assert again.document["rehearsal"] == rehearsal_of(scene)


def test_a_good_picture_that_a_refusal_lost_is_asked_for_again(
    visitor: Client, scene: Scene
) -> None:
    page = send(visitor, scene, png(two_squares()), height="tall").content.decode()
    assert "Choose the picture again." in page
    assert (
        "Choose the picture again."
        not in send(visitor, scene, b"GIF89a").content.decode()
    )


def test_another_subject_is_not_drawn_at_the_height_of_the_last(
    visitor: Client, scene: Scene
) -> None:
    send(visitor, scene, png(two_squares()), height="1.2 m")
    change_scene(scene, {"rehearsal.subject": "drop"})
    assert rehearsal_of(scene)["size_m"] is None
