"""Whose clock a time is shown on: a shoot's own, else the person's; and what leaves the page says the offset."""

import csv
import io
import json
from datetime import UTC, datetime

import pytest
from django.contrib.auth import get_user_model
from django.urls import reverse

from rapzel.shoots.models import Shoot
from rapzel.takes import services
from rapzel.takes.models import Take
from rapzel.takes.sent import Sent
from rapzel.ui import zones

# 12:30 in London's summer; the offsets of the zones are those of the tz database, from memory.
NOON = datetime(2027, 7, 1, 11, 30, 15, tzinfo=UTC)


@pytest.fixture
def taken(scene) -> Take:
    """A take whose moment is known."""
    take = services.log_take(scene, "keep")
    Take.objects.filter(pk=take.pk).update(at=NOON)
    return take


def in_zone(shoot: Shoot, zone: str) -> None:
    shoot.zone = zone
    shoot.save()


@pytest.mark.parametrize(
    ("zone", "shown", "written"),
    [
        ("", "1 Jul, 11:30:15", "2027-07-01T11:30:15.000000+00:00"),
        ("Europe/Berlin", "1 Jul, 13:30:15", "2027-07-01T13:30:15.000000+02:00"),
        ("America/St_Johns", "1 Jul, 09:00:15", "2027-07-01T09:00:15.000000-02:30"),
        ("Asia/Calcutta", "1 Jul, 17:00:15", "2027-07-01T17:00:15.000000+05:30"),
        ("Pacific/Auckland", "1 Jul, 23:30:15", "2027-07-01T23:30:15.000000+12:00"),
    ],
)
def test_the_log_stands_on_the_clock_of_the_shoot(
    client, owner, scene, taken, zone, shown, written
) -> None:
    in_zone(scene.shoot, zone)
    client.force_login(owner)
    page = client.get(reverse("takes:list", args=[scene.pk])).content.decode()
    assert shown in page
    table = client.get(reverse("takes:csv", args=[scene.pk])).content.decode()
    (row,) = csv.DictReader(io.StringIO(table))
    assert row["at"] == written
    assert datetime.fromisoformat(row["at"]) == NOON, "the instant stays what it was"


def test_without_a_zone_of_its_own_a_shoot_is_read_on_the_persons_clock(
    client, owner, scene, taken
) -> None:
    get_user_model().objects.filter(pk=owner.pk).update(zone="Europe/Berlin")
    client.force_login(owner)
    page = client.get(reverse("takes:list", args=[scene.pk])).content.decode()
    assert "1 Jul, 13:30:15" in page
    assert "Europe/Berlin" in page
    assert "Times are shown in UTC" not in page


def test_a_try_that_waited_does_not_change_its_hour(client, owner, scene) -> None:
    """The page shows a waiting try on the clock that it names for it; the log then shows the same."""
    in_zone(scene.shoot, "Europe/Berlin")
    client.force_login(owner)
    said = datetime.now(UTC).replace(microsecond=0)
    posted = {"outcome": "keep", "key": "one", "at": said.isoformat()}
    log = client.post(reverse("takes:add", args=[scene.pk]), posted).content.decode()
    there = said.astimezone(scene.shoot.clock)
    assert f"{there.day} {there:%b, %H:%M:%S}" in log
    page = client.get(reverse("takes:list", args=[scene.pk])).content.decode()
    assert 'data-clock="Europe/Berlin"' in page
    assert Sent.read(posted).at == said


def save(client, shoot, field, value):
    return client.post(
        reverse("workbench:shoot", args=[shoot.pk]), {"field": field, field: value}
    )


