"""A world in which every address of the site leads somewhere."""

from collections.abc import Callable

import pytest
from django.urls import reverse

from rapzel.kit.kinds import KINDS
from rapzel.kit.models import FigureRevision, Lens
from rapzel.kit.services import add_item
from rapzel.practice import services as drills
from rapzel.shoots import services
from tests.apps.conftest import kit, owner, scene, shoot, stranger, visitor
from tests.apps.rows import colour_row, finding_row, pictured_take, shot_row, trace_row

__all__ = ["kit", "owner", "scene", "shoot", "stranger", "visitor"]


@pytest.fixture
def address(scene, owner) -> Callable[[str, str], str]:
    services.pin(scene, "Before")
    known = {
        "shoot": scene.shoot_id,
        "scene": scene.pk,
        "snapshot": scene.snapshots.get().pk,
        "take": pictured_take(scene).pk,
        "shot": shot_row(scene).pk,
        "lens": Lens.objects.create(owner=owner, name="50 mm").pk,
        "strobe": add_item(owner, KINDS["strobes"], "New one").pk,
        "finding": finding_row(scene).pk,
        "trace": trace_row(owner).pk,
        "run": colour_row(owner).pk,
        "drill": drills.keep(owner, "leap", False, [0.01] * 6).pk,
        "figures": FigureRevision.objects.create(
            owner=owner, slug="cameras", item=1, what="a lag", figures={}
        ).pk,
    }

    def find(name: str, about: str) -> str:
        return reverse(name, args=[known.get(word, word) for word in about.split()])

    return find
