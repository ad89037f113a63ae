import csv
import io
import re
from datetime import timedelta

import pytest
from django.core.cache import caches
from django.urls import reverse
from django.utils import timezone

from rapzel.core.document.evidence import is_evidence
from rapzel.core.document.places import changed
from rapzel.shoots import services as scenes
from rapzel.takes import learning, services
from rapzel.takes.models import Outcome, Take
from rapzel.ui.quota import QuotaFull
from rapzel.workbench.answer import answered


def test_takes_are_numbered_and_carry_the_plan(scene) -> None:
    first = services.log_take(scene, "early")
    scenes.change_scene(scene, {"lights[0].power": 1 / 32, "exposure.iso": 400.0})
    second = services.log_take(scene, "keep", note="  Sharp.  ")
    assert (first.number, second.number) == (1, 2)
    assert second.document["lights"][0]["power"] == 1 / 32
    assert first.document["lights"][0]["power"] == 1 / 16
    assert second.changed == "Key Power 1/16 → 1/32, ISO 200 → 400", (
        "the plan tells what was changed"
    )
    assert second.note == "Sharp."


def test_what_is_said_outranks_what_the_plan_tells(scene) -> None:
    services.log_take(scene, "early")
    scenes.change_scene(scene, {"exposure.iso": 400.0})
    assert (
        services.log_take(scene, "late", changed="Fencer starts later").changed
        == "Fencer starts later"
    )


def test_a_removed_number_is_not_given_again(scene) -> None:
    services.log_take(scene, "early").put_away()
    assert services.log_take(scene, "keep").number == 2


def test_an_unknown_outcome_is_refused(visitor, scene) -> None:
    with pytest.raises(
        ValueError, match="one of keep, early, late, ghost, smear, band, missed"
    ):
        services.log_take(scene, "wonderful")
    answer = visitor.post(
        reverse("takes:add", args=[scene.pk]), {"outcome": "wonderful"}
    )
    assert answer.status_code == 422
    assert not Take.objects.exists()


def test_every_outcome_has_a_key_of_its_own() -> None:
    assert len({outcome.value[0] for outcome in Outcome}) == len(Outcome)


def test_the_log_answers_with_counts_and_rate(visitor, scene) -> None:
    for outcome in ("keep", "late", "late", "keep"):
        shown = visitor.post(
            reverse("takes:add", args=[scene.pk]), {"outcome": outcome}
        ).content.decode()
    assert "<b>2</b> of <b>4</b> kept: hit rate <b>50 %</b>" in shown
    assert "Late <b>2</b>" in shown
    assert "5 more tries for one more keeper" in shown  # 1 − ½^5 = 0.969


def test_an_empty_log_teaches(visitor, scene) -> None:
    assert (
        "After each try press one key"
        in visitor.get(reverse("takes:list", args=[scene.pk])).content.decode()
    )


def test_takes_are_removed_and_taken_back(visitor, scene) -> None:
    take = services.log_take(scene, "ghost")
    shown = visitor.post(
        reverse("takes:remove", args=[take.pk]), follow=True
    ).content.decode()
    assert "Take 1 was removed." in shown
    assert "Nothing logged yet" in shown
    visitor.post(reverse("takes:take_back", args=[take.pk]))
    assert (
        "Ghost" in visitor.get(reverse("takes:list", args=[scene.pk])).content.decode()
    )


def test_takes_leave_as_csv(visitor, scene) -> None:
    services.log_take(scene, "keep", note="=1+1")
    rows = list(
        csv.DictReader(
            io.StringIO(
                visitor.get(reverse("takes:csv", args=[scene.pk])).content.decode()
            )
        )
    )
    assert rows[0]["outcome"] == "keep"
    assert rows[0]["shutter_s"] == "0.005"
    assert rows[0]["powers"] == "Key 0.0625"
    assert rows[0]["note"] == "'=1+1", "no spreadsheet runs it"


def test_long_logs_come_in_pages(visitor, scene) -> None:
    Take.objects.bulk_create(
        Take(scene=scene, number=n, outcome="late", document=scene.document)
        for n in range(1, 121)
    )
    url = reverse("takes:list", args=[scene.pk])
    seen: list[int] = []
    address: str | None = url
    while address is not None:
        shown = visitor.get(address).content.decode()
        assert "of <b>120</b> kept" in shown, "the rate is that of all of them"
        seen += [
            int(number) for number in re.findall(r'<th scope="row">(\d+)</th>', shown)
        ]
        earlier = re.search(r'href="(\?before=\d+)">Earlier', shown)
        address = None if earlier is None else url + earlier[1]
    assert seen == list(range(120, 0, -1)), (
        "each once, the newest first, and no page for nothing"
    )
    assert "No earlier takes" in visitor.get(f"{url}?before=1").content.decode()
    for odd in ("x", "-5", "9" * 40):
        assert visitor.get(f"{url}?before={odd}").status_code == 200


