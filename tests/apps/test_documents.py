"""The one door of stored documents: what is raised, named, validated and judged, and how often."""

import sys
from collections import Counter

import pytest
from django.urls import reverse

from rapzel.core import possible
from rapzel.core.document import places, upgrade
from rapzel.core.document import scene as core_scene
from rapzel.core.document.present import fingerprint_of, present
from rapzel.core.shared.errors import DocumentError
from rapzel.shoots import documents
from rapzel.shoots.models import Scene, Snapshot
from rapzel.workbench.answer import Answer
from tests.plans import LUNGE

STROBE = {
    "circuit": "quenched",
    "guide_number_m": 40.0,
    "durations": [{"power": 1.0, "t01_s": 0.001}],
}
OLD = {
    "format": "rapzel.scene",
    "version": 1,
    "motion": {"kind": "steady", "speed_m_s": 2.0},
    "camera": {
        "sensor_width_mm": 36.0, "sensor_height_mm": 24.0, "pixels_wide": 6000, "pixels_high": 4000,
        "sync_speed_s": 0.005, "curtain_travel_s": 0, "lag_s": 0,
    },
    "lens": {"focal_length_mm": 50.0, "subject_distance_m": 4.0},
    "exposure": {"shutter_s": 0.005, "f_number": 8.0, "iso": 100.0},
    "lights": [{"strobe": STROBE, "power": 1.0, "distance_m": 2.0}],
}  # fmt: skip


@pytest.fixture
def old(scene) -> Scene:
    """A row as an early version stored it."""
    Scene.objects.filter(pk=scene.pk).update(document=OLD)
    return Scene.objects.get(pk=scene.pk)


def test_a_row_is_read_as_a_document_of_today(old) -> None:
    assert old.document["version"] == 2
    assert old.document["camera"]["lag_s"] is None, (
        "zero was how version 1 said unknown"
    )
    assert [light["id"] for light in old.document["lights"]] == ["light-1"]
    pinned = Snapshot.objects.create(scene=old, name="Old", document=OLD)
    assert Snapshot.objects.get(pk=pinned.pk).document == old.document


def test_every_page_of_an_old_scene_calls_its_lights_alike(visitor, old, kit) -> None:
    """How many of this light one needs was a page that an older scene did not have."""
    asked = visitor.post(reverse("finding:how_many", args=[old.pk, "light-1"]))
    assert asked.status_code == 302
    nobody = visitor.post(reverse("finding:how_many", args=[old.pk, "light-9"]))
    assert nobody.status_code == 404


def test_a_fingerprint_is_of_what_stands_there_not_of_its_order() -> None:
    turned = dict(reversed(LUNGE.items()))
    assert list(turned) != list(LUNGE)
    assert fingerprint_of(turned) == fingerprint_of(LUNGE)
    assert fingerprint_of({**LUNGE, "name": "Another"}) != fingerprint_of(LUNGE)


def test_a_present_document_stays_and_its_copies_are_plain() -> None:
    first = present(LUNGE)
    assert present(first) is first
    assert not isinstance(places.copied(first), type(first))


class Counted:
    """How often functions of the core were called, wherever they are called from."""

    def __init__(self, **functions) -> None:
        self._names = {function.__code__: name for name, function in functions.items()}
        self.calls: Counter[str] = Counter()

    def __enter__(self) -> Counter[str]:
        sys.setprofile(self._note)
        return self.calls

    def __exit__(self, *error) -> None:
        sys.setprofile(None)

    def _note(self, frame, event, _) -> None:
        if event == "call" and frame.f_code in self._names:
            self.calls[self._names[frame.f_code]] += 1


def test_a_change_is_raised_named_validated_and_judged_once(visitor, glass) -> None:
    change = {"path": "exposure.iso", "value": "320"}
    counted = Counted(
        upgrade=upgrade.upgrade,
        identified=places.identified,
        validated=core_scene.read_scene,
        judged=possible.read_possible_scene,
        answered=Answer.__init__,
    )
    with counted as calls:
        assert (
            visitor.post(reverse("workbench:set", args=[glass.pk]), change).status_code
            == 200
        )
    assert calls["upgrade"] == 1, "when the row is read"
    assert calls["identified"] == 2, "when the row is read, and of what is stored"
    assert calls["validated"] == calls["judged"] == calls["answered"] == 1


def test_the_first_look_after_a_change_finds_the_answer_there(visitor, glass) -> None:
    visitor.post(
        reverse("workbench:set", args=[glass.pk]),
        {"path": "exposure.iso", "value": "250"},
    )
    with Counted(
        answered=Answer.__init__, judged=possible.read_possible_scene
    ) as calls:
        assert (
            visitor.get(reverse("workbench:scene", args=[glass.pk])).status_code == 200
        )
    assert calls == {}


def test_what_is_refused_is_not_remembered_as_judged() -> None:
    broken = {**LUNGE, "exposure": {**LUNGE["exposure"], "iso": -1}}
    for _ in range(2):
        with pytest.raises(DocumentError):
            documents.judged(broken)
