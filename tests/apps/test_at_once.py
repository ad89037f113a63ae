"""What is pressed twice, or in two tabs at the same moment: each is answered, and what is one thing is stored once."""

import json
import threading
from typing import Any

import pytest
from django.db import connection
from django.test import Client
from django.urls import reverse

from rapzel.accounts.models import User
from rapzel.dialling.models import DialIn
from rapzel.finding.models import Finding, KeptLimits
from rapzel.practice.models import Drill
from rapzel.takes.models import Take
from tests.apps.dial_plans import DELAY

AT_ONCE = 4
pytestmark = pytest.mark.django_db(transaction=True)


def _posted(clients: list[Client], url: str, data: dict[str, Any] | None) -> list[int]:
    """What each client's request was answered with, all sent at the same moment; without data they are looked at."""
    together, found = threading.Barrier(len(clients)), []

    def send(client: Client) -> None:
        client.raise_request_exception = False
        together.wait()
        answer = client.get(url) if data is None else client.post(url, data)
        found.append(answer.status_code)
        connection.close()

    threads = [threading.Thread(target=send, args=(client,)) for client in clients]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return found


@pytest.fixture
def tabs(owner) -> list[Client]:
    made = [Client() for _ in range(AT_ONCE)]
    for client in made:
        client.force_login(owner)
    return made


def test_a_dial_in_begun_in_several_tabs(tabs, glass) -> None:
    assert set(
        _posted(tabs, reverse("dialling:begin", args=[glass.pk]), {"path": DELAY})
    ) == {200}
    assert DialIn.objects.filter(ended_at=None).count() == 1


def test_a_try_sent_several_times(tabs, glass) -> None:
    tabs[0].post(reverse("dialling:begin", args=[glass.pk]), {"path": DELAY})
    sent = {"outcome": "early", "key": "the same", "tried": "0.003"}
    statuses = _posted(tabs, reverse("dialling:outcome", args=[glass.pk]), sent)
    assert 200 in statuses
    assert set(statuses) <= {200, 422}
    assert Take.objects.count() == 1


def test_a_take_and_a_drill_sent_several_times(tabs, scene) -> None:
    sent = {"outcome": "keep", "key": "the same"}
    assert set(_posted(tabs, reverse("takes:add", args=[scene.pk]), sent)) == {200}
    assert Take.objects.count() == 1
    drill = {"what": "leap", "tries": json.dumps([0.01] * 12), "key": "the same"}
    assert set(_posted(tabs, reverse("practice:add"), drill)) == {200}
    assert Drill.objects.count() == 1


def test_limits_of_its_own_asked_for_several_times(tabs, scene) -> None:
    url = reverse("finding:set_scope", args=[scene.pk, "find"])
    assert set(_posted(tabs, url, {"own": "1"})) == {302}
    assert KeptLimits.objects.filter(scene=scene).count() == 1


def test_one_search_looked_for_in_several_tabs(tabs, kit, scene) -> None:
    assert set(_posted(tabs, reverse("finding:find", args=[scene.pk]), None)) == {200}
    assert Finding.objects.count() == 1


def test_one_name_taken_by_several_at_once(db) -> None:
    sent = {
        "username": "newcomer",
        "password1": "seven moths at dusk",
        "password2": "seven moths at dusk",
    }
    statuses = _posted(
        [Client() for _ in range(AT_ONCE)], reverse("accounts:sign_up"), sent
    )
    assert sorted(statuses) == [302, *[422] * (AT_ONCE - 1)]
    assert User.objects.count() == 1
