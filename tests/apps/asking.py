"""How tests speak to the pages of a scene: an input changed, a word of its limits, methods and searches asked for."""

from typing import Any

from django.test import Client
from django.urls import reverse

from rapzel.accounts.models import User
from rapzel.core.document.places import Document
from rapzel.core.possible import read_possible_scene
from rapzel.core.search.limits import Limits
from rapzel.finding import services
from rapzel.finding.kits import of_owner
from rapzel.finding.question import question_of
from rapzel.shoots.models import Scene

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


def kit_for(owner: User, scene: Scene) -> Any:
    return of_owner(owner, read_possible_scene(scene.document)).kit


def question(owner: User, scene: Scene, limits: Limits) -> str:
    return question_of(scene.document, kit_for(owner, scene), limits)


def put(visitor: Client, scene: Scene, path: str, value: str, **more: str) -> Any:
    """Changes one input of a scene, as its page does."""
    return visitor.post(
        reverse("workbench:set", args=[scene.pk]),
        {"path": path, "value": value, **more},
    )


def stored(scene: Scene) -> Document:
    """The document as it is in the database by now."""
    return Scene.objects.get(pk=scene.pk).document
