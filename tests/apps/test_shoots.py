import json
from io import BytesIO, StringIO

import pytest
from django.core.management import CommandError, call_command
from django.urls import reverse

from rapzel.core.evaluate import evaluate
from rapzel.shoots.models import Scene, Shoot


def upload(text: str | bytes, name: str = "scene.json") -> BytesIO:
    file = BytesIO(text if isinstance(text, bytes) else text.encode())
    file.name = name
    return file


def test_a_new_shoot_has_a_scene_to_begin_with(visitor) -> None:
    shown = visitor.post(
        reverse("workbench:shoot_add"), {"name": "Harbour dance"}, follow=True
    ).content.decode()
    assert "Harbour dance" in shown
    assert "First scene" in shown


def test_the_list_teaches_when_it_is_empty(visitor) -> None:
    shown = visitor.get(reverse("workbench:shoots")).content.decode()
    assert "A shoot holds the scenes" in shown
    assert "Begin a shoot" in shown


def test_facts_are_saved_as_they_are_changed(visitor, shoot) -> None:
    url = reverse("workbench:shoot", args=[shoot.pk])

    def put(name: str, value: str):
        return visitor.post(url, {"field": name, name: value})

    for name, value in (
        ("name", "Renamed"),
        ("starts_at", "2027-05-10T09:00"),
        ("ends_at", "2027-05-10T12:00"),
    ):
        assert "Saved." in put(name, value).content.decode()
    Shoot.objects.filter(pk=shoot.pk).update(notes="written in another tab")
    put("client", "Saltmarsh Yard")
    shoot.refresh_from_db()
    assert (shoot.name, shoot.client, shoot.notes) == (
        "Renamed",
        "Saltmarsh Yard",
        "written in another tab",
    )
    refused = put("ends_at", "2027-05-09T12:00")
    assert refused.status_code == 422
    assert "The end must not be before the beginning." in refused.content.decode()
    assert put("name", "").status_code == 422
    assert put("owner", "1").status_code == 404
    shoot.refresh_from_db()
    assert (shoot.name, shoot.ends_at.day) == ("Renamed", 10)


def test_scenes_are_listed_with_their_margins(visitor, scene) -> None:
    shown = visitor.get(
        reverse("workbench:shoot", args=[scene.shoot_id])
    ).content.decode()
    assert "smeared over 3.7 px" in shown
    assert "0 takes" in shown


def test_a_scene_goes_out_and_comes_in_again(visitor, scene) -> None:
    document = visitor.get(reverse("workbench:scene_json", args=[scene.pk])).content
    visitor.post(
        reverse("workbench:shoot_import", args=[scene.shoot_id]),
        {"file": upload(document)},
    )
    other = Scene.objects.exclude(pk=scene.pk).get()
    assert other.document == scene.document


def test_a_whole_shoot_goes_out_and_comes_in_again(visitor, scene, owner) -> None:
    document = visitor.get(
        reverse("workbench:shoot_json", args=[scene.shoot_id])
    ).content
    other = Shoot.objects.create(owner=owner, name="Other")
    visitor.post(
        reverse("workbench:shoot_import", args=[other.pk]), {"file": upload(document)}
    )
    assert [s.document for s in other.scenes.all()] == [scene.document]


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"", "not JSON"),
        (b"\xff\xfe\x00", "not text in UTF-8"),
        (b"[1, 2", "not JSON: Expecting"),
        (b"[]", "a scene document is a JSON object"),
        (b'{"motion": NaN}', "NaN is not a number"),
        (b"[" * 100_000, "not JSON"),
        (b'{"format": "rapzel.kit"}', "format"),
        (b'{"format": "rapzel.shoot", "scenes": []}', "holds no scene"),
    ],
)
def test_hostile_files_are_refused_in_words(
    visitor, shoot, content: bytes, says: str
) -> None:
    answer = visitor.post(
        reverse("workbench:shoot_import", args=[shoot.pk]),
        {"file": upload(content)},
        follow=True,
    )
    assert answer.status_code == 200
    shown = answer.content.decode()
    assert "Nothing was imported." in shown
    assert says in shown
    assert not Scene.objects.exists()


def test_no_file_is_said_so(visitor, shoot) -> None:
    shown = visitor.post(
        reverse("workbench:shoot_import", args=[shoot.pk]), follow=True
    ).content.decode()
    assert "choose a file first" in shown


def test_deletions_are_taken_back(visitor, scene) -> None:
    shown = visitor.post(
        reverse("workbench:scene_remove", args=[scene.pk]), follow=True
    ).content.decode()
    assert reverse("workbench:scene_back", args=[scene.pk]) in shown
    assert visitor.get(reverse("workbench:scene", args=[scene.pk])).status_code == 404
    visitor.post(reverse("workbench:scene_back", args=[scene.pk]))
    assert visitor.get(reverse("workbench:scene", args=[scene.pk])).status_code == 200
    visitor.post(reverse("workbench:shoot_remove", args=[scene.shoot_id]))
    assert visitor.get(reverse("workbench:scene", args=[scene.pk])).status_code == 404
    visitor.post(reverse("workbench:shoot_back", args=[scene.shoot_id]))
    assert visitor.get(reverse("workbench:scene", args=[scene.pk])).status_code == 200


def test_schemas_are_published(client) -> None:
    for name, title in (
        ("scene", "Rapzel scene, version 2"),
        ("evaluation", "Rapzel evaluation, version 2"),
    ):
        assert (
            client.get(reverse("workbench:schema", args=[name])).json()["title"]
            == title
        )


def test_evaluation_of_a_scene_as_json(visitor, scene) -> None:
    assert (
        visitor.get(reverse("workbench:evaluation_json", args=[scene.pk])).json()
        == evaluate(scene.document).to_document()
    )


# --- the commands that need no database -------------------------------------------------------------------------------


def test_evaluate_command(tmp_path, document, monkeypatch) -> None:
    file = tmp_path / "scene.json"
    file.write_text(json.dumps(document))
    out = StringIO()
    call_command("evaluate", str(file), stdout=out)
    assert json.loads(out.getvalue()) == evaluate(document).to_document()
    monkeypatch.setattr("sys.stdin", StringIO(json.dumps(document)))
    again = StringIO()
    call_command("evaluate", "-", stdout=again)
    assert again.getvalue() == out.getvalue()


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("{}", "motion: is missing"),
        ("nonsense", "not JSON"),
        ('{"version": 9}', "reads up to version 2"),
    ],
)
def test_evaluate_command_refuses_in_words(tmp_path, text: str, says: str) -> None:
    file = tmp_path / "scene.json"
    file.write_text(text)
    with pytest.raises(CommandError, match=says):
        call_command("evaluate", str(file))
    with pytest.raises(CommandError, match="Cannot read"):
        call_command("evaluate", str(tmp_path / "none.json"))


def test_schema_command() -> None:
    for options, title in (
        ([], "Rapzel scene, version 2"),
        (["--evaluation"], "Rapzel evaluation, version 2"),
    ):
        out = StringIO()
        call_command("scene_schema", *options, stdout=out)
        assert json.loads(out.getvalue())["title"] == title
