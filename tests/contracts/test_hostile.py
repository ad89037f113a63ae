"""What was tried to break the site: each is answered in words, and none costs more than a page may."""

import errno
import json
from io import BytesIO

import pytest
from django.db import InterfaceError, OperationalError
from django.test import Client
from django.urls import reverse
from psycopg.errors import DiskFull

from rapzel.accounts.models import SignUpAttempt, User
from rapzel.core.document.places import changed
from rapzel.core.physics import Physics
from rapzel.core.possible import read_possible_scene
from rapzel.core.rehearsal.render import RenderTooLong, render
from rapzel.kit.models import Camera
from rapzel.shoots import services
from rapzel.shoots.models import Scene
from tests.plans import LUNGE

SIGN_UP = {"password1": "seven moths at dusk", "password2": "seven moths at dusk"}


def upload(content: bytes | str, name: str = "scene.json") -> BytesIO:
    file = BytesIO(
        content.encode("utf-8", "surrogatepass")
        if isinstance(content, str)
        else content
    )
    file.name = name
    return file


def nested(depth: int) -> str:
    return '{"a":' * depth + "1" + "}" * depth


@pytest.mark.parametrize(
    ("document", "says"),
    [
        (
            json.dumps({"format": "rapzel.shoot", "scenes": [{}] * 300_000}),
            "up to 200 are taken at once",
        ),
        (json.dumps({"format": "rapzel.shoot", "scenes": [{}] * 150}), "more"),
        (
            json.dumps({**LUNGE, "x-deep": 1}).replace(
                '"x-deep": 1', f'"x-deep": {nested(600)}'
            ),
            "nested too deeply",
        ),
        (nested(200_000), "not JSON"),
        (json.dumps({**LUNGE, "name": "NUL \0"}), "control characters"),
        (json.dumps({**LUNGE, "name": "half \ud800"}), "halves of characters"),
        (
            json.dumps(
                {**LUNGE, "lens": {"focal_length_mm": 5e-324, "subject_distance_m": 4}}
            ),
            "must be 0.5 or more",
        ),
        ("\ufeff", "not JSON"),
    ],
)
def test_a_hostile_scene_file_is_refused_in_words(
    visitor, shoot, document: str, says: str
) -> None:
    answer = visitor.post(
        reverse("workbench:shoot_import", args=[shoot.pk]),
        {"file": upload(document)},
        follow=True,
    )
    assert answer.status_code == 200
    shown = answer.content.decode()
    assert "Nothing was imported." in shown
    assert says in shown
    assert not shoot.scenes.exists()


@pytest.mark.parametrize("size_m", [1000.0, 1e-4])
@pytest.mark.parametrize("subject", ["figure", "wheel", "drop"])
def test_a_subject_far_larger_than_the_frame_is_clipped_to_it(
    document, subject: str, size_m: float
) -> None:
    """A thousand metres in five centimetres took over a minute, and held the process; the budget ends what does."""
    giant = {
        "lens.field_width_m": 0.05,
        "rehearsal.subject": subject,
        "rehearsal.size_m": size_m,
    }
    made = Physics(
        read_possible_scene(
            changed(document, {**giant, "rehearsal.background": "white"})
        )
    )
    # raises RenderTooLong where it takes long
    shown = render(made, (240, 160), (60, 40))
    assert shown.frame.shape == (160, 240, 3)


def test_a_picture_has_a_budget_and_says_so(
    document, visitor, scene, monkeypatch
) -> None:
    made = Physics(read_possible_scene(document))
    with pytest.raises(RenderTooLong, match="takes too long to compute"):
        render(made, (240, 160), (60, 40), budget_s=0)
    monkeypatch.setattr(
        "rapzel.core.rehearsal.render.Budget.check",
        lambda _self: (_ for _ in ()).throw(RenderTooLong("too long")),
    )
    # another picture than any that is kept
    services.change_scene(scene, {"exposure.iso": 1600.0})
    assert (
        visitor.get(reverse("workbench:rehearsal", args=[scene.pk, "jpg"])).status_code
        == 422
    )


