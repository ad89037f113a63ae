"""Drills: stored, judged, refused, taken along; and offsets of takes as people write them."""

import json
import zipfile
from datetime import timedelta

import pytest
from django.urls import reverse
from django.utils import timezone

from rapzel.core.shared.errors import UnitError
from rapzel.practice import services
from rapzel.practice.models import Drill
from rapzel.takes.models import Take
from rapzel.takes.offsets import late_s
from rapzel.takes.services import log_take
from rapzel.ui import archive

TRIES = [0.012, 0.03, -0.01, 0.02, 0.6, 0.0, 0.01, 0.02, 0.015, 0.03, 0.0, 0.005]


def sent(visitor, tries: object, what: str = "leap"):
    return visitor.post(
        reverse("practice:add"),
        {"what": what, "sound": "1", "tries": json.dumps(tries)},
    )


def test_a_drill_is_judged_and_stored(visitor, owner) -> None:
    answer = sent(visitor, TRIES).content.decode()
    assert "600 ms late, set aside" in answer
    assert "late on the mean" in answer.lower()
    drill = Drill.objects.visible_to(owner).get()
    assert drill.sound
    assert drill.result.counted == 11
    assert drill.way == "anticipates"
    shown = visitor.get(reverse("practice:page")).content.decode()
    assert "Anticipating" in shown
    assert "Bias and spread of your finger" in shown


@pytest.mark.parametrize(("tries", "what", "says"), [
    ([0.1, 0.2], "leap", "at least 5 tries"),
    ([0.1] * 61, "leap", "at most 60 tries"),
    ([5.0] * 12, "leap", "within 2 s"),
    (["soon"] * 12, "leap", "list of seconds"),
    ({"a": 1}, "leap", "list of seconds"),
    ([True] * 12, "leap", "list of seconds"),
    ([0.1] * 12, "dance", "A drill is one of"),
])  # fmt: skip
def test_what_is_no_drill_is_refused_and_not_stored(visitor, tries, what, says) -> None:
    assert says in sent(visitor, tries, what).content.decode()
    assert not Drill.objects.exists()
    visitor.post(reverse("practice:add"), {"what": "leap", "tries": "[0.1, NaN"})
    assert not Drill.objects.exists()


def test_the_trend_over_days_and_undo(visitor, owner) -> None:
    for day, spread in enumerate((0.08, 0.04, 0.01)):
        drill = services.keep(
            owner, "ball", False, [spread * (each % 5 - 2) for each in range(12)]
        )
        Drill.objects.filter(pk=drill.pk).update(
            at=timezone.now() - timedelta(days=3 - day)
        )
    shown = visitor.get(reverse("practice:page")).content.decode()
    assert "practice pays" in shown
    visitor.post(reverse("practice:remove", args=[drill.pk]))
    assert Drill.objects.visible_to(owner).count() == 2
    visitor.post(reverse("practice:take_back", args=[drill.pk]))
    assert Drill.objects.visible_to(owner).count() == 3


def test_drills_go_along_when_a_person_leaves(owner) -> None:
    services.keep(owner, "leap", False, TRIES)
    with zipfile.ZipFile(archive.archive_of(owner)) as zipped:
        lines = zipped.read("practice.csv").decode().splitlines()
    assert len(lines) == 13
    assert lines[5].endswith("0.6,True")


@pytest.mark.parametrize(("text", "outcome", "expected"), [
    ("5 ms late", "keep", 0.005), ("5 ms", "late", 0.005), ("5 ms", "early", -0.005), ("-3 ms", "late", -0.003),
    ("−3 ms", "late", -0.003), ("+2ms", "early", 0.002), ("9 cm early", "late", -0.01), ("9 cm", "late", 0.01),
    ("", "late", None),
])  # fmt: skip
def test_offsets_as_people_write_them(document, text, outcome, expected) -> None:
    """A length counts by the plan's speed: 9 cm at 9 m/s are 10 ms."""
    assert late_s(text, outcome, document) == (
        expected if expected is None else pytest.approx(expected)
    )


@pytest.mark.parametrize(
    "text", ["soon", "5", "five ms", "late", "2 h late", "9 apples"]
)
def test_offsets_that_are_none_are_explained(document, text) -> None:
    with pytest.raises(UnitError, match="Accepted"):
        late_s(text, "late", document)


def test_a_try_with_an_unread_offset_still_counts(scene) -> None:
    take = log_take(scene, "late", note="Foot gone.", off="quite")
    assert take.late_s is None
    assert take.note.startswith("Foot gone. Off by: “quite” is not")
    assert log_take(scene, "early", off="4 ms").late_s == pytest.approx(-0.004)
    assert Take.objects.count() == 2


def test_a_drill_that_is_sent_again_is_stored_once(visitor, owner) -> None:
    posted = {"what": "leap", "tries": json.dumps(TRIES), "key": "the same"}
    for _ in range(2):
        assert visitor.post(reverse("practice:add"), posted).status_code == 200
    assert Drill.objects.count() == 1


@pytest.mark.parametrize(
    "tries", [f"[{'9' * 400}]", "[1e999]", "[3600]", "[[1]]", "{}", "[null]"]
)
def test_tries_of_no_size_that_a_try_has_are_refused_in_words(
    visitor, tries: str
) -> None:
    answer = visitor.post(reverse("practice:add"), {"what": "leap", "tries": tries})
    assert answer.status_code == 422
    assert not Drill.objects.exists()