def test_no_page_reads_the_plan_of_every_take(
    visitor, scene, django_assert_max_num_queries
) -> None:
    """Of forty takes of two plans the list reads two plans once, the table and what is learnt none."""
    other = changed(scene.document, {"exposure.iso": 800.0})
    Take.objects.bulk_create(
        Take(
            scene=scene,
            number=n,
            outcome="late",
            document=(scene.document, other)[n % 2],
        )
        for n in range(1, 41)
    )
    caches["fragments"].clear()
    for name, plans in (("list", 2), ("list", 0), ("csv", 0)):
        with django_assert_max_num_queries(20) as asked:
            visitor.get(reverse(f"takes:{name}", args=[scene.pk]))
        reading = [
            one["sql"]
            for one in asked.captured_queries
            if '"takes_take"."document"' in one["sql"]
        ]
        assert len(reading) == bool(plans), reading
        assert all(sql.count(",") < 6 for sql in reading), (
            "only the plans that differ are asked for"
        )


@pytest.mark.parametrize(
    ("values", "of_lateness", "of_landing"),
    [
        ({}, True, True),
        ({"exposure.iso": 800.0}, True, True),
        ({"name": "Another name"}, True, True),
        ({"lens.focal_length_mm": 85.0}, True, False),
        ({"lights[0].power": 1 / 128}, True, False),
        ({"trigger.set_delay_s": 0.123}, False, False),
        ({"camera.lag_s": 0.025}, False, False),
        ({"camera.name": "Another body"}, False, False),
        ({"subject.thick_m": 0.2}, False, False),
    ],
)
def test_a_take_teaches_of_the_plan_that_it_shares(
    scene, values, of_lateness, of_landing
) -> None:
    tried = changed(scene.document, values)
    assert is_evidence("lateness", tried, scene.document) == of_lateness
    assert is_evidence("landing", tried, scene.document) == of_landing
    Take.objects.create(scene=scene, number=1, outcome="late", document=tried)
    found = learning._of_today(scene, scene.document)
    assert [take.of_this_frame for take in found] == [of_landing] * of_lateness


@pytest.mark.parametrize(("flash_at", "teaches"), [(None, True), ("second", False)])
def test_a_take_with_another_exposure_teaches_only_by_the_first_curtain(
    scene, flash_at, teaches
) -> None:
    now = changed(scene.document, {"exposure.flash_at": flash_at})
    longer = changed(now, {"exposure.shutter_s": 0.02})
    Take.objects.create(scene=scene, number=1, outcome="late", document=longer)
    assert bool(learning._of_today(scene, now)) == teaches


def test_takes_of_another_body_do_not_teach_todays_delay(scene) -> None:
    """They moved the needed delay by 30 ms, and the page still said that the light was late."""
    slow = changed(scene.document, {"camera.lag_s": 0.055, "moment.lasts_s": 0.01})
    for number in range(1, 9):
        Take.objects.create(
            scene=scene, number=number, outcome="late", late_s=0.0139, document=slow
        )
    scenes.change_scene(scene, {"camera.lag_s": 0.025, "moment.lasts_s": 0.01})
    learnt = learning.learnt_of(scene, answered(scene.document))
    assert (learnt.hint, learnt.misses, learnt.next_delay_s) == ("", "", None)
    scenes.change_scene(scene, {"camera.lag_s": 0.055})
    again = learning.learnt_of(scene, answered(scene.document))
    assert "13.9 ms" in again.hint


def test_a_scene_of_an_early_version_learns_from_its_takes(scene) -> None:
    """Its row is as it was stored, its takes are raised: the same plan, in other words."""
    old = {**scene.document, "version": 1}
    type(scene).objects.filter(pk=scene.pk).update(document=old)
    scene.refresh_from_db()
    services.log_take(scene, "keep")
    assert len(learning._of_today(scene, scene.document)) == 1


def test_a_try_that_is_sent_again_is_not_logged_twice(visitor, scene) -> None:
    """Its answer was lost on the way: the same key is the same try."""
    url, sent = (
        reverse("takes:add", args=[scene.pk]),
        {"outcome": "keep", "note": "guard sharp", "key": "a1b2c3"},
    )
    for _ in range(3):
        assert visitor.post(url, sent).status_code == 200
    assert Take.objects.get().note == "guard sharp"
    visitor.post(url, {**sent, "key": "another"})
    assert Take.objects.count() == 2


@pytest.mark.parametrize(
    ("said", "believed"),
    [
        ("2 hours ago", True),
        ("in an hour", False),
        ("60 days ago", False),
        ("soon", False),
        ("2027-13-45T99:00Z", False),
    ],
)
def test_the_time_of_a_try_is_that_of_the_try_where_it_is_to_be_believed(
    visitor, scene, said: str, believed: bool
) -> None:
    ages = {
        "2 hours ago": timedelta(hours=2),
        "in an hour": -timedelta(hours=1),
        "60 days ago": timedelta(days=60),
    }
    at = (timezone.now() - ages[said]).isoformat() if said in ages else said
    visitor.post(
        reverse("takes:add", args=[scene.pk]), {"outcome": "keep", "key": "k", "at": at}
    )
    away = timezone.now() - Take.objects.get().at
    assert (away > timedelta(hours=1)) == believed


def test_a_full_log_has_room_again_once_takes_are_removed(
    visitor, scene, settings
) -> None:
    """Numbers are not given again, so the highest does not tell how many there are."""
    settings.QUOTAS = {**settings.QUOTAS, "takes of a scene": 2}
    first, _ = (services.log_take(scene, "keep") for _ in range(2))
    with pytest.raises(QuotaFull, match="2 are there"):
        services.log_take(scene, "keep")
    first.put_away()
    assert services.log_take(scene, "keep").number == 3