def test_texts_that_cannot_be_stored_are_refused_by_every_form(
    visitor, shoot, scene
) -> None:
    for url, data in (
        (reverse("workbench:shoot_add"), {"name": "NUL \0"}),
        (
            reverse("takes:add", args=[scene.pk]),
            {"outcome": "keep", "note": "bell \x07"},
        ),
        (
            reverse("workbench:set", args=[scene.pk]),
            {"path": "name", "value": "\x1b[2J"},
        ),
        (reverse("workbench:pin", args=[scene.pk]), {"name": "\x00"}),
    ):
        answer = visitor.post(url, data)
        assert answer.status_code == 400, url
        assert "holds a control character" in answer.content.decode()
    assert visitor.get(reverse("workbench:shoots"), {"page": "\0"}).status_code == 400


def test_a_stored_scene_that_a_newer_rule_refuses_closes_no_page(
    visitor, scene
) -> None:
    other = services.add_scene(scene.shoot, services.NEW_SCENE, "Sound one")
    services.pin(scene, "Before")
    broken = changed(scene.document, {"exposure.f_number": 1e-300})
    Scene.objects.filter(pk=scene.pk).update(document=broken)
    scene.snapshots.update(document=broken)
    shown = visitor.get(
        reverse("workbench:shoot", args=[scene.shoot_id])
    ).content.decode()
    assert "This scene cannot be answered" in shown
    assert other.name in shown
    page = visitor.get(reverse("workbench:scene", args=[scene.pk]))
    assert page.status_code == 422
    assert 'name="value:exposure.f_number"' in page.content.decode()
    assert "Must be 0.5 or more" in page.content.decode()
    assert visitor.get(reverse("workbench:compare", args=[other.pk])).status_code == 200
    for name in ("takes:list", "workbench:sheet", "workbench:compare"):
        assert visitor.get(reverse(name, args=[scene.pk])).status_code in (200, 422), (
            name
        )
    assert (
        visitor.get(reverse("workbench:scene_json", args=[scene.pk])).status_code == 200
    )
    sound = changed(scene.document, {"exposure.iso": 800})
    scene.revisions.create(number=1, document=sound, before="a lens that is none")
    Scene.objects.filter(pk=scene.pk).update(revision=2)
    mended = visitor.post(
        reverse("workbench:act", args=[scene.pk, "undo"]), {"page": "1"}, follow=True
    )
    assert mended.status_code == 200
    assert "ISO 800" in mended.content.decode()


def test_a_thing_with_absurd_figures_closes_no_list(visitor, owner) -> None:
    Camera.objects.create(owner=owner, name="Old body", sync_speed_s=5e-324)
    Camera.objects.create(owner=owner, name="Sound body")
    shown = visitor.get(reverse("kit:list")).content.decode()
    assert "Sound body" in shown
    assert "has a figure that no gear has" in shown


def test_pages_of_the_products_own_for_what_is_not_there(visitor, client) -> None:
    missing = visitor.get("/scenes/999999/")
    assert missing.status_code == 404
    assert "There is nothing here" in missing.content.decode()
    assert visitor.head(reverse("workbench:shoots")).status_code == 200
    strict = Client(enforce_csrf_checks=True)
    refused = strict.post(reverse("accounts:login"), {"username": "a", "password": "b"})
    assert refused.status_code == 403
    assert "Reload it and try again" in refused.content.decode()


def test_an_error_of_our_own_has_a_page_and_keeps_its_words_to_itself(
    visitor, monkeypatch
) -> None:
    def broken(*_args) -> None:
        raise RuntimeError("a secret of the server")

    monkeypatch.setattr("rapzel.workbench.views.shoots.Paginator", broken)
    visitor.raise_request_exception = False
    answer = visitor.get(reverse("workbench:shoots"))
    assert answer.status_code == 500
    assert (
        "Something went wrong on Rapzel&#x27;s side"
        in answer.content.decode().replace("'", "&#x27;")
    )
    assert "secret" not in answer.content.decode()


