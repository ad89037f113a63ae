import copy

import pytest
from django.test import Client
from django.urls import reverse

from rapzel.accounts.models import User
from rapzel.kit.services import copy_starter_kit
from rapzel.shoots.models import Scene, Shoot
from rapzel.shoots.services import add_scene
from tests.apps.dial_plans import DROPS, GLASS
from tests.plans import LUNGE


@pytest.fixture
def owner(db) -> User:
    return User.objects.create_user("owner", password="a long enough one")


@pytest.fixture
def stranger(db) -> User:
    return User.objects.create_user("stranger", password="a long enough one")


@pytest.fixture
def shoot(owner: User) -> Shoot:
    return Shoot.objects.create(owner=owner, name="Season brochure")


@pytest.fixture
def scene(shoot: Shoot) -> Scene:
    return add_scene(shoot, copy.deepcopy(LUNGE))


@pytest.fixture
def kit(owner: User) -> User:
    copy_starter_kit(owner)
    return owner


@pytest.fixture
def visitor(owner: User) -> Client:
    """A browser-less client, logged in as the owner."""
    client = Client()
    client.force_login(owner)
    return client


@pytest.fixture
def glass(shoot) -> Scene:
    return add_scene(shoot, copy.deepcopy(GLASS), "Glass")


@pytest.fixture
def wax(shoot) -> Scene:
    return add_scene(shoot, copy.deepcopy(DROPS), "Wax")


@pytest.fixture
def post(visitor: Client, glass: Scene):
    """Posts to one of the dial-in page's addresses; the page's text, or the refusal's."""

    def send(name: str, scene: Scene = glass, status: int = 200, **data: object) -> str:
        answer = visitor.post(reverse(f"dialling:{name}", args=[scene.pk]), data)
        assert answer.status_code == status, answer.content.decode()[:400]
        scene.refresh_from_db()
        return answer.content.decode()

    return send
