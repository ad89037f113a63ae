"""The hunts, run by an option: pytest tests/hunt --hunt 10000."""

import json
from typing import Any

import pytest
from django.contrib.auth import get_user_model

from rapzel.demo.scenes import SCENES
from rapzel.demo.world import _document
from rapzel.finding.beginning import BEGINNINGS, begin
from rapzel.kit.services import copy_starter_kit
from tests.hunt import wholes

pytestmark = pytest.mark.django_db


@pytest.fixture
def bases() -> list[dict[str, Any]]:
    """The scenes of all beginnings with the starter's kit, and of the demo world."""
    owner = get_user_model().objects.create_user("hunter", password="only for tests")
    begun = [begin(owner, one).scene.document for one in BEGINNINGS.values()]
    copy_starter_kit(owner)
    shown = []
    for plan in SCENES:
        plan = {
            key: value for key, value in plan.items() if key not in ("pins", "takes")
        }
        shown.append(_document(owner, plan))
    return begun + shown


def test_wholes(bases, tmp_path_factory) -> None:
    json.dump(bases, open("/tmp/bases.json", "w"))
