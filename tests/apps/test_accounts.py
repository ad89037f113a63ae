import pytest
from django.apps import apps
from django.test import Client
from django.urls import reverse

from rapzel.accounts.models import SignUpAttempt, User
from rapzel.demo.world import DEMO_USER, build
from rapzel.shoots.models import Scene, Shoot
from rapzel.takes.models import Take
from rapzel.workbench.answer import Answer

GOOD = {
    "username": "newcomer",
    "password1": "seven moths at dusk",
    "password2": "seven moths at dusk",
}


@pytest.mark.django_db
def test_signing_up_logs_in_and_begins_empty(client) -> None:
    shown = client.post(reverse("accounts:sign_up"), GOOD, follow=True).content.decode()
    assert "A shoot holds the scenes" in shown
    assert User.objects.get().username == "newcomer"


@pytest.mark.django_db
@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"password2": "other"}, "didn’t match"),
        ({"password1": "short", "password2": "short"}, "too short"),
        ({"password1": "password1", "password2": "password1"}, "too common"),
        ({"username": "two words"}, "valid username"),
    ],
)
def test_a_refused_sign_up_says_why(client, change, says) -> None:
    answer = client.post(reverse("accounts:sign_up"), {**GOOD, **change})
    assert answer.status_code == 422
    assert says in answer.content.decode()
    assert not User.objects.exists()


@pytest.mark.django_db
def test_sign_ups_from_one_address_are_limited(settings) -> None:
    settings.SIGN_UPS_AN_HOUR = 2
    for number in range(2):
        Client().post(reverse("accounts:sign_up"), {**GOOD, "username": f"one{number}"})
    refused = Client().post(reverse("accounts:sign_up"), {**GOOD, "username": "three"})
    assert refused.status_code == 429
    assert User.objects.count() == SignUpAttempt.objects.count() == 2


def test_five_wrong_passwords_close_the_name_for_a_while(
    client, owner, stranger
) -> None:
    url = reverse("accounts:login")
    for _ in range(5):
        answer = client.post(url, {"username": "owner", "password": "wrong"})
    assert answer.status_code == 429
    assert "Too many wrong passwords" in answer.content.decode()
    right = client.post(url, {"username": "owner", "password": "a long enough one"})
    assert right.status_code == 429, "the right one does not help either"
    assert (
        client.post(
            url, {"username": "stranger", "password": "a long enough one"}
        ).status_code
        == 302
    )


def test_preferences_are_kept_and_nonsense_is_not(visitor, owner) -> None:
    url = reverse("accounts:preferences")
    visitor.post(url, {"theme": "set", "imperial": "1"})
    visitor.post(url, {"theme": "neon"})
    owner.refresh_from_db()
    assert (owner.theme, owner.imperial) == ("set", True)
    assert (
        'data-theme="set"' in visitor.get(reverse("workbench:shoots")).content.decode()
    )


@pytest.mark.django_db
def test_the_demo_world_is_loaded_once(client) -> None:
    assert apps.is_installed("rapzel.demo")
    assert build()
    scene = Scene.objects.get(name="Lunge on black")
    Scene.objects.filter(pk=scene.pk).update(name="Mine now")
    assert build() is False, "a second start keeps what people changed"
    assert Scene.objects.get(pk=scene.pk).name == "Mine now"
    shown = client.post(reverse("demo:enter"), follow=True).content.decode()
    assert "Season brochure" in shown
    assert not User.objects.get(username=DEMO_USER).has_usable_password()


@pytest.mark.django_db
def test_the_demo_world_has_something_for_every_screen() -> None:
    build()
    shoot = Shoot.objects.get()
    scenes = list(shoot.scenes.all())
    assert len(scenes) >= 4
    assert Take.objects.count() >= 20
    assert any(scene.snapshots.exists() for scene in scenes)
    evaluations = [Answer(scene.document).evaluation for scene in scenes]
    assert any(evaluation.works for evaluation in evaluations)
    failing = {
        margin.name
        for evaluation in evaluations
        for margin in evaluation.margins
        if not margin.passes
    }
    assert {"freeze", "light", "sync", "pace"} <= failing, "and something to close"