def test_hours_are_those_of_the_shoots_clock_and_stay_with_another_zone(
    client, owner, scene
) -> None:
    shoot = scene.shoot
    client.force_login(owner)
    save(client, shoot, "zone", "Europe/Berlin")
    assert save(client, shoot, "starts_at", "2027-07-01T09:00").status_code == 200
    shoot.refresh_from_db()
    assert shoot.starts_at == datetime(2027, 7, 1, 7, 0, tzinfo=UTC)
    assert (
        "09:00 (UTC+2)"
        in client.get(reverse("workbench:shoot", args=[shoot.pk])).content.decode()
    )

    save(client, shoot, "zone", "America/New_York")
    shoot.refresh_from_db()
    assert shoot.starts_at == datetime(2027, 7, 1, 13, 0, tzinfo=UTC), (
        "nine o'clock there"
    )
    get_user_model().objects.filter(pk=owner.pk).update(zone="Asia/Tokyo")
    save(client, shoot, "zone", "")
    shoot.refresh_from_db()
    assert shoot.starts_at == datetime(2027, 7, 1, 0, 0, tzinfo=UTC), (
        "nine o'clock on the owner's"
    )
    save(client, shoot, "zone", "America/New_York")
    document = json.loads(
        client.get(reverse("workbench:shoot_json", args=[shoot.pk])).content
    )
    assert document["starts_at"] == "2027-07-01T09:00:00-04:00"
    assert document["zone"] == "America/New_York"
    sheet = client.get(reverse("workbench:sheet", args=[scene.pk])).content.decode()
    assert "1 Jul 2027, 09:00 (UTC−4)" in sheet


def test_the_first_hour_of_a_shoot_fixes_its_zone(client, owner, scene) -> None:
    """Else it would move when its owner travels."""
    get_user_model().objects.filter(pk=owner.pk).update(zone="Europe/Berlin")
    Shoot.objects.update(zone="")
    client.force_login(owner)
    save(client, scene.shoot, "starts_at", "2027-07-01T09:00")
    get_user_model().objects.filter(pk=owner.pk).update(zone="Asia/Tokyo")
    page = client.get(
        reverse("workbench:shoot", args=[scene.shoot.pk])
    ).content.decode()
    assert "09:00 (UTC+2)" in page


@pytest.mark.parametrize(
    "zone", ["Nowhere/Land", "../../etc/passwd", "x" * 500, "Europe/Berlin\x00"]
)
def test_a_zone_that_is_none_is_refused(client, owner, scene, zone) -> None:
    client.force_login(owner)
    assert save(client, scene.shoot, "zone", zone).status_code in (400, 422)
    refused = client.post(reverse("accounts:preferences"), {"zone": zone})
    assert refused.status_code in (400, 422)
    scene.shoot.refresh_from_db()
    owner.refresh_from_db()
    assert scene.shoot.zone == owner.zone == ""


def test_the_door_takes_the_browsers_zone_once(client, owner) -> None:
    def come_in(zone: str) -> str:
        words = {
            "username": owner.username,
            "password": "a long enough one",
            "zone": zone,
        }
        client.post(reverse("accounts:login"), words)
        client.post(reverse("accounts:logout"))
        owner.refresh_from_db()
        return str(owner.zone)

    assert come_in("no such zone") == ""
    assert come_in("Europe/Berlin") == "Europe/Berlin"
    assert come_in("Asia/Tokyo") == "Europe/Berlin", (
        "what a person has is not changed by another browser"
    )


def test_a_person_chooses_the_clock(client, owner) -> None:
    client.force_login(owner)
    assert (
        "Times are shown in UTC"
        in client.get(reverse("accounts:account")).content.decode()
    )
    chosen = client.post(
        reverse("accounts:clock"), {"zone": "Asia/Kathmandu"}, follow=True
    )
    assert "Times are shown in Asia/Kathmandu (UTC+5:45)" in chosen.content.decode()
    nowhere = client.post(reverse("accounts:clock"), {"zone": ""}, follow=True)
    assert "Times are shown in UTC." in nowhere.content.decode(), (
        "not the zone from before"
    )
    refused = client.post(reverse("accounts:clock"), {"zone": "Nowhere"}, follow=True)
    assert "choose a time zone" in refused.content.decode()


def test_every_zone_that_is_offered_is_one() -> None:
    assert len(zones.names()) > 300
    assert all(
        zones.is_known(name) and len(name) <= zones.LONGEST_NAME
        for name in zones.names()
    )