def of_the_disk() -> OperationalError:
    error = OperationalError("could not extend file")
    error.__cause__ = DiskFull()
    return error


@pytest.mark.parametrize(
    ("error", "status", "says"),
    [
        (
            OperationalError("server closed the connection"),
            503,
            "database does not answer",
        ),
        (InterfaceError("connection already closed"), 503, "database does not answer"),
        (of_the_disk(), 507, "disk is full"),
        (OSError(errno.ENOSPC, "No space left on device"), 507, "disk is full"),
    ],
)
def test_what_this_machine_lacks_is_said(
    visitor, monkeypatch, error, status, says
) -> None:
    def broken(*_args) -> None:
        raise error

    monkeypatch.setattr("rapzel.workbench.views.shoots.Paginator", broken)
    visitor.raise_request_exception = False
    answer = visitor.get(reverse("workbench:shoots"))
    assert answer.status_code == status
    body = answer.content.decode()
    assert says in body
    assert "What you had saved is kept." in body


def test_private_pages_are_not_kept_by_browsers(visitor, scene) -> None:
    for name, args in (
        ("workbench:shoots", []),
        ("workbench:scene", [scene.pk]),
        ("takes:list", [scene.pk]),
        ("kit:json", []),
    ):
        assert (
            visitor.get(reverse(name, args=args))["Cache-Control"]
            == "private, no-store"
        ), name


def test_a_part_of_a_page_is_told_to_log_in_where_it_stands(client, scene) -> None:
    answer = client.post(
        reverse("workbench:set", args=[scene.pk]),
        {"path": "name"},
        headers={"HX-Request": "true"},
    )
    assert (answer.status_code, answer["HX-Reswap"]) == (401, "none")


@pytest.mark.django_db
def test_a_name_that_no_account_can_have_is_refused_and_not_logged(client) -> None:
    answer = client.post(
        reverse("accounts:login"), {"username": "n" * 5000, "password": "x"}
    )
    assert answer.status_code == 200
    assert "at most 150 characters" in answer.content.decode()


@pytest.mark.django_db
def test_sign_up_tells_no_more_names_than_its_limit(settings, owner) -> None:
    settings.SIGN_UPS_AN_HOUR = 3
    tries = [
        Client()
        .post(reverse("accounts:sign_up"), {**SIGN_UP, "username": "owner"})
        .status_code
        for _ in range(4)
    ]
    assert tries == [422, 422, 422, 429]
    assert SignUpAttempt.objects.count() == 3


@pytest.mark.django_db
def test_behind_a_proxy_limits_go_by_the_caller_and_not_by_what_the_caller_claims(
    settings,
) -> None:
    settings.SIGN_UPS_AN_HOUR, settings.TRUSTED_PROXIES = 1, 1

    def sign_up(name: str, forwarded: str) -> int:
        data = {**SIGN_UP, "username": name}
        return (
            Client()
            .post(
                reverse("accounts:sign_up"),
                data,
                headers={"X-Forwarded-For": forwarded},
            )
            .status_code
        )

    assert sign_up("one", "203.0.113.7") == 302
    assert sign_up("two", "203.0.113.8") == 302, "another caller through the same proxy"
    assert sign_up("three", "198.51.100.1, 203.0.113.7") == 429, (
        "what stands to the left was sent by anybody"
    )
    assert User.objects.count() == 2


def test_wrong_passwords_close_a_name_for_one_caller_only(settings, owner) -> None:
    settings.TRUSTED_PROXIES = 1
    url = reverse("accounts:login")
    for _ in range(5):
        Client().post(
            url,
            {"username": "owner", "password": "wrong"},
            headers={"X-Forwarded-For": "203.0.113.7"},
        )
    right = {"username": "owner", "password": "a long enough one"}
    assert (
        Client()
        .post(url, right, headers={"X-Forwarded-For": "203.0.113.7"})
        .status_code
        == 429
    )
    assert (
        Client()
        .post(url, right, headers={"X-Forwarded-For": "203.0.113.8"})
        .status_code
        == 302
    )
